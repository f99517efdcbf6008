package org.rainsieve.scene;

import java.util.SplittableRandom;
import java.util.function.IntBinaryOperator;
import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.Chance;

/**
 * A sensor that counts photons: shot noise of variance a·x (Poisson), read noise of variance b, a filter array,
 * quantisation and clipping. Each row has its own random stream, so the same seed gives the same file.
 *
 * @param pattern its filters; {@link #MONOCHROME} for none, when it answers as its green would
 * @param black sample value of no light
 * @param white sample value at which it clips
 */
public record SimulatedSensor(CfaPattern pattern, int black, int white, Flaws flaws) {
    /** No filters: every photosite alike. */
    public static final CfaPattern MONOCHROME = new CfaPattern(1, 1, new byte[] {1});

    /**
     * What is wrong with one body, always in the same places, and with the exposure at hand.
     *
     * @param body tells bodies apart
     * @param hotShare share of photosites that glow
     * @param hotLevel how brightly at most, 1.0 = clipping
     * @param badColumnShare share of columns that, from some row on, answer too brightly or too darkly
     * @param bandingSd sd of what is added to whole rows, other ones in each exposure, 1.0 = clipping
     */
    public record Flaws(long body, double hotShare, double hotLevel, double badColumnShare, double bandingSd) {
        public static final Flaws NONE = new Flaws(0, 0, 0, 0, 0);

        public Flaws(long body, double hotShare, double hotLevel) {
            this(body, hotShare, hotLevel, 0, 0);
        }

        /** What a photosite adds to the light; nearly always 0. */
        double glow(int x, int y) {
            if (hotShare == 0 || Texture.hash(x, y, 1, body) >= hotShare) {
                return 0;
            }
            double u = Texture.hash(x, y, 2, body);
            return hotLevel * (0.1 + 0.9 * u * u);
        }

        /** What a bad column adds from its first bad row on; 0 in good ones. */
        double columnOffset(int x, int y, int height) {
            if (badColumnShare == 0 || Texture.hash(x, 0, 3, body) >= badColumnShare) {
                return 0;
            }
            boolean bad = y >= height * Texture.hash(x, 0, 4, body);
            return bad ? 0.05 * (Texture.hash(x, 0, 5, body) - 0.35) : 0;
        }

        /** What a row has added to it; neighbouring rows share half of it. */
        double rowOffset(int y, long seed) {
            if (bandingSd == 0) {
                return 0;
            }
            return bandingSd * (rowChance(y, seed) + rowChance(y >> 3, seed + 1)) / Math.sqrt(2);
        }

        private static double rowChance(int y, long seed) {
            return Chance.normal(new SplittableRandom(seed * 31 + y * 7919L + 17));
        }
    }

    public SimulatedSensor(CfaPattern pattern, int black, int white) {
        this(pattern, black, white, Flaws.NONE);
    }

    /** @param camera clean linear camera values of the whole picture, 1.0 = clipping */
    public Mosaic expose(Planes camera, double a, double b, long seed) {
        int width = camera.region().width();
        int height = camera.region().height();
        short[] samples = new short[width * height];
        double readSd = Math.sqrt(b);
        IntStream.range(0, height).parallel().forEach(y -> {
            SplittableRandom random = new SplittableRandom(seed * 1_000_003 + y);
            double row = flaws.rowOffset(y, seed);
            for (int x = 0; x < width; x++) {
                double clean = Math.max(0, camera.at(pattern.colourAt(x, y), x, y)) + flaws.glow(x, y);
                double seen = a > 0 ? a * Chance.photons(clean / a, random) : clean;
                double offset = row + flaws.columnOffset(x, y, height);
                samples[y * width + x] = quantised(seen + offset + readSd * Chance.normal(random));
            }
        });
        return new Mosaic(width, height, samples, pattern, new float[] {black}, 1, 1, white);
    }

    /** Samples of the covered photosites around the picture, by column and row counted from its corner: read noise only. */
    public IntBinaryOperator covered(double b, long seed) {
        double readSd = Math.sqrt(b);
        return (x, y) -> {
            SplittableRandom random = new SplittableRandom(seed * 1_000_003 + y * 65_537L + x + 0x5eed);
            return quantised(flaws.rowOffset(y, seed) + readSd * Chance.normal(random)) & 0xffff;
        };
    }

    private short quantised(double value) {
        return (short) Math.max(0, Math.min(white, Math.round(black + value * (white - black))));
    }
}
