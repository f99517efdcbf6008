package org.rainsieve.quality;

import org.rainsieve.colour.RgbSpace;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Structural similarity of two pictures as they are shown in sRGB, 1 when alike: Wang, Bovik, Sheikh, Simoncelli, IEEE TIP
 * 13(4), 2004, with their Gaussian window (σ 1.5, 11×11) and constants (0.01, 0.03), the mean of the three colours.
 */
public final class Ssim {
    private static final int RADIUS = 5;
    private static final double SIGMA = 1.5;
    private static final double C1 = 0.01 * 0.01;
    private static final double C2 = 0.03 * 0.03;

    private Ssim() {}

    /** @param shown factors of the three channels that bring the pictures to how they are shown, before sRGB encoding */
    public static double ssim(Planes picture, Planes truth, Region region, double[] shown) {
        double sum = 0;
        for (int c = 0; c < 3; c++) {
            sum += ssim(
                    encoded(picture, c, region, shown[c]),
                    encoded(truth, c, region, shown[c]),
                    region.width(),
                    region.height());
        }
        return sum / 3;
    }

    private static double[] encoded(Planes planes, int c, Region region, double factor) {
        double[] out = new double[region.width() * region.height()];
        for (int i = 0; i < out.length; i++) {
            double v = planes.at(c, region.x() + i % region.width(), region.y() + i / region.width()) * factor;
            out[i] = RgbSpace.encode(Math.min(1, Math.max(0, v)));
        }
        return out;
    }

    /** Of two grey pictures of values from 0 to 1; means are taken where the whole window lies inside. */
    static double ssim(double[] a, double[] b, int width, int height) {
        double[] meanA = smoothed(a, a.length, width, null);
        double[] meanB = smoothed(b, a.length, width, null);
        double[] squareA = smoothed(a, a.length, width, a);
        double[] squareB = smoothed(b, a.length, width, b);
        double[] product = smoothed(a, a.length, width, b);
        double sum = 0;
        long count = 0;
        for (int y = RADIUS; y < height - RADIUS; y++) {
            for (int x = RADIUS; x < width - RADIUS; x++) {
                int i = y * width + x;
                double variance = squareA[i] - meanA[i] * meanA[i] + squareB[i] - meanB[i] * meanB[i];
                double covariance = product[i] - meanA[i] * meanB[i];
                sum += (2 * meanA[i] * meanB[i] + C1)
                        * (2 * covariance + C2)
                        / ((meanA[i] * meanA[i] + meanB[i] * meanB[i] + C1) * (variance + C2));
                count++;
            }
        }
        return sum / count;
    }

    /** Gaussian means of a, or of a · b; values near the rim are not defined. */
    private static double[] smoothed(double[] a, int n, int width, double[] b) {
        double[] kernel = new double[2 * RADIUS + 1];
        double total = 0;
        for (int k = -RADIUS; k <= RADIUS; k++) {
            kernel[k + RADIUS] = Math.exp(-k * k / (2 * SIGMA * SIGMA));
            total += kernel[k + RADIUS];
        }
        double[] rows = new double[n];
        double[] out = new double[n];
        for (int i = RADIUS; i < n - RADIUS; i++) {
            double sum = 0;
            for (int k = -RADIUS; k <= RADIUS; k++) {
                sum += kernel[k + RADIUS] * (b == null ? a[i + k] : a[i + k] * b[i + k]);
            }
            rows[i] = sum / total;
        }
        for (int i = RADIUS * width; i < n - RADIUS * width; i++) {
            double sum = 0;
            for (int k = -RADIUS; k <= RADIUS; k++) {
                sum += kernel[k + RADIUS] * rows[i + k * width];
            }
            out[i] = sum / total;
        }
        return out;
    }
}
