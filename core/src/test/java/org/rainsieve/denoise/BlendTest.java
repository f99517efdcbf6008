package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SensorNoise;

class BlendTest {
    private static final double[] GAINS = {2.4, 1, 1.6};
    private static final Region REGION = new Region(3, 5, 64, 48);

    private static DenoisedTile tile() {
        SplittableRandom random = new SplittableRandom(2);
        Planes estimate = new Planes(REGION, 3);
        Planes residual = new Planes(REGION, 3);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < estimate.channel(c).length; i++) {
                estimate.channel(c)[i] = (float) (0.2 / GAINS[c]);
                residual.channel(c)[i] = (float) (0.01 * Chance.normal(random));
            }
        }
        return new DenoisedTile(estimate, residual);
    }

    private static Planes blended(double luminance, double colour) {
        Planes out = new Planes(REGION, 3);
        tile().blend(luminance, colour, GAINS, out);
        return out;
    }

    /** All kept is the noisy picture, nothing kept the estimate, and in between is a straight line. */
    @Test
    void amountsAreABlend() {
        DenoisedTile tile = tile();
        Planes all = blended(1, 1);
        Planes none = blended(0, 0);
        Planes some = blended(0.3, 0.3);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < 64 * 48; i++) {
                float e = tile.estimate().channel(c)[i];
                float r = tile.residual().channel(c)[i];
                assertThat(all.channel(c)[i]).isCloseTo(e + r, within(1e-6f));
                assertThat(none.channel(c)[i]).isEqualTo(e);
                assertThat(some.channel(c)[i]).isCloseTo(e + 0.3f * r, within(1e-6f));
            }
        }
    }

    /** Grain without colour noise has no tint: after white balance what was put back is the same in all colours. */
    @Test
    void grainThatIsKeptIsGrey() {
        DenoisedTile tile = tile();
        Planes grain = blended(0.5, 0);
        Planes colour = blended(0, 1);
        for (int i = 0; i < 64 * 48; i++) {
            double[] back = new double[3];
            double sum = 0;
            for (int c = 0; c < 3; c++) {
                back[c] = (grain.channel(c)[i] - tile.estimate().channel(c)[i]) * GAINS[c];
                sum += (colour.channel(c)[i] - tile.estimate().channel(c)[i]) * GAINS[c];
            }
            assertThat(back[1]).isCloseTo(back[0], within(1e-6));
            assertThat(back[2]).isCloseTo(back[0], within(1e-6));
            assertThat(sum).as("colour noise has no luminance").isCloseTo(0, within(1e-6));
        }
    }

    /** Only what both regions share is written. */
    @Test
    void blendsIntoAnyRegion() {
        Planes small = new Planes(new Region(60, 50, 20, 20), 3);
        tile().blend(1, 1, GAINS, small);
        Planes whole = blended(1, 1);
        for (int y = 50; y < 70; y++) {
            for (int x = 60; x < 80; x++) {
                boolean inside = x < REGION.right() && y < REGION.bottom();
                assertThat(small.at(1, x, y)).isEqualTo(inside ? whole.at(1, x, y) : 0f);
            }
        }
    }

    /** Splitting into stabilised cells and joining again gives the mosaic back, and noise in it has sd 1 in every plane. */
    @Test
    void cellsReturnAndAreWhite() {
        double a = 2e-3;
        double b = 2e-5;
        for (CfaPattern pattern : new CfaPattern[] {CfaPattern.RGGB, CfaPattern.GBRG}) {
            Planes mosaic = new Planes(new Region(0, 0, 400, 400), 1);
            SplittableRandom random = new SplittableRandom(4);
            for (int i = 0; i < 160_000; i++) {
                mosaic.channel(0)[i] =
                        (float) (Chance.photons(0.3 / a, random) * a + Math.sqrt(b) * Chance.normal(random));
            }
            StabilisedCells cells =
                    new StabilisedCells(mosaic.region(), pattern, SensorNoise.uncut(NoiseModel.uniform(a, b)));
            float[][] planes = cells.split(mosaic);
            for (float[] plane : planes) {
                double mean = 0;
                double square = 0;
                for (float value : plane) {
                    mean += value / plane.length;
                    square += value * (double) value / plane.length;
                }
                assertThat(Math.sqrt(square - mean * mean)).isCloseTo(1, within(0.02));
            }
            Planes back = cells.join(planes);
            for (int i = 0; i < 160_000; i++) {
                // The exact unbiased inverse adds a quarter of a count (a/4) to single values; see Mäkitalo, Foi 2013.
                assertThat(back.channel(0)[i]).isCloseTo(mosaic.channel(0)[i], within((float) (0.3 * a)));
            }
        }
    }

    /** Pure noise all but vanishes, a step of many sd survives, and a constant is not touched. */
    @Test
    void shrinkageKeepsSignalAndDropsNoise() {
        int w = 256;
        float[] noise = new float[w * w];
        float[] step = new float[w * w];
        SplittableRandom random = new SplittableRandom(8);
        for (int i = 0; i < noise.length; i++) {
            noise[i] = (float) Chance.normal(random);
            step[i] = (i % w < 128 ? 0 : 20) + noise[i];
        }
        float[] constant = new float[w * w];
        java.util.Arrays.fill(constant, 3.25f);
        for (float[] plane : new float[][] {noise, step, constant}) {
            new Shrinkage(w, w, 4).apply(plane);
        }
        double left = 0;
        for (int y = 64; y < 192; y++) {
            for (int x = 40; x < 100; x++) {
                left += noise[y * w + x] * noise[y * w + x] / (128 * 60.0);
                assertThat(constant[y * w + x]).isEqualTo(3.25f);
            }
            assertThat(step[y * w + 130] - step[y * w + 125]).isCloseTo(20, within(3.0f));
        }
        // Means over 16 × 16 values always stay: sd 1/16; little else may.
        assertThat(Math.sqrt(left)).isLessThan(0.13);
    }
}
