package org.rainsieve.quality;

import java.util.Locale;
import org.rainsieve.frame.Region;

/**
 * Sharpness of a straight, slightly slanted edge by the method of ISO 12233:2017: pixels are projected along the edge into
 * bins of a quarter of a pixel, differentiated, windowed and transformed. The edge must run within 45° of the vertical and
 * cross all rows of the region.
 */
public final class SlantedEdge {
    private static final int OVERSAMPLING = 4;

    private final double[] profile;
    private final double[] spread;

    /** @param values one channel of the region, row by row, linear */
    public SlantedEdge(float[] values, Region region) {
        int w = region.width();
        int h = region.height();
        double[] at = new double[h];
        double sumY = 0;
        double sumX = 0;
        double sumYY = 0;
        double sumXY = 0;
        for (int y = 0; y < h; y++) {
            double weights = 0;
            double centre = 0;
            for (int x = 1; x < w - 1; x++) {
                double slope = values[y * w + x + 1] - values[y * w + x - 1];
                double hann = 0.5 - 0.5 * Math.cos(2 * Math.PI * x / (w - 1));
                weights += slope * hann;
                centre += slope * hann * x;
            }
            at[y] = centre / weights;
            sumY += y;
            sumX += at[y];
            sumYY += (double) y * y;
            sumXY += y * at[y];
        }
        double slope = (h * sumXY - sumX * sumY) / (h * sumYY - sumY * sumY);
        double start = (sumX - slope * sumY) / h;
        double across = 1 / Math.hypot(1, slope);
        int bins = OVERSAMPLING * (w / 2);
        double[] sum = new double[bins];
        double[] count = new double[bins];
        for (int y = 0; y < h; y++) {
            for (int x = 0; x < w; x++) {
                double distance = (x - start - slope * y) * across;
                int bin = (int) Math.floor(distance * OVERSAMPLING + bins / 2.0);
                if (bin >= 0 && bin < bins) {
                    sum[bin] += values[y * w + x];
                    count[bin]++;
                }
            }
        }
        profile = new double[bins];
        for (int i = 0; i < bins; i++) {
            if (count[i] == 0) {
                throw new IllegalArgumentException(
                        String.format(Locale.ROOT, "The edge is too straight to be read: nothing falls at %d", i));
            }
            profile[i] = sum[i] / count[i];
        }
        spread = new double[bins];
        for (int i = 1; i < bins - 1; i++) {
            double window = 0.54 + 0.46 * Math.cos(2 * Math.PI * (i - (bins - 1) / 2.0) / bins);
            spread[i] = (profile[i + 1] - profile[i - 1]) / 2 * window;
        }
    }

    /** Contrast that is left at a frequency, in cycles per pixel; 1 at rest. */
    public double mtf(double cyclesPerPixel) {
        double re = 0;
        double im = 0;
        double rest = 0;
        for (int i = 0; i < spread.length; i++) {
            double phase = 2 * Math.PI * cyclesPerPixel * i / OVERSAMPLING;
            re += spread[i] * Math.cos(phase);
            im += spread[i] * Math.sin(phase);
            rest += spread[i];
        }
        // The difference over two bins is itself a filter, taken out as the standard does; so is the bin's width.
        double difference = sinc(2 * cyclesPerPixel / OVERSAMPLING) * sinc(cyclesPerPixel / OVERSAMPLING);
        return Math.hypot(re, im) / Math.abs(rest) / difference;
    }

    private static double sinc(double x) {
        return Math.abs(x) < 1e-9 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
    }

    /** The frequency at which half the contrast is left; 1 where it never falls so low. */
    public double mtf50() {
        double before = 1;
        for (double f = 0.005; f < 1; f += 0.005) {
            double value = mtf(f);
            if (value < 0.5) {
                return f - 0.005 * (0.5 - value) / (before - value);
            }
            before = value;
        }
        return 1;
    }

    /** How far the edge goes beyond its plateaus, as a share of its height: the larger of both sides. */
    public double overshoot() {
        int plateau = profile.length / 8;
        double low = 0;
        double high = 0;
        for (int i = 0; i < plateau; i++) {
            low += profile[i] / plateau;
            high += profile[profile.length - 1 - i] / plateau;
        }
        double least = profile[0];
        double most = profile[0];
        for (double value : profile) {
            least = Math.min(least, value);
            most = Math.max(most, value);
        }
        double height = Math.abs(high - low);
        return Math.max(Math.min(low, high) - least, most - Math.max(low, high)) / height;
    }
}
