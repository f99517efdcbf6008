package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.scene.SimulatedSensor;

/** What sensors cut at black and at white, whatever their law: black stays black, white stays white, with every method. */
class AnyFrameTest {
    private static final double[] GAINS = {2, 1, 1.6};
    private static final int RANGE = 15_000;
    private static final List<CfaPattern> PATTERNS = List.of(CfaPattern.RGGB, CfaPattern.SIX);

    private static Planes denoised(Mosaic mosaic, NoiseModel law, String method, double grainPercent) {
        DenoiseStep step = new DenoiseStep(
                new Object(),
                mosaic,
                law,
                GAINS,
                new DenoiseSettings(true, method, grainPercent, grainPercent),
                new WorkingMemory(1 << 28),
                Cancel.NEVER);
        Planes out = new Planes(new Region(0, 0, mosaic.width(), mosaic.height()), 3);
        step.fill(out);
        return out;
    }

    private static Planes even(int width, int height, double light) {
        Planes planes = new Planes(new Region(0, 0, width, height), 3);
        for (int c = 0; c < 3; c++) {
            Arrays.fill(planes.channel(c), (float) light);
        }
        return planes;
    }

    private static double mean(Planes picture, int colour, int edgePx) {
        double sum = 0;
        int n = 0;
        for (int y = edgePx; y < picture.region().height() - edgePx; y++) {
            for (int x = edgePx; x < picture.region().width() - edgePx; x++, n++) {
                sum += picture.at(colour, x, y);
            }
        }
        return sum / n;
    }

    /**
     * Even fields from black to ten sd above: the light comes back, not the mean of what was left of its noise, which black level 0
     * lifts by 0.4 sd. With half of the noise cut and less than a sd of light a tenth of the sd is allowed.
     */
    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Patch", "Learned"})
    void theDarkKeepsItsMean(String method) {
        List<String> off = new ArrayList<>();
        double a = 0.008;
        double b = 2e-4;
        NoiseModel law = NoiseModel.uniform(a, b);
        // 3 %, and what chance leaves of fields this small; networks that were not trained with cut noise lie 5 % off.
        double most = method.equals("Learned") ? 0.07 : 0.05;
        for (CfaPattern pattern : PATTERNS) {
            for (double blackSds : new double[] {0, 1}) {
                int black = (int) Math.round(blackSds * Math.sqrt(b) * RANGE);
                SimulatedSensor sensor = new SimulatedSensor(pattern, black, black + RANGE);
                for (double sds : new double[] {0, 1, 8}) {
                    double light = sds * Math.sqrt(b);
                    Planes out = denoised(sensor.expose(even(176, 176, light), a, b, 5), law, method, 30);
                    for (int c = 0; c < 3; c++) {
                        double error = (mean(out, c, 24) - light) / Math.sqrt(a * light + b);
                        if (Math.abs(error) > (blackSds == 0 && sds < 1 ? 0.1 : most)) {
                            off.add(String.format(
                                    Locale.ROOT,
                                    "%d×%d, black at %.1f sd, light at %.0f sd, colour %d: %+.3f sd",
                                    pattern.width(),
                                    pattern.height(),
                                    blackSds,
                                    sds,
                                    c,
                                    error));
                        }
                    }
                }
            }
        }
        assertThat(off).isEmpty();
    }

    /** A clipped area under laws that nobody chose, colours apart as if each were read by itself: exactly white inside. */
    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Patch", "Learned"})
    void whiteIsWhite(String method) {
        SplittableRandom random = new SplittableRandom(11);
        int laws = method.equals("Quick") ? 14 : 4;
        for (int i = 0; i < laws; i++) {
            CfaPattern pattern = PATTERNS.get(i % 2);
            Double[] a = new Double[3];
            Double[] b = new Double[3];
            for (int c = 0; c < 3; c++) {
                a[c] = Math.pow(10, -4.5 + 2.7 * random.nextDouble());
                b[c] = random.nextInt(3) == 0 ? 1e-12 : a[c] * a[c] * Math.pow(10, 2 * random.nextDouble());
            }
            Planes light = even(160, 160, 0.1);
            for (int y = 50; y < 110; y++) {
                for (int x = 50; x < 110; x++) {
                    for (int c = 0; c < 3; c++) {
                        light.channel(c)[light.index(x, y)] = 3;
                    }
                }
            }
            Mosaic mosaic = new SimulatedSensor(pattern, 1024, 16_383).expose(light, a[1], Math.max(b[1], 1e-8), i);
            Planes out = denoised(mosaic, new NoiseModel(List.of(a), List.of(b)), method, 20);
            for (int c = 0; c < 3; c++) {
                for (int y = 54; y < 106; y++) {
                    for (int x = 54; x < 106; x++) {
                        assertThat(out.at(c, x, y))
                                .as("%s, law %d (a %s, b %s), colour %d at %d, %d", method, i, a[c], b[c], c, x, y)
                                .isEqualTo(1f);
                    }
                }
            }
        }
    }

    /** Light that rises into clipping rises in the result: column by column no mean falls by more than 0.3 %. */
    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Patch", "Learned"})
    void aRampIntoClippingNeverDips(String method) {
        int width = 384;
        int height = 256;
        for (CfaPattern pattern : PATTERNS) {
            Planes light = even(width, height, 0);
            for (int c = 0; c < 3; c++) {
                for (int y = 0; y < height; y++) {
                    for (int x = 0; x < width; x++) {
                        light.channel(c)[light.index(x, y)] = 0.3f + 1.2f * x / width;
                    }
                }
            }
            Mosaic mosaic = new SimulatedSensor(pattern, 1024, 16_383).expose(light, 0.002, 2e-5, 3);
            Planes out = denoised(mosaic, NoiseModel.uniform(0.002, 2e-5), method, 0);
            for (int c = 0; c < 3; c++) {
                double highest = 0;
                for (int x = 24; x < width - 24; x++) {
                    double sum = 0;
                    for (int y = 24; y < height - 24; y++) {
                        for (int dx = -3; dx <= 3; dx++) {
                            sum += out.at(c, x + dx, y);
                        }
                    }
                    double mean = sum / 7 / (height - 48);
                    assertThat(mean)
                            .as("%s, %d×%d, colour %d at %d", method, pattern.width(), pattern.height(), c, x)
                            .isGreaterThan(highest - 0.003);
                    highest = Math.max(highest, mean);
                }
                // On the last step before all is clipped a network may lie a little above white, which is cut when it
                // is written.
                assertThat(highest).isBetween(0.9999, 1.001);
            }
        }
    }

    /** One photosite that noise lifted to white among darker ones is no highlight; a small lamp is one. */
    @Test
    void noiseIsNoHighlight() {
        double a = 0.02;
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, 1024, 16_383).expose(even(256, 256, 0.75), a, 1e-3, 4);
        Planes out = denoised(mosaic, NoiseModel.uniform(a, 1e-3), "Quick", 0);
        for (int i = 0; i < out.channel(1).length; i++) {
            assertThat(out.channel(1)[i]).isLessThan(0.95f);
        }
    }
}
