package org.rainsieve.scene;

import java.util.SplittableRandom;
import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;

/**
 * A sensor that counts photons: shot noise of variance a·x (Poisson), read noise of variance b, a filter array,
 * quantisation and clipping. Each row has its own random stream, so the same seed gives the same file.
 *
 * @param black sample value of no light
 * @param white sample value at which it clips
 */
public record SimulatedSensor(CfaPattern pattern, int black, int white, Flaws flaws) {

    /**
     * What is wrong with one body, always in the same places.
     *
     * @param body tells bodies apart
     * @param hotShare share of photosites that glow
     * @param hotLevel how brightly at most, 1.0 = clipping
     */
    public record Flaws(long body, double hotShare, double hotLevel) {
        public static final Flaws NONE = new Flaws(0, 0, 0);

        /** What a photosite adds to the light; nearly always 0. */
        double glow(int x, int y) {
            if (hotShare == 0 || Texture.hash(x, y, 1, body) >= hotShare) {
                return 0;
            }
            double u = Texture.hash(x, y, 2, body);
            return hotLevel * (0.1 + 0.9 * u * u);
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
            for (int x = 0; x < width; x++) {
                double clean = Math.max(0, camera.at(pattern.colourAt(x, y), x, y)) + flaws.glow(x, y);
                double seen = a > 0 ? a * Chance.photons(clean / a, random) : clean;
                double value = black + (seen + readSd * Chance.normal(random)) * (white - black);
                samples[y * width + x] = (short) Math.max(0, Math.min(white, Math.round(value)));
            }
        });
        return new Mosaic(width, height, samples, pattern, new float[] {black}, 1, 1, white);
    }
}
