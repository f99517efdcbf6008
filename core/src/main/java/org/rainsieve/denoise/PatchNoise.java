package org.rainsieve.denoise;

import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.demosaic.Demosaic;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;

/**
 * The variance of noise in each coefficient of the blocks that {@link PatchScales} works on, size by size and plane by plane:
 * interpolation, and a camera's own processing, leave it uneven.
 */
final class PatchNoise {
    private static final int SIDE = 512;
    private static final int RIM = 16;
    private static final long SEED = 20261126;

    /**
     * By how much noise that reaches over several pixels counts for more than its variance: like blocks overlap, so that theirs
     * is not independent. On white noise 1 would be right.
     */
    private static final float OVERLAP = 1.6f;

    /** Middle of the finest diagonal details, cycles per pixel. */
    private static final double FINEST = 0.53;

    /** Of unit noise in one colour alone: colour, size, plane, coefficient. */
    private static final Map<CfaPattern, float[][][][]> OF_COLOURS = new ConcurrentHashMap<>();

    private PatchNoise() {}

    /**
     * Of an interpolated mosaic: measured once for each pattern on noise alone, whose directions are left to chance.
     *
     * @param balanced tells the noise in red, green and blue
     */
    static float[][][] of(CfaPattern pattern, BalancedMosaic balanced) {
        float[][][][] ofColours = OF_COLOURS.computeIfAbsent(pattern, PatchNoise::measured);
        float[][][] noise = new float[PatchScales.SIZES][3][BlockTransform.AREA];
        for (int size = 0; size < noise.length; size++) {
            for (int plane = 0; plane < 3; plane++) {
                for (int k = 0; k < BlockTransform.AREA; k++) {
                    for (int c = 0; c < 3; c++) {
                        noise[size][plane][k] +=
                                OVERLAP * balanced.sd(c) * balanced.sd(c) * ofColours[c][size][plane][k];
                    }
                }
            }
        }
        return noise;
    }

    /**
     * Of a picture in full colour, taken to be alike in all directions.
     *
     * @param scales for each plane the variances of the finest diagonal details, scale by scale
     */
    static float[][][] of(float[][] scales) {
        float[][][] noise = new float[PatchScales.SIZES][scales.length][BlockTransform.AREA];
        for (int size = 0; size < noise.length; size++) {
            for (int plane = 0; plane < scales.length; plane++) {
                for (int k = 0; k < BlockTransform.AREA; k++) {
                    double across = Math.hypot(k % BlockTransform.SIDE, k / BlockTransform.SIDE);
                    // The mean of a block holds what is slower than its slowest wave.
                    double frequency = Math.max(0.5, across) / (2 * BlockTransform.SIDE << size);
                    noise[size][plane][k] = (float) (OVERLAP * density(scales[plane], frequency) / (1 << 2 * size));
                }
            }
        }
        return noise;
    }

    /** Power of the noise against white noise of unit variance, between scales by straight lines over the logarithms. */
    private static double density(float[] scales, double cyclesPerPx) {
        double at = Math.log(FINEST / cyclesPerPx) / Math.log(2);
        int scale = (int) Math.max(0, Math.min(scales.length - 2, Math.floor(at)));
        double share = Math.max(0, Math.min(1, at - scale));
        double finer = Math.log(scales[scale] * Math.pow(4, scale + 1));
        double coarser = Math.log(scales[scale + 1] * Math.pow(4, scale + 2));
        return Math.exp(finer + share * (coarser - finer));
    }

    private static float[][][][] measured(CfaPattern pattern) {
        Demosaic interpolation = Patch.interpolation(pattern);
        Region inside = new Region(0, 0, SIDE, SIDE);
        Region all = inside.grow(interpolation.margin() + 12 - interpolation.margin() % 12);
        SplittableRandom random = new SplittableRandom(SEED);
        byte[] decision = interpolation.decide(white(all, random));
        Planes noise = white(all, random);
        float[][][][] found = new float[3][PatchScales.SIZES][][];
        for (int c = 0; c < 3; c++) {
            Planes alone = new Planes(all, 1);
            for (int y = all.y(); y < all.bottom(); y++) {
                for (int x = all.x(); x < all.right(); x++) {
                    int i = all.width() * (y - all.y()) + x - all.x();
                    alone.channel(0)[i] = pattern.colourAt(x, y) == c ? noise.channel(0)[i] : 0;
                }
            }
            Planes colours = new Planes(inside, 3);
            interpolation.interpolate(alone, decision, colours);
            Patch.rotate(colours);
            for (int size = 0; size < PatchScales.SIZES; size++) {
                found[c][size] = new float[][] {variances(colours, 0), variances(colours, 1), variances(colours, 2)};
                Region r = colours.region();
                colours = PatchScales.half(colours, new Region(0, 0, r.width() / 2, r.height() / 2));
            }
        }
        return found;
    }

    private static Planes white(Region region, SplittableRandom random) {
        Planes out = new Planes(region, 1);
        for (int i = 0; i < out.channel(0).length; i++) {
            out.channel(0)[i] = (float) Chance.normal(random);
        }
        return out;
    }

    /** Mean squares of the coefficients of all blocks. */
    private static float[] variances(Planes of, int channel) {
        Region r = of.region();
        float[][] rows = PatchFilter.rows(of.channel(channel), r.width());
        int blocks = BlockTransform.blocksIn(r.width(), 1);
        BlockTransform transform = new BlockTransform(r.width(), 1);
        float[] coefficients = new float[blocks * BlockTransform.AREA];
        double[] sums = new double[BlockTransform.AREA];
        int n = 0;
        for (int y = RIM; y < rows.length - RIM - BlockTransform.SIDE; y++) {
            transform.forward(rows, y, coefficients, 0);
            for (int x = RIM; x < blocks - RIM; x++, n++) {
                for (int k = 0; k < BlockTransform.AREA; k++) {
                    float value = coefficients[x * BlockTransform.AREA + k];
                    sums[k] += value * value;
                }
            }
        }
        float[] variances = new float[BlockTransform.AREA];
        for (int k = 0; k < variances.length; k++) {
            variances[k] = (float) Math.max(1e-4, sums[k] / n);
        }
        return variances;
    }
}
