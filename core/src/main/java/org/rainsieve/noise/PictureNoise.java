package org.rainsieve.noise;

import java.util.Arrays;
import java.util.List;
import org.rainsieve.frame.Picture;

/**
 * Reads the noise of a picture in full colour as it looks: the variance about a plane in small blocks, whatever its
 * scale. Unlike a sensor's it is correlated from pixel to pixel; the law is a summary, and denoising measures the scales
 * for itself.
 */
public final class PictureNoise {
    private static final int BLOCK = 16;
    private static final int MOST_BLOCKS = 12_000;
    private static final double OWN_ERROR = 0.05;

    private PictureNoise() {}

    /** @return null when the picture gives no answer: too small, or clipped nearly everywhere */
    public static NoiseReading read(Picture picture) {
        NoiseReading reading = read(picture, false);
        // In the dark, noise cut off at zero is everywhere: then what is left of it has to tell.
        return reading != null ? reading : read(picture, true);
    }

    private static NoiseReading read(Picture picture, boolean withEmpty) {
        NoiseFit[] fits = {new NoiseFit(), new NoiseFit(), new NoiseFit()};
        int across = picture.width() / BLOCK;
        int down = picture.height() / BLOCK;
        int stride = Math.max(1, (int) Math.sqrt((double) across * down / MOST_BLOCKS));
        for (int y = 0; y < down; y += stride) {
            for (int x = 0; x < across; x += stride) {
                for (int c = 0; c < 3; c++) {
                    block(picture, c, x * BLOCK, y * BLOCK, withEmpty, fits[c]);
                }
            }
        }
        Double[] a = new Double[3];
        Double[] b = new Double[3];
        double error = 0;
        for (int c = 0; c < 3; c++) {
            NoiseFit.Line line = fits[c].fit();
            if (line == null) {
                return null;
            }
            a[c] = line.a();
            b[c] = line.b();
            error = Math.max(error, fits[c].relativeSigmaError(Math.max(0, fits[c].middle())));
        }
        return new NoiseReading(new NoiseModel(List.of(a), List.of(b)), 100 * (2 * error + OWN_ERROR), 1);
    }

    private static void block(Picture picture, int channel, int x0, int y0, boolean withEmpty, NoiseFit fit) {
        double[] parts = new double[4];
        double[] means = new double[4];
        for (int part = 0; part < 4; part++) {
            int px = x0 + part % 2 * BLOCK / 2;
            int py = y0 + part / 2 * BLOCK / 2;
            if (!variance(picture, channel, px, py, withEmpty, parts, means, part)) {
                return;
            }
        }
        double mean = Arrays.stream(means).sum() / 4;
        double structure = 0;
        for (double m : means) {
            structure += (m - mean) * (m - mean) / 4;
        }
        Arrays.sort(parts);
        fit.add((float) mean, (float) ((parts[1] + parts[2]) / 2), (float) structure);
    }

    /** Variance about a least-squares plane of 8×8 pixels; false where the picture is clipped or empty. */
    private static boolean variance(
            Picture picture,
            int channel,
            int x0,
            int y0,
            boolean withEmpty,
            double[] variances,
            double[] means,
            int part) {
        int n = BLOCK / 2;
        double sum = 0;
        double sx = 0;
        double sy = 0;
        double squares = 0;
        double centre = (n - 1) / 2.0;
        for (int y = 0; y < n; y++) {
            for (int x = 0; x < n; x++) {
                boolean empty = !withEmpty && picture.emptyAt(channel, x0 + x, y0 + y);
                if (empty || picture.clippedAt(channel, x0 + x, y0 + y)) {
                    return false;
                }
                double v = picture.at(channel, x0 + x, y0 + y);
                sum += v;
                squares += v * v;
                sx += v * (x - centre);
                sy += v * (y - centre);
            }
        }
        int count = n * n;
        double spread = count * (n * n - 1) / 12.0;
        double rest = squares - sum * sum / count - sx * sx / spread - sy * sy / spread;
        variances[part] = Math.max(0, rest) / (count - 3);
        means[part] = sum / count;
        return true;
    }
}
