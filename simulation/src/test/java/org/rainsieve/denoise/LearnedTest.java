package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.TestTools;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SensorNoise;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.SimulatedSensor;

/** The trained method on pictures that are not among those it was trained on (docs/learned.md). */
class LearnedTest {
    private static final double[] GAINS = {2, 1, 1.6};

    private static double db(String name, CfaPattern pattern, String method, double a, double b) {
        return TestTools.denoisedDb(name, pattern, method, a, b);
    }

    /** Better than Quick at the three noise levels of the benchmarks, in the mean of the pictures. */
    @ParameterizedTest
    @CsvSource({"0.002, 2e-5, 0.8", "0.008, 2e-4, 1.4", "0.02, 1e-3, 1.5"})
    void betterThanQuick(double a, double b, double byDb) {
        double gained = 0;
        for (String name : new String[] {"osprey.png", "building.png", "night.png"}) {
            gained += (db(name, CfaPattern.RGGB, "Learned", a, b) - db(name, CfaPattern.RGGB, "Quick", a, b)) / 3;
        }
        assertThat(gained).isGreaterThan(byDb);
    }

    /** Colours that leave a channel next to nothing, as petals, dyes and lamps do, are not given what they lack. */
    @ParameterizedTest
    @CsvSource({"0.002, 2e-5, 1.8", "0.008, 2e-4, 1.5", "0.02, 1e-3, 1.4"})
    void deepColoursStayDeep(double a, double b, double byDb) {
        double gained = 0;
        for (String name : new String[] {"osprey.png", "building.png", "night.png"}) {
            Planes truth = TestTools.photograph(name);
            for (int i = 0; i < truth.channel(0).length; i++) {
                double grey = 0;
                for (int c = 0; c < 3; c++) {
                    grey += truth.channel(c)[i] * GAINS[c] / 3;
                }
                for (int c = 0; c < 3; c++) {
                    double value = Math.max(0, grey + 2 * (truth.channel(c)[i] * GAINS[c] - grey));
                    truth.channel(c)[i] = (float) (value / GAINS[c]);
                }
            }
            gained += (TestTools.denoisedDb(truth, CfaPattern.RGGB, "Learned", a, b)
                            - TestTools.denoisedDb(truth, CfaPattern.RGGB, "Quick", a, b))
                    / 3;
        }
        assertThat(gained).isGreaterThan(byDb);
    }

    /** The same for 6×6 sensors, wherever the pattern begins. */
    @ParameterizedTest
    @CsvSource({"0.002, 2e-5, 0, 0.5", "0.008, 2e-4, 15, 0.8", "0.02, 1e-3, 22, 2"})
    void betterThanQuickOnSixBySix(double a, double b, int phase, double byDb) {
        CfaPattern pattern = CfaPattern.SIX.shifted(phase % 6, phase / 6);
        double gained = 0;
        for (String name : new String[] {"osprey.png", "building.png", "night.png"}) {
            gained += (db(name, pattern, "Learned", a, b) - db(name, pattern, "Quick", a, b)) / 3;
        }
        assertThat(gained).isGreaterThan(byDb);
    }

    /** The newest model has a network for little noise and one for much; where they meet nobody sees which one worked. */
    @Test
    void twoNetworksMeet() {
        double little = db("osprey.png", CfaPattern.RGGB, "Learned", 0.005, 8e-5);
        double much = db("osprey.png", CfaPattern.RGGB, "Learned", 0.005001, 8e-5);
        assertThat(little).isNotEqualTo(much).isCloseTo(much, within(0.2));
        assertThat(LearnedModels.hash("bayer-7")).isNotEqualTo(LearnedModels.hash("bayer-6"));
    }

    /** All four orders are one network, re-packed: alike up to their own noise. */
    @Test
    void everyOrderAlike() {
        double first = db("osprey.png", CfaPattern.RGGB, "Learned", 0.008, 2e-4);
        for (String order : new String[] {"BGGR", "GRBG", "GBRG"}) {
            assertThat(db("osprey.png", CfaPattern.of(order), "Learned", 0.008, 2e-4))
                    .as(order)
                    .isCloseTo(first, within(0.15));
        }
    }

    /** The same value for value whether one tile is worked on or two at a time. */
    @Test
    void threadsDoNotMatter() {
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, 3072, 16383)
                .expose(TestTools.photograph("building.png"), 0.008, 2e-4, 3);
        Planes noisy = new Planes(new Region(0, 0, 400, 400), 1);
        mosaic.fill(noisy);
        SensorNoise noise = SensorNoise.uncut(NoiseModel.uniform(0.008, 2e-4));
        DenoiseMethod learned = Methods.of("Learned");
        float[] alone = learned.estimate(noisy, CfaPattern.RGGB, noise, GAINS).channel(1);
        var other = CompletableFuture.supplyAsync(() -> learned.estimate(noisy, CfaPattern.RGGB, noise, GAINS));
        float[] together =
                learned.estimate(noisy, CfaPattern.RGGB, noise, GAINS).channel(1);
        assertThat(together).isEqualTo(alone);
        assertThat(other.join().channel(1)).isEqualTo(alone);
    }

    /** What cannot be done is said; which model made a return is kept. */
    @Test
    void saysWhatItIs() {
        Planes small = new Planes(new Region(0, 0, 60, 60), 1);
        assertThatThrownBy(() -> Methods.of("Learned")
                        .estimate(small, CfaPattern.SIX, SensorNoise.uncut(NoiseModel.uniform(1e-3, 1e-5)), GAINS))
                .hasMessageContaining("another colour pattern");
        // A page that is bound to a model for other sensors takes the newest for its own.
        assertThat(Methods.modelHash("Learned", "bayer-1", CfaPattern.SIX))
                .isEqualTo(Methods.modelHash("Learned", "", CfaPattern.SIX))
                .isNotEqualTo(Methods.modelHash("Learned", "bayer-1", CfaPattern.RGGB));
        ResolvedSettings settings = ResolvedSettings.of(
                1600, NoiseModel.uniform(1e-3, 1e-5), new DenoiseSettings(true, "Learned", 20, 0), CfaPattern.RGGB);
        assertThat(settings.model()).matches("[0-9a-f]{64}");
        assertThat(ResolvedSettings.ofJson(settings.toJson())).isEqualTo(settings);
        assertThat(ResolvedSettings.of(
                                1600, settings.noise(), new DenoiseSettings(true, "Quick", 20, 0), CfaPattern.RGGB)
                        .model())
                .isEmpty();
    }
}
