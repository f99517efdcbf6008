package org.rainsieve.noise;

import java.util.Arrays;
import java.util.List;
import java.util.stream.IntStream;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;

/**
 * Reads the noise law from one mosaic. Fine differences inside 16×16 blocks of each colour plane tell the noise (median
 * absolute deviation / 0.6745, Donoho & Johnstone 1994), means of 4×4 tell the structure, and {@link NoiseFit} does the
 * rest.
 */
public final class NoiseReader {
    private static final int BLOCK = 16;
    /** What texture that looks like noise adds, which no comparison within the frame can tell: 3 % (measured on scenes). */
    private static final double OWN_ERROR = 0.03;

    private static final int MAX_CUT = BLOCK * BLOCK / 20;

    /** Said of a frame that gives no answer. */
    public static final String NO_ANSWER =
            "The noise of this frame cannot be read: it has too few pixels that are neither clipped nor empty.";

    private NoiseReader() {}

    /** @throws RefusedException when the picture gives no answer: too small, or clipped nearly everywhere */
    public static NoiseModel read(Mosaic mosaic) throws RefusedException {
        return model(fits(mosaic));
    }

    /** The law of a mosaic or of a picture, whose noise is read in a way of its own. */
    public static NoiseModel law(Capture capture) throws RefusedException {
        if (capture instanceof Mosaic mosaic) {
            return read(mosaic);
        }
        NoiseReading reading = PictureNoise.read((Picture) capture);
        if (reading == null) {
            throw new RefusedException(NO_ANSWER);
        }
        return reading.law();
    }

    /** Law, interval and kind of the noise; null when the picture gives no answer. */
    public static NoiseReading readFully(Mosaic mosaic) {
        NoiseFit[] fits = fits(mosaic);
        try {
            NoiseModel law = model(fits);
            double error = 0;
            for (NoiseFit fit : fits) {
                error = Math.max(error, fit.relativeSigmaError(Math.max(0, fit.middle())));
            }
            return new NoiseReading(law, 100 * (2 * error + OWN_ERROR), NoiseKind.coarseToFine(mosaic));
        } catch (RefusedException e) {
            return null;
        }
    }

    private static NoiseFit[] fits(Mosaic mosaic) {
        NoiseFit[] fits = {new NoiseFit(), new NoiseFit(), new NoiseFit()};
        if (!mosaic.pattern().isBayer()) {
            SixBySixBlocks.read(mosaic, fits);
            return fits;
        }
        int period = 2 * BLOCK;
        // Every block of a small frame, a regular sample of a large one.
        int blocksAcross = mosaic.width() / period;
        int blocksDown = mosaic.height() / period;
        int stride = Math.max(1, (int) Math.sqrt(blocksAcross * (double) blocksDown / 6000));
        IntStream.range(0, blocksDown / stride).parallel().forEach(row -> {
            float[] block = new float[BLOCK * BLOCK];
            float[] fine = new float[BLOCK * BLOCK / 4];
            for (int column = 0; column < blocksAcross / stride; column++) {
                for (int phase = 0; phase < 4; phase++) {
                    int x0 = column * stride * period + (phase & 1);
                    int y0 = row * stride * period + (phase >> 1);
                    readBlock(mosaic, x0, y0, block, fine, fits[mosaic.pattern().colourAt(x0, y0)]);
                }
            }
        });
        return fits;
    }

    private static NoiseModel model(NoiseFit[] fits) throws RefusedException {
        Double[] a = new Double[3];
        Double[] b = new Double[3];
        for (int c = 0; c < 3; c++) {
            NoiseFit.Line line = fits[c].fit();
            if (line == null) {
                throw new RefusedException(NO_ANSWER);
            }
            a[c] = line.a();
            b[c] = line.b();
        }
        return new NoiseModel(List.of(a), List.of(b));
    }

    private static void readBlock(Mosaic mosaic, int x0, int y0, float[] block, float[] fine, NoiseFit fit) {
        double sum = 0;
        int cut = 0;
        for (int y = 0; y < BLOCK; y++) {
            for (int x = 0; x < BLOCK; x++) {
                int px = x0 + 2 * x;
                int py = y0 + 2 * y;
                int sample = mosaic.sample(px, py);
                // A median stands a few values cut at either end, not many.
                if ((sample >= mosaic.white() || sample == 0) && ++cut > MAX_CUT) {
                    return;
                }
                float value = mosaic.at(px, py);
                block[y * BLOCK + x] = value;
                sum += value;
            }
        }
        int n = 0;
        for (int y = 0; y < BLOCK; y += 2) {
            for (int x = 0; x < BLOCK; x += 2) {
                int i = y * BLOCK + x;
                fine[n++] = Math.abs(block[i] - block[i + 1] - block[i + BLOCK] + block[i + BLOCK + 1]) / 2;
            }
        }
        Arrays.sort(fine);
        double sd = (fine[n / 2 - 1] + fine[n / 2]) / 2 / 0.6745;
        double mean = sum / block.length;
        fit.add((float) mean, (float) (sd * sd), structure(block, mean));
    }

    /** Variance of the 4×4 means, which holds a sixteenth of the noise and most of the structure. */
    private static float structure(float[] block, double mean) {
        double sum = 0;
        for (int by = 0; by < BLOCK; by += 4) {
            for (int bx = 0; bx < BLOCK; bx += 4) {
                double part = 0;
                for (int k = 0; k < 16; k++) {
                    part += block[(by + (k >> 2)) * BLOCK + bx + (k & 3)];
                }
                sum += Math.pow(part / 16 - mean, 2);
            }
        }
        return (float) (sum / 16);
    }
}
