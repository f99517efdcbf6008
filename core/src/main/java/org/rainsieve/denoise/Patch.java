package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/**
 * The method that needs no training: like blocks of the picture denoise each other ({@link PatchFilter}), at full resolution,
 * on the stabilised and balanced mosaic, where like blocks have the same colours at the same places. The wavelets' estimate
 * ({@link Quick}) is the pilot in which blocks are matched first, and what is larger than a block, which wavelets see
 * and blocks do not, is taken from it.
 */
public final class Patch implements DenoiseMethod {
    private static final int STEP = 4;

    /** Of the difference to the pilot this share is taken over, and all of what is coarse in it: 0.1 to 0.5 dB on nine photographs. */
    private static final float PILOT_SHARE = 0.15f;

    private final Quick wavelets = new Quick();

    @Override
    public int margin(CfaPattern pattern) {
        int period = pattern.width();
        return wavelets.margin(pattern) + PatchFilter.reach(period) + 2 * reachOfMeans(period) * period;
    }

    /** Means over 5 × 5 photosites of a colour, 3 × 3 where they lie far apart. */
    private static int reachOfMeans(int period) {
        return period == 2 ? 2 : 1;
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, NoiseModel noise, double[] gains) {
        Planes out = wavelets.estimate(noisy, pattern, noise, gains);
        Region all = noisy.region();
        // Beyond that the pilot is not what it would be in another tile.
        Region told = all.grow(-wavelets.margin(pattern));
        Region region = told.width() < BlockTransform.SIDE || told.height() < BlockTransform.SIDE ? all : told;
        BalancedMosaic balanced = new BalancedMosaic(region, pattern, noise, gains);
        int period = pattern.width();
        PatchFilter filter = new PatchFilter(region.width(), region.height(), region.x(), region.y(), STEP, period);
        float[] pilot = balanced.ofEstimate(part(out, region));
        float[] estimate = filter.estimate(balanced.of(part(noisy, region)), pilot);
        float[] difference = pilot;
        for (int i = 0; i < pilot.length; i++) {
            difference[i] -= estimate[i];
        }
        float[] coarse = difference;
        for (int pass = 0; pass < 2; pass++) {
            coarse = means(coarse, region.width(), period, 1, reachOfMeans(period));
            coarse = means(coarse, region.width(), period, region.width(), reachOfMeans(period));
        }
        for (int y = 0; y < region.height(); y++) {
            int to = out.index(region.x(), region.y() + y);
            for (int x = 0; x < region.width(); x++) {
                int i = y * region.width() + x;
                float value = estimate[i] + coarse[i] + PILOT_SHARE * difference[i];
                out.channel(0)[to + x] = balanced.back(i, value);
            }
        }
        return out;
    }

    /** Means of those of the same colour to both sides, along rows (stride 1) or columns (stride width); less far at the rim. */
    private static float[] means(float[] in, int width, int period, int stride, int reach) {
        float[] out = new float[in.length];
        int length = stride == 1 ? width : in.length / width;
        for (int i = 0; i < in.length; i++) {
            int place = stride == 1 ? i % width : i / width;
            int most = Math.min(reach, Math.min(place, length - 1 - place) / period);
            float sum = in[i];
            for (int k = 1; k <= most; k++) {
                sum += in[i - k * period * stride] + in[i + k * period * stride];
            }
            out[i] = sum / (2 * most + 1);
        }
        return out;
    }

    private static Planes part(Planes of, Region region) {
        Planes part = new Planes(region, 1);
        part.copyFrom(of);
        return part;
    }
}
