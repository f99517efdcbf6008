package org.rainsieve.noise;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.rainsieve.scene.SimulatedCamera;

class NoiseLawTest {
    /** The law a body was made with comes back from scattered readings, one in six of them nonsense. */
    @Test
    void lawComesBackFromReadings() {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        SplittableRandom random = new SplittableRandom(7);
        List<NoiseLaw.AtIso> readings = new ArrayList<>();
        for (int i = 0; i < 60; i++) {
            int iso = 100 << i % 10;
            NoiseModel truth = camera.noiseAt(iso);
            double off = i % 6 == 5 ? 3 : 1;
            double a = truth.a().get(1) * off * Math.exp(0.04 * Chance.normal(random));
            double b = truth.b().get(1) * off * off * Math.exp(0.08 * Chance.normal(random));
            readings.add(new NoiseLaw.AtIso(iso, NoiseModel.uniform(a, b)));
        }
        NoiseLaw law = NoiseLaw.fit(readings);
        for (int iso = 100; iso <= 51_200; iso *= 2) {
            double truth = NoiseLaw.sigma(camera.noiseAt(iso));
            assertThat(law.sigma(iso)).as("ISO %d", iso).isCloseTo(truth, within(0.04 * truth));
        }
        assertThat(law.sigmaErrorPercent()).isBetween(0.1, 5.0);
        assertThat(law.restsOnFew()).isFalse();
    }

    @Test
    void fewReadingsAreSaidToBeFew() {
        assertThat(NoiseLaw.fit(List.of())).isNull();
        NoiseLaw law = NoiseLaw.fit(List.of(new NoiseLaw.AtIso(1600, SimulatedCamera.ONDREL_24.noiseAt(1600))));
        assertThat(law.restsOnFew()).isTrue();
        double truth = NoiseLaw.sigma(SimulatedCamera.ONDREL_24.noiseAt(1600));
        assertThat(law.sigma(1600)).isCloseTo(truth, within(0.02 * truth));
    }
}
