package org.rainsieve.reading;

import java.util.ArrayList;
import java.util.List;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;

/**
 * A mosaic's white-balanced luminance, smoothed alike everywhere: each place of the pattern has a kernel of its own whose sum
 * is 1, whose centre is that place and whose variance is the same in all directions. For 2×2 patterns that is the 3×3
 * binomial over all colours. For 6×6 ones the greens within {@value #REACH_6} px are taken by a binomial times the quadratic
 * that gives it those moments (as in local polynomial regression; Fan & Gijbels 1996, ch. 3).
 */
final class MosaicLuminance {
    private static final int REACH_6 = 2;
    private static final double[] BINOMIAL_2 = {1, 2, 1};
    private static final double[] BINOMIAL_6 = {1, 4, 6, 4, 1};
    private static final double VARIANCE_2 = 0.5;
    private static final double VARIANCE_6 = 1;

    private final Mosaic mosaic;
    private final double[] gains;
    private final int reach;
    private final double variance;
    /** By place in the pattern; (2·reach + 1)² weights, row by row. */
    private final float[][] kernels;

    /** @param gains white-balance gains */
    MosaicLuminance(Mosaic mosaic, double[] gains) {
        this.mosaic = mosaic;
        this.gains = gains;
        CfaPattern pattern = mosaic.pattern();
        boolean six = !pattern.isBayer();
        reach = six ? REACH_6 : 1;
        variance = six ? VARIANCE_6 : VARIANCE_2;
        kernels = new float[pattern.width() * pattern.height()][];
        for (int i = 0; i < kernels.length; i++) {
            kernels[i] =
                    six ? greens(pattern, i % pattern.width(), i / pattern.width()) : product(BINOMIAL_2, 1.0 / 16);
        }
    }

    /** What the smoothing adds to the variance of a blur, px². */
    double variance() {
        return variance;
    }

    private static float[] product(double[] binomial, double scale) {
        int side = binomial.length;
        float[] kernel = new float[side * side];
        for (int i = 0; i < kernel.length; i++) {
            kernel[i] = (float) (binomial[i / side] * binomial[i % side] * scale);
        }
        return kernel;
    }

    private static float[] greens(CfaPattern pattern, int px, int py) {
        float[] weights = product(BINOMIAL_6, 1.0 / 256);
        int side = BINOMIAL_6.length;
        for (int i = 0; i < weights.length; i++) {
            if (pattern.colourAt(px + i % side - REACH_6, py + i / side - REACH_6) != 1) {
                weights[i] = 0;
            }
        }
        // 1, x, y, x², y², xy, made orthonormal over the greens; beside each the moment it is to have.
        double[] wanted = {1, 0, 0, VARIANCE_6, VARIANCE_6, 0};
        List<double[]> basis = new ArrayList<>();
        List<Double> moments = new ArrayList<>();
        for (int f = 0; f < 6; f++) {
            double[] values = new double[weights.length];
            for (int i = 0; i < values.length; i++) {
                double x = i % side - REACH_6;
                double y = (double) (i / side) - REACH_6;
                values[i] = new double[] {1, x, y, x * x, y * y, x * y}[f];
            }
            double moment = wanted[f];
            for (int k = 0; k < basis.size(); k++) {
                double share = inner(weights, values, basis.get(k));
                for (int i = 0; i < values.length; i++) {
                    values[i] -= share * basis.get(k)[i];
                }
                moment -= share * moments.get(k);
            }
            double length = Math.sqrt(inner(weights, values, values));
            for (int i = 0; i < values.length; i++) {
                values[i] /= length;
            }
            basis.add(values);
            moments.add(moment / length);
        }
        float[] kernel = new float[weights.length];
        for (int i = 0; i < kernel.length; i++) {
            double factor = 0;
            for (int k = 0; k < basis.size(); k++) {
                factor += moments.get(k) * basis.get(k)[i];
            }
            kernel[i] = (float) (weights[i] * factor);
        }
        return kernel;
    }

    private static double inner(float[] weights, double[] p, double[] q) {
        double sum = 0;
        for (int i = 0; i < weights.length; i++) {
            sum += weights[i] * p[i] * q[i];
        }
        return sum;
    }

    /** The luminance of w × w pixels; beyond the picture's rim it is mirrored. */
    float[] square(int x0, int y0, int w) {
        CfaPattern pattern = mosaic.pattern();
        int wide = w + 2 * reach;
        float[] values = new float[wide * wide];
        for (int y = 0; y < wide; y++) {
            int row = mosaic.row(y0 - reach + y);
            for (int x = 0; x < wide; x++) {
                int px = x0 - reach + x;
                values[y * wide + x] =
                        (float) (mosaic.at(mosaic.column(px), row) * gains[pattern.colourAt(px, y0 - reach + y)]);
            }
        }
        float[] out = new float[w * w];
        int side = 2 * reach + 1;
        for (int y = 0; y < w; y++) {
            int phaseRow = Math.floorMod(y0 + y, pattern.height()) * pattern.width();
            for (int x = 0; x < w; x++) {
                float[] kernel = kernels[phaseRow + Math.floorMod(x0 + x, pattern.width())];
                float sum = 0;
                for (int k = 0; k < kernel.length; k++) {
                    sum += kernel[k] * values[(y + k / side) * wide + x + k % side];
                }
                out[y * w + x] = sum;
            }
        }
        return out;
    }
}
