package org.rainsieve.mask;

import java.util.stream.IntStream;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.primitives.Convolution;

/**
 * What a frame shows in cells of {@link #cellPx()} pixels, as far as masks that are found need it: colour, texture, and how
 * much of the structure is fine. Made once for a frame, from its own pixels and its noise law alone.
 */
public final class FrameLook {
    /** Cells of so many bins. */
    private static final int BINS = 4;

    /** The bands between these Gaussians, in bins, are the fine and the coarse structure. */
    static final double[] SIGMAS = {0.8, 1.6, 3.2};

    /** Structure is gathered over (2·2 + 1)² cells, weighted to the middle. */
    private static final float[] AROUND = {1, 3, 4, 3, 1};

    private final int binPx;
    private final int columns;
    private final int rows;
    /** White-balanced red, green, blue as square roots, in which noise is nearly the same everywhere. */
    private final float[][] colour = new float[3][];
    /** Mean squares of the two bands, less what noise makes, and what noise makes. */
    private final float[] fine;

    private final float[] coarse;
    private final float[] fineNoise;
    private final float[] coarseNoise;

    private FrameLook(int binPx, int columns, int rows) {
        this.binPx = binPx;
        this.columns = columns;
        this.rows = rows;
        for (int c = 0; c < 3; c++) {
            colour[c] = new float[columns * rows];
        }
        fine = new float[columns * rows];
        coarse = new float[columns * rows];
        fineNoise = new float[columns * rows];
        coarseNoise = new float[columns * rows];
    }

    /** @param gains white-balance gains */
    public static FrameLook of(Capture capture, NoiseModel law, double[] gains) {
        int bin = capture.pattern().width() == 6 ? 3 : 2;
        int cell = bin * BINS;
        FrameLook look = new FrameLook(bin, Math.max(1, capture.width() / cell), Math.max(1, capture.height() / cell));
        int bands = (look.rows + 31) / 32;
        IntStream.range(0, bands).parallel().forEach(i -> look.band(capture, law, gains, i * 32));
        look.gather();
        return look;
    }

    public int cellPx() {
        return binPx * BINS;
    }

    public int columns() {
        return columns;
    }

    public int rows() {
        return rows;
    }

    int binPx() {
        return binPx;
    }

    float[] colour(int c) {
        return colour[c];
    }

    /** Of the cell that a place lies in. */
    float[] colourAt(double x, double y) {
        int column = Math.max(0, Math.min(columns - 1, (int) (x / cellPx())));
        int row = Math.max(0, Math.min(rows - 1, (int) (y / cellPx())));
        int i = row * columns + column;
        return new float[] {colour[0][i], colour[1][i], colour[2][i]};
    }

    float[] fine() {
        return fine;
    }

    float[] coarse() {
        return coarse;
    }

    float[] fineNoise() {
        return fineNoise;
    }

    float[] coarseNoise() {
        return coarseNoise;
    }

    /** Cells of 32 rows, and their bins with what the Gaussians reach around them. */
    private void band(Capture capture, NoiseModel law, double[] gains, int firstRow) {
        int reach = 12;
        int cellRows = Math.min(32, rows - firstRow);
        int w = columns * BINS + 2 * reach;
        int h = cellRows * BINS + 2 * reach;
        Planes pixels = new Planes(
                new Region(-reach * binPx, (firstRow * BINS - reach) * binPx, w * binPx, h * binPx),
                capture.channels());
        capture.fill(pixels);
        float[][] means = new float[3][w * h];
        float[] variance = new float[w * h];
        for (int y = 0; y < h; y++) {
            for (int x = 0; x < w; x++) {
                bin(capture, pixels, x, y, w, means, law, gains, variance, reach, firstRow);
            }
        }
        float[] light = new float[w * h];
        for (int i = 0; i < light.length; i++) {
            light[i] = (means[0][i] + 2 * means[1][i] + means[2][i]) / 4;
        }
        float[][] smooth = new float[3][];
        for (int k = 0; k < 3; k++) {
            smooth[k] = Convolution.separable(light, w, h, Convolution.gaussian(SIGMAS[k]));
        }
        double gainFine = noiseGain(SIGMAS[0], SIGMAS[1]);
        double gainCoarse = noiseGain(SIGMAS[1], SIGMAS[2]);
        for (int cy = 0; cy < cellRows; cy++) {
            for (int cx = 0; cx < columns; cx++) {
                int to = (firstRow + cy) * columns + cx;
                double f = 0;
                double c = 0;
                double v = 0;
                double[] sums = new double[3];
                for (int k = 0; k < BINS * BINS; k++) {
                    int i = (reach + cy * BINS + k / BINS) * w + reach + cx * BINS + k % BINS;
                    double df = smooth[0][i] - smooth[1][i];
                    double dc = smooth[1][i] - smooth[2][i];
                    f += df * df;
                    c += dc * dc;
                    v += variance[i];
                    for (int channel = 0; channel < 3; channel++) {
                        sums[channel] += means[channel][i];
                    }
                }
                int n = BINS * BINS;
                for (int channel = 0; channel < 3; channel++) {
                    colour[channel][to] = (float) Math.sqrt(Math.max(0, sums[channel] / n));
                }
                fine[to] = (float) (f / n);
                coarse[to] = (float) (c / n);
                fineNoise[to] = (float) (gainFine * v / n);
                coarseNoise[to] = (float) (gainCoarse * v / n);
            }
        }
    }

    private void bin(
            Capture capture,
            Planes pixels,
            int x,
            int y,
            int w,
            float[][] means,
            NoiseModel law,
            double[] gains,
            float[] variance,
            int reach,
            int firstRow) {
        double[] sums = new double[3];
        int[] counts = new int[3];
        int px0 = (x - reach) * binPx;
        int py0 = (firstRow * BINS - reach + y) * binPx;
        for (int k = 0; k < binPx * binPx; k++) {
            int px = px0 + k % binPx;
            int py = py0 + k / binPx;
            int i = pixels.index(px, py);
            if (pixels.channels() == 3) {
                for (int c = 0; c < 3; c++) {
                    sums[c] += pixels.channel(c)[i];
                    counts[c]++;
                }
            } else {
                int c = capture.pattern().colourAt(px, py);
                sums[c] += pixels.channel(0)[i];
                counts[c]++;
            }
        }
        double v = 0;
        for (int c = 0; c < 3; c++) {
            double mean = sums[c] / counts[c];
            double weight = (c == 1 ? 0.5 : 0.25) * gains[c];
            means[c][y * w + x] = (float) (mean * gains[c]);
            v += weight * weight * law.variance(c, mean) / counts[c];
        }
        variance[y * w + x] = (float) v;
    }

    /** Mean squares over the cells around, and noise taken off. */
    private void gather() {
        for (float[] plane : new float[][] {fine, coarse, fineNoise, coarseNoise}) {
            float[] wide = around(plane, columns, rows);
            System.arraycopy(wide, 0, plane, 0, plane.length);
        }
        for (int i = 0; i < fine.length; i++) {
            fine[i] -= fineNoise[i];
            coarse[i] -= coarseNoise[i];
        }
    }

    private static float[] around(float[] plane, int w, int h) {
        return Convolution.separable(plane, w, h, Convolution.normalised(AROUND));
    }

    /** Variance that independent noise of variance 1 has in the band between two Gaussians. */
    private static double noiseGain(double fineSigma, double coarseSigma) {
        float[] f = Convolution.gaussian(fineSigma);
        float[] c = Convolution.gaussian(coarseSigma);
        double ff = 0;
        double cc = 0;
        double fc = 0;
        for (int i = 0; i < c.length; i++) {
            int j = i - (c.length - f.length) / 2;
            double a = j >= 0 && j < f.length ? f[j] : 0;
            ff += a * a;
            cc += c[i] * c[i];
            fc += a * c[i];
        }
        return ff * ff + cc * cc - 2 * fc * fc;
    }
}
