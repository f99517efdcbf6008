package org.rainsieve.noise;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedSensor;

/** Noise laws of frames that sensors cut at black or white, that are small, even, or without light. */
class SensorNoiseTest {
    private static final double[][] LEVELS = {{0.002, 2e-5}, {0.008, 2e-4}, {0.02, 1e-3}};
    private static final int RANGE = 15_000;

    private static Planes scene(int width, int height, double light) {
        Planes picture = new PlainScene(width, height, 4).srgb();
        for (int c = 0; c < 3; c++) {
            float[] plane = picture.channel(c);
            for (int i = 0; i < plane.length; i++) {
                plane[i] *= (float) light;
            }
        }
        return picture;
    }

    private static Planes even(int width, int height, double level) {
        Planes flat = new Planes(new Region(0, 0, width, height), 3);
        for (int c = 0; c < 3; c++) {
            Arrays.fill(flat.channel(c), (float) level);
        }
        return flat;
    }

    private static Mosaic seen(Planes light, CfaPattern pattern, double blackSds, double a, double b) {
        int black = (int) Math.round(blackSds * Math.sqrt(b) * RANGE);
        return new SimulatedSensor(pattern, black, black + RANGE).expose(light, a, b, 9);
    }

    private static double sigma(NoiseModel law, double x) {
        return Math.sqrt(law.variance(1, x));
    }

    /**
     * Exposed one stop under, black from where the sensor cuts half of its noise to where it cuts none. Few photons are no normal
     * law, so that where much is cut the sd at black comes out up to 10 % too large.
     */
    @Test
    void wherevertheSensorCuts() {
        Planes light = scene(1200, 900, 0.5);
        List<String> off = new ArrayList<>();
        for (CfaPattern pattern : new CfaPattern[] {CfaPattern.RGGB, CfaPattern.SIX}) {
            for (double[] level : LEVELS) {
                for (double blackSds : new double[] {0, 0.5, 1, 2, 8}) {
                    NoiseReading read = NoiseReader.read(seen(light, pattern, blackSds, level[0], level[1]));
                    NoiseModel truth = NoiseModel.uniform(level[0], level[1]);
                    double grey = sigma(read.law(), 0.18) / sigma(truth, 0.18) - 1;
                    double black = sigma(read.law(), 0) / sigma(truth, 0) - 1;
                    assertThat(read.uncertain()).isFalse();
                    assertThat(read.law().a())
                            .as("one sensor, one law")
                            .containsOnly(read.law().a().get(1));
                    if (Math.abs(grey) > 0.05 || Math.abs(black) > (blackSds < 2 ? 0.1 : 0.05)) {
                        off.add(String.format(
                                Locale.ROOT,
                                "%d×%d, a %.3f, black at %.1f sd: %+.1f %% at grey, %+.1f %% at black",
                                pattern.width(),
                                pattern.height(),
                                level[0],
                                blackSds,
                                100 * grey,
                                100 * black));
                    }
                }
            }
        }
        assertThat(off).isEmpty();
    }

    /** A lens cap on, black at zero: half of the noise is cut, the rest tells it. */
    @Test
    void withoutLight() {
        for (double blackSds : new double[] {0, 1, 8}) {
            NoiseReading read = NoiseReader.read(seen(even(600, 400, 0), CfaPattern.RGGB, blackSds, 0.004, 6e-5));
            assertThat(sigma(read.law(), 0) / Math.sqrt(6e-5)).isCloseTo(1, within(0.05));
            assertThat(read.greyErrorPercent()).as("of light it tells nothing").isGreaterThan(25);
        }
    }

    /** The night sky of a sensor without a black level: faint and even, with stars. */
    @Test
    void starsOverBlackZero() {
        Planes sky = even(900, 600, 0.003);
        SplittableRandom random = new SplittableRandom(3);
        for (int star = 0; star < 400; star++) {
            int x = 4 + random.nextInt(890);
            int y = 4 + random.nextInt(590);
            for (int dy = -3; dy <= 3; dy++) {
                for (int dx = -3; dx <= 3; dx++) {
                    for (int c = 0; c < 3; c++) {
                        sky.channel(c)[sky.index(x + dx, y + dy)] +=
                                (float) (0.2 * Math.exp(-(dx * dx + dy * dy) / 2.0));
                    }
                }
            }
        }
        for (CfaPattern pattern : new CfaPattern[] {CfaPattern.RGGB, CfaPattern.SIX}) {
            NoiseReading read = NoiseReader.read(seen(sky, pattern, 0, 0.002, 2e-5));
            double truth = Math.sqrt(0.002 * 0.003 + 2e-5);
            assertThat(sigma(read.law(), 0.003) / truth).isCloseTo(1, within(0.1));
        }
    }

    /** 2.5 stops over: what is left below white tells it; where nothing is, there is no answer, and no guess either. */
    @Test
    void burntOut() {
        NoiseReading read = NoiseReader.read(seen(scene(1200, 900, 5.6), CfaPattern.RGGB, 8, 0.008, 2e-4));
        assertThat(sigma(read.law(), 0.5) / Math.sqrt(0.008 * 0.5 + 2e-4)).isCloseTo(1, within(0.08));
        assertThat(NoiseReader.read(seen(even(600, 400, 3), CfaPattern.RGGB, 8, 0.002, 2e-5)))
                .isNull();
    }

    @Test
    void smallFrames() {
        for (int[] size : new int[][] {{64, 64}, {160, 120}, {320, 240}}) {
            for (CfaPattern pattern : new CfaPattern[] {CfaPattern.RGGB, CfaPattern.SIX}) {
                for (double blackSds : new double[] {0, 8}) {
                    NoiseReading read =
                            NoiseReader.read(seen(even(size[0], size[1], 0.1), pattern, blackSds, 0.008, 2e-4));
                    assertThat(sigma(read.law(), 0.1) / Math.sqrt(0.008 * 0.1 + 2e-4))
                            .as("%d × %d", size[0], size[1])
                            .isCloseTo(1, within(0.1));
                    assertThat(NoiseReader.read(seen(scene(size[0], size[1], 0.5), pattern, blackSds, 0.008, 2e-4)))
                            .isNotNull();
                }
            }
        }
    }

    /** Few steps: 12 bits at ISO 800, two stops under, as dark as a step or two; and a dark frame at ISO 200. */
    @Test
    void fewSteps() {
        for (double[] law : new double[][] {{1.6e-4, 4e-7}, {4e-5, 6e-6}}) {
            SimulatedSensor sensor = new SimulatedSensor(CfaPattern.RGGB, 128, 4095);
            Mosaic mosaic = sensor.expose(scene(1200, 900, 0.06), law[0], law[1], 5);
            double rounded = law[1] + 1.0 / 12 / (4095 - 128) / (4095 - 128);
            NoiseReading read = NoiseReader.read(mosaic);
            for (double x : new double[] {0, 0.01, 0.05}) {
                assertThat(sigma(read.law(), x) / Math.sqrt(law[0] * x + rounded))
                        .as("at %s", x)
                        .isCloseTo(1, within(0.08));
            }
        }
    }

    /** Red and blue multiplied on their way into the file, as some cameras do: their laws differ, and that is seen. */
    @Test
    void coloursThatWereMultiplied() {
        Planes light = scene(1200, 900, 0.35);
        double[] gains = {1.8, 1, 1.5};
        double a = 0.002;
        double b = 2e-5;
        Planes dimmed = scene(1200, 900, 0.35);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < dimmed.channel(c).length; i++) {
                dimmed.channel(c)[i] = (float) (light.channel(c)[i] / gains[c]);
            }
        }
        Mosaic plain = new SimulatedSensor(CfaPattern.RGGB, 1024, 16_383).expose(dimmed, a, b, 5);
        short[] samples = plain.samples();
        for (int i = 0; i < samples.length; i++) {
            double gain = gains[CfaPattern.RGGB.colourAt(i % 1200, i / 1200)];
            samples[i] = (short) Math.min(16_383, Math.max(0, Math.rint(1024 + (samples[i] - 1024) * gain)));
        }
        NoiseModel read = NoiseReader.read(plain.with(samples, null)).law();
        for (int c = 0; c < 3; c++) {
            for (double x : new double[] {0.02, 0.2}) {
                double truth = Math.sqrt(gains[c] * a * x + gains[c] * gains[c] * b);
                assertThat(Math.sqrt(read.variance(c, x)) / truth)
                        .as("colour %d at %s", c, x)
                        .isCloseTo(1, within(0.08));
            }
        }
    }

    /** What takes over where frames tell too little, and that it is never nothing. */
    @Test
    void whatALawRestsOn() {
        NoiseModel law = NoiseModel.uniform(0.002, 2e-5);
        SettledLaw.Evidence read = new SettledLaw.Evidence(3200, law, 8, 6, 6, false);
        SettledLaw.Evidence hardly =
                new SettledLaw.Evidence(3200, NoiseModel.uniform(1e-8, 1e-12), 300, 200, 180, false);
        assertThat(SettledLaw.of(3200, List.of(read, hardly), List.of()).source())
                .isEqualTo(SettledLaw.Source.FRAMES);
        assertThat(SettledLaw.of(3200, List.of(read, hardly), List.of()).law()).isEqualTo(law);
        SettledLaw told = SettledLaw.of(3200, List.of(SettledLaw.Evidence.ofProfile(3200, law)), List.of());
        assertThat(told.source()).isEqualTo(SettledLaw.Source.PROFILE);
        SettledLaw.Evidence at1600 = new SettledLaw.Evidence(1600, NoiseModel.uniform(0.001, 5e-6), 8, 6, 6, false);
        SettledLaw.Evidence at6400 = new SettledLaw.Evidence(6400, NoiseModel.uniform(0.004, 8e-5), 8, 6, 6, false);
        SettledLaw between = SettledLaw.of(3200, List.of(at1600, at6400, hardly), List.of());
        assertThat(between.source()).isEqualTo(SettledLaw.Source.OTHER_ISOS);
        assertThat(sigma(between.law(), 0.18) / sigma(law, 0.18)).isCloseTo(1, within(0.02));
        NoiseLaw other = NoiseLaw.fit(List.of(new NoiseLaw.AtIso(3200, law)));
        SettledLaw others = SettledLaw.of(3200, List.of(hardly), List.of(other));
        assertThat(others.source()).isEqualTo(SettledLaw.Source.OTHER_BODIES);
        SettledLaw usual = SettledLaw.of(3200, List.of(hardly), List.of());
        assertThat(usual.source()).isEqualTo(SettledLaw.Source.TYPICAL);
        assertThat(usual.law().a().get(1)).isBetween(2e-4, 2e-3);
        assertThat(SettledLaw.of(0, List.of(), List.of()).law().b().get(0)).isGreaterThan(1e-9);
        // A picture of two even colours tells nothing at all, and says so in a number that can be kept.
        SettledLaw.Evidence nothing = SettledLaw.Evidence.ofReading(
                100, new NoiseReading(NoiseModel.uniform(0, 0), Double.POSITIVE_INFINITY, 1));
        assertThat(nothing.errorPercent()).isEqualTo(10_000);
        assertThat(SettledLaw.of(100, List.of(nothing), List.of()).source()).isEqualTo(SettledLaw.Source.TYPICAL);
        assertThat(SettledLaw.offLine(
                        3200,
                        List.of(
                                new NoiseLaw.AtIso(1600, at1600.law()),
                                new NoiseLaw.AtIso(6400, at6400.law()),
                                new NoiseLaw.AtIso(3200, NoiseModel.uniform(0.008, 8e-5)))))
                .isCloseTo(2, within(0.1));
    }
}
