package org.rainsieve.noise;

import java.util.stream.IntStream;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;

/**
 * Reads the noise law from one mosaic. Second differences inside small blocks of each colour plane tell the noise (median
 * absolute deviation / 0.6745, Donoho & Johnstone 1994), those between means of four tell the structure, and {@link SensorNoiseFit} does the
 * rest.
 */
public final class NoiseReader {
    private static final int BLOCK = 16;

    /** For small frames, of which there would be too few of the others. */
    private static final int SMALL_BLOCK = 8;

    private static final int FEW_BLOCKS = 600;
    private static final int MOST_PLACES = 6000;

    /** What texture that looks like noise adds, which no comparison within the frame can tell: 3 % (measured on scenes). */
    private static final double OWN_ERROR = 0.03;

    private NoiseReader() {}

    /** Law, interval and kind of the noise; null when the pixels give no answer: too few, or clipped nearly everywhere. */
    public static NoiseReading read(Capture capture) {
        return capture instanceof Mosaic mosaic ? read(mosaic) : PictureNoise.read((Picture) capture);
    }

    /** The same of a mosaic. */
    public static NoiseReading read(Mosaic mosaic) {
        Steps steps = new Steps(mosaic);
        SensorNoiseFit fit = new SensorNoiseFit(mosaic.floor(), steps.variance());
        if (mosaic.pattern().isBayer()) {
            readBayer(mosaic, steps, fit);
        } else {
            SixBySixBlocks.read(mosaic, steps, fit);
        }
        SensorNoiseFit.Fitted fitted = fit.fit();
        if (fitted == null) {
            return null;
        }
        return new NoiseReading(
                fitted.law(),
                percent(fitted.errorAtMiddle()),
                NoiseKind.coarseToFine(mosaic),
                percent(fitted.errorAtBlack()),
                percent(fitted.errorAtGrey()));
    }

    private static double percent(double standardError) {
        return 100 * (2 * standardError + OWN_ERROR);
    }

    /**
     * A mosaic's values as if they had not been rounded to steps: each is set off by chance within its step, always alike, so that
     * medians of differences do not fall on a few values. What lies on the floor or at white stays there.
     */
    static final class Steps {
        private final Mosaic mosaic;
        private final float step;
        private final int floorSample;

        Steps(Mosaic mosaic) {
            this.mosaic = mosaic;
            this.step = mosaic.step();
            this.floorSample = mosaic.floorSample();
        }

        float at(int x, int y) {
            int sample = mosaic.sample(x, y);
            float value = mosaic.at(x, y);
            if (sample <= floorSample) {
                return value + step / 2;
            }
            if (sample >= mosaic.white()) {
                return value - step / 2;
            }
            int hash = (x * 0x9E3779B1 ^ y * 0x85EBCA6B) * 0xC2B2AE35;
            hash ^= hash >>> 15;
            hash *= 0x2C1B3C6D;
            return value + step * ((hash >>> 8 & 0xffff) / 65536f - 0.5f);
        }

        /** Whether a sample lies on the floor or at white. */
        boolean cut(int x, int y) {
            int sample = mosaic.sample(x, y);
            return sample <= floorSample || sample >= mosaic.white();
        }

        /** What rounding adds to the noise; setting values off adds as much again, which is not the sensor's. */
        double variance() {
            return step * step / 12.0;
        }
    }

    private static void readBayer(Mosaic mosaic, Steps steps, SensorNoiseFit fit) {
        int across = mosaic.width() / (2 * BLOCK);
        int down = mosaic.height() / (2 * BLOCK);
        int block = 4 * across * down < FEW_BLOCKS ? SMALL_BLOCK : BLOCK;
        int period = 2 * block;
        // Every block of a small frame, a regular sample of a large one.
        int blocksAcross = mosaic.width() / period;
        int blocksDown = mosaic.height() / period;
        int stride = Math.max(1, (int) Math.sqrt(blocksAcross * (double) blocksDown / MOST_PLACES));
        IntStream.range(0, blocksDown / stride).parallel().forEach(row -> {
            float[] values = new float[block * block];
            for (int column = 0; column < blocksAcross / stride; column++) {
                for (int phase = 0; phase < 4; phase++) {
                    int x0 = column * stride * period + (phase & 1);
                    int y0 = row * stride * period + (phase >> 1);
                    int cut = 0;
                    for (int i = 0; i < values.length; i++) {
                        int x = x0 + i % block * 2;
                        int y = y0 + i / block * 2;
                        values[i] = steps.at(x, y);
                        cut += steps.cut(x, y) ? 1 : 0;
                    }
                    addBlock(values, block, mosaic.pattern().colourAt(x0, y0), (double) cut / values.length, fit);
                }
            }
        });
    }

    private static void addBlock(float[] values, int side, int colour, double cutShare, SensorNoiseFit fit) {
        double sum = 0;
        for (float value : values) {
            sum += value;
        }
        float[] fine = new float[side * side / 4];
        int n = 0;
        for (int y = 0; y < side; y += 2) {
            for (int x = 0; x < side; x += 2) {
                int i = y * side + x;
                fine[n++] = Math.abs(values[i] - values[i + 1] - values[i + side] + values[i + side + 1]) / 2;
            }
        }
        double mean = sum / values.length;
        fit.add(colour, (float) mean, fine, structure(values, side), cutShare);
    }

    /**
     * Mean square of the differences between means of 2×2 (Haar's, in three directions), in units in which white noise has the
     * variance of single samples. Texture has more there than in the finest differences, of which this is independent.
     */
    private static float structure(float[] v, int side) {
        double sum = 0;
        for (int y = 0; y < side; y += 4) {
            for (int x = 0; x < side; x += 4) {
                double p = four(v, side, x, y);
                double q = four(v, side, x + 2, y);
                double r = four(v, side, x, y + 2);
                double s = four(v, side, x + 2, y + 2);
                sum += Math.pow(p - q + r - s, 2) + Math.pow(p + q - r - s, 2) + Math.pow(p - q - r + s, 2);
            }
        }
        return (float) (sum / 16 / (3 * v.length / 16));
    }

    private static double four(float[] v, int side, int x, int y) {
        int i = y * side + x;
        return v[i] + v[i + 1] + v[i + side] + v[i + side + 1];
    }
}
