package org.rainsieve.defect;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;

class HotPixelsTest {
    private static final int SIZE = 2400;
    private static final double A = 5e-4;
    private static final double B = 4e-6;
    private static final double SKY = 0.01;
    private static final double SD = Math.sqrt(A * SKY + B);
    private static final double[] GAINS = {2.2, 1, 1.5};

    private static Planes noise(float[] clean) {
        Planes mosaic = new Planes(new Region(0, 0, SIZE, SIZE), 1);
        SplittableRandom random = new SplittableRandom(5);
        for (int i = 0; i < clean.length; i++) {
            mosaic.channel(0)[i] = (float) (clean[i] + Math.sqrt(A * clean[i] + B) * Chance.normal(random));
        }
        return mosaic;
    }

    private static float[] sky() {
        float[] clean = new float[SIZE * SIZE];
        java.util.Arrays.fill(clean, (float) SKY);
        return clean;
    }

    /** At least 99 % of defects of 10 sd and more found, as asked of the whole method; next to nothing else touched. */
    @ParameterizedTest
    @ValueSource(booleans = {true, false})
    void defectsAreFoundAndNothingElse(boolean bayer) {
        CfaPattern pattern = bayer ? CfaPattern.RGGB : CfaPattern.SIX;
        float[] clean = sky();
        Planes mosaic = noise(clean);
        SplittableRandom random = new SplittableRandom(6);
        int count = 0;
        boolean[] defect = new boolean[clean.length];
        for (int y = 8; y < SIZE - 8; y += 12) {
            for (int x = 8; x < SIZE - 8; x += 12) {
                int i = (y + random.nextInt(5)) * SIZE + x + random.nextInt(5);
                mosaic.channel(0)[i] += (float) (SD * (10 + 200 * random.nextDouble() * random.nextDouble()));
                defect[i] = true;
                count++;
            }
        }
        float[] before = mosaic.channel(0).clone();
        new HotPixels(pattern, NoiseModel.uniform(A, B), GAINS).repair(mosaic);
        int found = 0;
        int others = 0;
        for (int i = 0; i < before.length; i++) {
            if (before[i] != mosaic.channel(0)[i]) {
                if (defect[i]) {
                    found++;
                } else {
                    others++;
                }
            }
        }
        assertThat(found).isGreaterThanOrEqualTo((int) (0.99 * count));
        assertThat(others).as("of %d photosites", SIZE * SIZE).isLessThanOrEqualTo(5);
    }

    /** Crests of fine texture are no defects: rings of full contrast up to 0.4 cycles per pixel, with little noise. */
    @ParameterizedTest
    @CsvSource({"2, 0.00001", "6, 0.005"})
    void fineTextureIsLeftAlone(int period, double share) {
        int side = 480;
        Planes mosaic = new Planes(new Region(0, 0, side, side), 1);
        CfaPattern pattern = period == 6 ? CfaPattern.SIX : CfaPattern.RGGB;
        SplittableRandom random = new SplittableRandom(8);
        int rings = 0;
        for (int y = 0; y < side; y++) {
            for (int x = 0; x < side; x++) {
                rings += Math.hypot(x, y) < side ? 1 : 0;
                double light = 0.3 + 0.2 * Math.cos(Math.PI * 0.4 * Math.min(side * side, x * x + y * y) / side);
                double clean = light / GAINS[pattern.colourAt(x, y)];
                mosaic.channel(0)[y * side + x] = (float) (clean + Math.sqrt(A * clean + B) * Chance.normal(random));
            }
        }
        assertThat(new HotPixels(pattern, NoiseModel.uniform(A, B), GAINS).repair(mosaic))
                .isLessThanOrEqualTo((int) (share * rings));
    }

    /** At most 0.1 % of stars of FWHM 1.8 pixels and signal to noise 10 and more are harmed, in all orders and 6×6. */
    @Test
    void starsAreLeftAlone() {
        for (CfaPattern pattern :
                new CfaPattern[] {CfaPattern.RGGB, CfaPattern.GBRG, CfaPattern.GRBG, CfaPattern.BGGR, CfaPattern.SIX}) {
            float[] clean = sky();
            SplittableRandom random = new SplittableRandom(7);
            double sigma = 1.8 / 2.3548;
            int stars = 0;
            for (int y = 10; y < SIZE - 10; y += 20) {
                for (int x = 10; x < SIZE - 10; x += 20) {
                    double cx = x + random.nextDouble() * 4;
                    double cy = y + random.nextDouble() * 4;
                    // A matched filter gathers peak · σ · √π / sd over all photosites (closed form).
                    double snr = 10 * Math.pow(60, random.nextDouble());
                    double peak = snr * SD / (sigma * Math.sqrt(Math.PI));
                    double warm = 0.75 + 0.5 * random.nextDouble();
                    double[] tint = {warm / GAINS[0], 1 / GAINS[1], (2 - warm) / GAINS[2]};
                    stars++;
                    for (int k = 0; k < 121; k++) {
                        int px = x + k % 11 - 3;
                        int py = y + k / 11 - 3;
                        double d2 = (px - cx) * (px - cx) + (py - cy) * (py - cy);
                        clean[py * SIZE + px] +=
                                (float) (peak * tint[pattern.colourAt(px, py)] * Math.exp(-d2 / (2 * sigma * sigma)));
                    }
                }
            }
            Planes mosaic = noise(clean);
            int harmed = new HotPixels(pattern, NoiseModel.uniform(A, B), GAINS).repair(mosaic);
            assertThat(stars).isGreaterThan(10_000);
            assertThat(harmed)
                    .as("%s: photosites repaired with %d stars", pattern, stars)
                    .isLessThanOrEqualTo(stars / 1000);
        }
    }
}
