package org.rainsieve.scene;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.Arrays;
import java.util.function.Supplier;
import org.junit.jupiter.api.Test;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

class SceneTest {
    private static final int WIDTH = 240;
    private static final int HEIGHT = 160;

    private static void assertDeterministicAndBelievable(Supplier<SceneTruth> scene, Supplier<SceneTruth> other) {
        SceneTruth first = scene.get();
        SceneTruth second = scene.get();
        SceneTruth different = other.get();
        int bright = 0;
        int dark = 0;
        for (int c = 0; c < 3; c++) {
            assertThat(second.srgb().channel(c)).isEqualTo(first.srgb().channel(c));
            assertThat(different.srgb().channel(c)).isNotEqualTo(first.srgb().channel(c));
            for (float value : first.srgb().channel(c)) {
                assertThat(value).isFinite().isGreaterThanOrEqualTo(0);
                bright += value > 0.4 ? 1 : 0;
                dark += value < 0.02 ? 1 : 0;
            }
        }
        assertThat(bright).as("lights").isGreaterThan(20);
        assertThat(dark).as("deep shadows").isGreaterThan(200);
        assertThat(second.depth().channel(0)).isEqualTo(first.depth().channel(0));
        for (float depth : first.depth().channel(0)) {
            assertThat(depth).isPositive();
        }
    }

    @Test
    void sameSeedSamePictureOtherSeedAnother() {
        assertDeterministicAndBelievable(
                () -> new ToadNight(3).render(WIDTH, HEIGHT, 0), () -> new ToadNight(4).render(WIDTH, HEIGHT, 0));
        assertDeterministicAndBelievable(
                () -> new LanternRegatta(1).render(WIDTH, HEIGHT, 0),
                () -> new LanternRegatta(2).render(WIDTH, HEIGHT, 0));
        assertDeterministicAndBelievable(
                () -> new OwlOnPost(1).render(WIDTH, HEIGHT, 0), () -> new OwlOnPost(2).render(WIDTH, HEIGHT, 0));
        assertDeterministicAndBelievable(
                () -> new WindPump(1).render(WIDTH, HEIGHT), () -> new WindPump(2).render(WIDTH, HEIGHT));
    }

    /** The truth says where it is sharp, and missing the focus softens the picture there. */
    @Test
    void focusIsWhereTheTruthSays() {
        SceneTruth sharp = new ToadNight(3).render(WIDTH, HEIGHT, 0);
        SceneTruth missed = new ToadNight(3).render(WIDTH, HEIGHT, 1.5);
        double contrastSharp = 0;
        double contrastMissed = 0;
        int n = 0;
        for (int i = 1; i < WIDTH * HEIGHT; i++) {
            boolean subject = Math.abs(sharp.depth().channel(0)[i] - sharp.focusMetres()) < 0.6;
            if (subject && sharp.blur().channel(0)[i] < 0.6) {
                contrastSharp +=
                        Math.abs(sharp.srgb().channel(1)[i] - sharp.srgb().channel(1)[i - 1]);
                contrastMissed +=
                        Math.abs(missed.srgb().channel(1)[i] - missed.srgb().channel(1)[i - 1]);
                n++;
            }
        }
        assertThat(n).isGreaterThan(500);
        assertThat(contrastSharp).isGreaterThan(1.1 * contrastMissed);
    }

    /** A point becomes an even disc of the given radius: its light kept, its area πr² (closed form), its edge sharp. */
    @Test
    void blurIsADisc() {
        for (double radius : new double[] {1.5, 4, 6.5, 21}) {
            Planes point = new Planes(new Region(0, 0, 121, 121), 1);
            point.channel(0)[60 * 121 + 60] = 1000;
            float[] disc = DiscBlur.blur(point, radius).channel(0);
            double sum = 0;
            double second = 0;
            for (int i = 0; i < disc.length; i++) {
                sum += disc[i];
                second += disc[i] * (Math.pow(i % 121 - 60, 2) + Math.pow(i / 121 - 60, 2));
            }
            assertThat(sum).isCloseTo(1000, within(2.0));
            // The mean square distance from the centre of an even disc is r²/2; a pixel's own size adds 1/6.
            assertThat(Math.sqrt(2 * second / sum)).isCloseTo(radius, within(0.06 * radius + 0.15));
        }
    }

    @Test
    void oneBodyHasItsHotPixelsAlwaysInTheSamePlaces() {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        Planes black = new Planes(new Region(0, 0, 300, 300), 3);
        SimulatedSensor sensor = camera.sensor(new SimulatedSensor.Flaws(7, 1e-3, 0.5));
        NoiseModel noise = camera.noiseAt(1600);
        Mosaic one = sensor.expose(black, noise.a().get(0), noise.b().get(0), 1);
        Mosaic two = sensor.expose(black, noise.a().get(0), noise.b().get(0), 2);
        int[] hot = new int[2];
        int both = 0;
        for (int i = 0; i < 300 * 300; i++) {
            boolean first = one.at(i % 300, i / 300) > 0.04;
            boolean second = two.at(i % 300, i / 300) > 0.04;
            hot[0] += first ? 1 : 0;
            hot[1] += second ? 1 : 0;
            both += first && second ? 1 : 0;
        }
        assertThat(both).isBetween(60, 120);
        assertThat(Arrays.stream(hot).max().orElse(0)).isLessThanOrEqualTo(both + 4);
    }
}
