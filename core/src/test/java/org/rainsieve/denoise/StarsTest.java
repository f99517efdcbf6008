package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;

/** What a method does to faint stars, measured on the picture that comes out with nothing kept. */
class StarsTest {
    private static final int SIDE = 1200;
    private static final int APART = 16;
    private static final double A = 5e-4;
    private static final double B = 4e-6;
    private static final double SKY = 0.01;
    private static final double[] GAINS = {2.2, 1, 1.5};
    /** FWHM 1.8 px. */
    private static final double SIGMA_PX = 1.8 / 2.3548;

    /** Bounds of the bins of signal-to-noise. */
    private static final double[] BINS = {10, 15, 25, 60, 200};

    private record Star(double x, double y, double snr) {
        int bin() {
            int bin = 0;
            while (snr > BINS[bin + 1]) {
                bin++;
            }
            return bin;
        }
    }

    /** Clean and noisy, and where the stars are: as bright, by the matched filter on the mosaic, as they are said to be. */
    private record Sky(List<Star> stars, Mosaic clean, Mosaic noisy) {
        static Sky of(CfaPattern pattern, int side, boolean starry) {
            float[] light = new float[side * side];
            for (int i = 0; i < light.length; i++) {
                light[i] = (float) (SKY / GAINS[pattern.colourAt(i % side, i / side)]);
            }
            SplittableRandom random = new SplittableRandom(7);
            List<Star> stars = new ArrayList<>();
            for (int y = 24; y < side - 24 && starry; y += APART) {
                for (int x = 24; x < side - 24; x += APART) {
                    Star star = new Star(
                            x + 4 * random.nextDouble(),
                            y + 4 * random.nextDouble(),
                            10 * Math.pow(20, random.nextDouble()));
                    double warm = 0.75 + 0.5 * random.nextDouble();
                    double[] tint = {warm / GAINS[0], 1 / GAINS[1], (2 - warm) / GAINS[2]};
                    stars.add(star);
                    shine(star, tint, pattern, side, light);
                }
            }
            short[] clean = new short[light.length];
            short[] noisy = new short[light.length];
            SplittableRandom chance = new SplittableRandom(9);
            for (int i = 0; i < light.length; i++) {
                double seen = light[i] + Math.sqrt(A * light[i] + B) * Chance.normal(chance);
                clean[i] = sample(light[i]);
                noisy[i] = sample(seen);
            }
            return new Sky(stars, mosaic(clean, pattern, side), mosaic(noisy, pattern, side));
        }

        private static void shine(Star star, double[] tint, CfaPattern pattern, int side, float[] light) {
            double power = 0;
            for (int pass = 0; pass < 2; pass++) {
                double peak = pass == 0 ? 0 : star.snr / Math.sqrt(power);
                for (int y = (int) star.y - 6; y <= (int) star.y + 6; y++) {
                    for (int x = (int) star.x - 6; x <= (int) star.x + 6; x++) {
                        int c = pattern.colourAt(x, y);
                        double shape = tint[c] * gaussian(x - star.x, y - star.y);
                        power += pass == 0 ? shape * shape / (A * SKY / GAINS[c] + B) : 0;
                        light[y * side + x] += (float) (peak * shape);
                    }
                }
            }
        }

        private static short sample(double value) {
            return (short) Math.round(Math.max(0, Math.min(60000, value * 50000 + 4000)));
        }

        private static Mosaic mosaic(short[] samples, CfaPattern pattern, int side) {
            return new Mosaic(side, side, samples, pattern, new float[] {4000}, 1, 1, 54000);
        }
    }

    private static double gaussian(double dx, double dy) {
        return Math.exp(-(dx * dx + dy * dy) / (2 * SIGMA_PX * SIGMA_PX));
    }

    /** White-balanced luminance of what a method makes of a mosaic. */
    private static float[] developed(Mosaic mosaic, String method) {
        boolean on = !method.isEmpty();
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        "sky",
                        mosaic,
                        NoiseModel.uniform(A, B),
                        GAINS,
                        new DenoiseSettings(on, on ? method : "Quick", 0, 0),
                        new WorkingMemory(64L << 20),
                        Cancel.NEVER)
                .fill(out);
        float[] light = new float[out.channel(0).length];
        for (int i = 0; i < light.length; i++) {
            light[i] = (float)
                    ((out.channel(0)[i] * GAINS[0] + 2 * out.channel(1)[i] * GAINS[1] + out.channel(2)[i] * GAINS[2])
                            / 4);
        }
        return light;
    }

    private static double ground(float[] light, Star star) {
        double sum = 0;
        int count = 0;
        for (int y = (int) star.y - 7; y <= (int) star.y + 8; y++) {
            for (int x = (int) star.x - 7; x <= (int) star.x + 8; x++) {
                double from = Math.hypot(x - star.x, y - star.y);
                if (from > 5 && from < 7.5) {
                    sum += light[y * SIDE + x];
                    count++;
                }
            }
        }
        return sum / count;
    }

    /** Photometry with the star's own shape. */
    private static double flux(float[] light, Star star) {
        double ground = ground(light, star);
        double sum = 0;
        for (int y = (int) star.y - 4; y <= (int) star.y + 5; y++) {
            for (int x = (int) star.x - 4; x <= (int) star.x + 5; x++) {
                sum += gaussian(x - star.x, y - star.y) * (light[y * SIDE + x] - ground);
            }
        }
        return sum;
    }

    /** A peak of at least a quarter of the clean one's height within a pixel. */
    private static boolean present(float[] light, float[] clean, Star star) {
        double ground = ground(light, star);
        int cx = (int) Math.round(star.x);
        int cy = (int) Math.round(star.y);
        double height = 0;
        for (int k = 0; k < 9; k++) {
            height = Math.max(height, clean[(cy + k / 3 - 1) * SIDE + cx + k % 3 - 1] - SKY);
        }
        for (int k = 0; k < 9; k++) {
            int i = (cy + k / 3 - 1) * SIDE + cx + k % 3 - 1;
            boolean highest = light[i] - ground > height / 4;
            for (int n = 0; n < 9; n++) {
                highest &= light[i + (n / 3 - 1) * SIDE + n % 3 - 1] <= light[i];
            }
            if (highest) {
                return true;
            }
        }
        return false;
    }

    /** Of fluxes by bin the median and half the width of the middle 68 %. */
    private static double[][] spread(float[] light, float[] clean, List<Star> stars) {
        double[][] out = new double[BINS.length - 1][];
        for (int bin = 0; bin < out.length; bin++) {
            int b = bin;
            double[] ratios = stars.stream()
                    .filter(star -> star.bin() == b)
                    .mapToDouble(star -> flux(light, star) / flux(clean, star))
                    .sorted()
                    .toArray();
            out[bin] = new double[] {
                ratios[ratios.length / 2], (ratios[ratios.length * 84 / 100] - ratios[ratios.length * 16 / 100]) / 2
            };
        }
        return out;
    }

    /** 5,329 stars of signal-to-noise 10 to 200 keep their place and their light. */
    @ParameterizedTest
    @CsvSource({"2x2, Quick", "2x2, Patch", "2x2, Learned", "6x6, Quick", "6x6, Learned"})
    void starsStay(String body, String method) {
        Sky sky = Sky.of(body.equals("2x2") ? CfaPattern.RGGB : CfaPattern.SIX, SIDE, true);
        assertThat(sky.stars).hasSizeGreaterThan(5000);
        float[] clean = developed(sky.clean, "");
        float[] light = developed(sky.noisy, method);
        long there =
                sky.stars.stream().filter(star -> present(light, clean, star)).count();
        assertThat((double) there / sky.stars.size()).isGreaterThanOrEqualTo(0.98);
        double[][] noisy = spread(developed(sky.noisy, ""), clean, sky.stars);
        double[][] own = spread(light, clean, sky.stars);
        for (int bin = 0; bin < own.length; bin++) {
            assertThat(own[bin][0]).as("flux from SNR %s", BINS[bin]).isBetween(0.95, 1.05);
            assertThat(own[bin][1] / noisy[bin][1])
                    .as("scatter from SNR %s", BINS[bin])
                    .isLessThanOrEqualTo(1.15);
        }
    }

    /** Of noise alone no star is made: nowhere in 5 MP does the estimate of an empty sky stand out. */
    @Test
    void noStarsOfNoise() {
        float[] light = developed(Sky.of(CfaPattern.RGGB, 2200, false).noisy, "Quick");
        Arrays.sort(light);
        // Of a mean of one red, one blue and two green photosites, less than a demosaiced pixel's.
        double noiseSd = Math.sqrt(A * SKY * (GAINS[0] + 2 * GAINS[1] + GAINS[2]) / 16
                + B * (GAINS[0] * GAINS[0] + 2 + GAINS[2] * GAINS[2]) / 16);
        assertThat(light[light.length - 1] - SKY).isLessThan(7 * noiseSd);
    }
}
