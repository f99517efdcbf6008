package org.rainsieve.pipeline;

import java.util.ArrayList;
import java.util.List;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseFit;

/**
 * Measures the noise of a return while it is written, on smooth 16×16 blocks. What is smooth is judged on the estimate; for the law
 * that the return tells on that of the blocks around: where no grain is kept the estimate is what is written, and blocks chosen by
 * themselves would be those that happen to have the least noise (half of what there is was told then). The noise of a block is its
 * variance about a fitted plane.
 */
public final class ReturnMeasurement {
    private static final int BLOCK = 16;
    private static final double LEAST_S = 1e-8;

    /** Grain is told from at least so many smooth pixels: its standard error is then 2 % at most. */
    private static final int LEAST_SMOOTH_PX = 50_000;

    private record Pair(double structure, double before, double after) {}

    private final NoiseFit[] fits = {NoiseFit.ofUnevenNoise(), NoiseFit.ofUnevenNoise(), NoiseFit.ofUnevenNoise()};
    private final NoiseFit grain = new NoiseFit();
    private final List<Pair> luminance = new ArrayList<>();
    private final double[] gains;

    public ReturnMeasurement(double[] gains) {
        this.gains = gains.clone();
    }

    /** Takes a sample of the blocks of one tile; out holds what is written. */
    public void add(DenoisedTile tile, Planes out) {
        Region region = tile.estimate().region();
        double[] block = new double[BLOCK * BLOCK];
        for (int y = region.y() + BLOCK; y + 2 * BLOCK <= region.bottom(); y += 2 * BLOCK) {
            for (int x = region.x() + BLOCK; x + 2 * BLOCK <= region.right(); x += 2 * BLOCK) {
                addBlock(tile, out, x, y, block);
            }
        }
    }

    private void addBlock(DenoisedTile tile, Planes out, int x, int y, double[] block) {
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < block.length; i++) {
                block[i] = out.at(c, x + i % BLOCK, y + i / BLOCK);
                if (block[i] >= 0.999) {
                    return;
                }
            }
        }
        double[] grey = new double[block.length];
        double[] greyBefore = new double[block.length];
        double[] greyAfter = new double[block.length];
        for (int c = 0; c < 3; c++) {
            double mean = 0;
            for (int i = 0; i < block.length; i++) {
                int px = x + i % BLOCK;
                int py = y + i / BLOCK;
                float e = tile.estimate().at(c, px, py);
                block[i] = out.at(c, px, py);
                mean += block[i] / block.length;
                grey[i] += e * gains[c];
                greyBefore[i] += (e + tile.residual().at(c, px, py)) * gains[c];
                greyAfter[i] += block[i] * gains[c];
            }
            fits[c].add((float) mean, (float) varianceAboutPlane(block), (float) around(tile.estimate(), x, y, c));
        }
        double structure = varianceAboutPlane(grey);
        double before = varianceAboutPlane(greyBefore);
        double after = varianceAboutPlane(greyAfter);
        double middle = 0;
        for (double value : grey) {
            middle += value / 3 / grey.length;
        }
        grain.add((float) middle, (float) (after / 9), (float) (structure / 9));
        if (before > 0) {
            synchronized (luminance) {
                luminance.add(new Pair(structure / before, before, after));
            }
        }
    }

    /** The most structure of a colour among the four blocks beside one. */
    private static double around(Planes estimate, int x, int y, int colour) {
        double most = 0;
        double[] block = new double[BLOCK * BLOCK];
        for (int side = 0; side < 4; side++) {
            int x0 = x + (side == 0 ? -BLOCK : side == 1 ? BLOCK : 0);
            int y0 = y + (side == 2 ? -BLOCK : side == 3 ? BLOCK : 0);
            for (int i = 0; i < block.length; i++) {
                block[i] = estimate.at(colour, x0 + i % BLOCK, y0 + i / BLOCK);
            }
            most = Math.max(most, varianceAboutPlane(block));
        }
        return most;
    }

    /** Least squares of a + bx + cy on the square block, whose coordinates are orthogonal about its centre. */
    private static double varianceAboutPlane(double[] v) {
        double sum = 0;
        double sx = 0;
        double sy = 0;
        double centre = (BLOCK - 1) / 2.0;
        for (int i = 0; i < v.length; i++) {
            sum += v[i];
            sx += v[i] * (i % BLOCK - centre);
            sy += v[i] * (i / BLOCK - centre);
        }
        double spread = v.length * (BLOCK * BLOCK - 1) / 12.0;
        double rest = 0;
        for (int i = 0; i < v.length; i++) {
            double plane = sum / v.length + sx / spread * (i % BLOCK - centre) + sy / spread * (i / BLOCK - centre);
            rest += (v[i] - plane) * (v[i] - plane);
        }
        return rest / (v.length - 3);
    }

    /** As {@link #grainAtMidGrey(double)} for a frame shown as it was exposed. */
    public double grainAtMidGrey() {
        return grainAtMidGrey(1);
    }

    /**
     * Sd of the return's luminance noise where it is shown as 18 % grey, 1.0 = clipping; NaN when it cannot be told.
     *
     * @param brightened by how much the frame is brightened to be shown, 2^push
     */
    public double grainAtMidGrey(double brightened) {
        NoiseFit.Line line = grain.fit();
        boolean enough = line != null && line.blocks() * BLOCK * BLOCK >= LEAST_SMOOTH_PX;
        return enough ? brightened * Math.sqrt(line.a() * 0.18 / brightened + line.b()) : Double.NaN;
    }

    /** Luminance noise after ÷ before in the smoothest quarter of the blocks; 1 when there is nothing to compare. */
    public double noiseLeft() {
        synchronized (luminance) {
            if (luminance.isEmpty()) {
                return 1;
            }
            luminance.sort((p, q) -> Double.compare(p.structure, q.structure));
            double[] ratios = luminance.subList(0, (luminance.size() + 3) / 4).stream()
                    .mapToDouble(p -> p.after / p.before)
                    .sorted()
                    .toArray();
            return Math.sqrt(ratios[ratios.length / 2]);
        }
    }

    public LinearDngWriter.Measured measured() {
        double[] profile = new double[6];
        for (int c = 0; c < 3; c++) {
            NoiseFit.Line line = fits[c].fit();
            profile[2 * c] = Math.max(LEAST_S, line == null ? 0 : line.a());
            profile[2 * c + 1] = line == null ? 0 : line.b();
        }
        return new LinearDngWriter.Measured(profile, noiseLeft());
    }
}
