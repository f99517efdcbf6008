package org.rainsieve.measure;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.Arrays;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.rainsieve.book.EvenGrain;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ReturnMeasurement;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;

class EvennessTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;

    /** Grain of a return at mid-grey, of a scene that changes with its number. */
    private static double grain(int iso, int number, double keptPercent) {
        Planes picture = new PlainScene(1536, 1024, number).srgb();
        CAMERA.see(picture);
        NoiseModel law = CAMERA.noiseAt(iso);
        Mosaic mosaic = CAMERA.sensor().expose(picture, law.a().get(0), law.b().get(0), number);
        DenoiseStep step = new DenoiseStep(
                number,
                mosaic,
                law,
                CAMERA.colour().gains(),
                new DenoiseSettings(true, "Quick", keptPercent, 0),
                new WorkingMemory(64L << 20),
                Cancel.NEVER);
        ReturnMeasurement measurement = new ReturnMeasurement(CAMERA.colour().gains());
        for (int t = 0; t < 2; t++) {
            DenoisedTile tile = step.tile(t, 0);
            Planes out = new Planes(tile.estimate().region(), 3);
            step.blend(tile, out);
            measurement.add(tile, out);
        }
        return measurement.grainAtMidGrey();
    }

    /** A burst of one ISO with a changing scene comes out within 1.10; three ISO settings together only when evened. */
    @Test
    void burstsComeOutEven() {
        double[] burst = new double[10];
        double[] same = new double[40];
        Arrays.fill(same, NoiseLaw.sigma(CAMERA.noiseAt(3200)));
        double[] keptOfBurst = new double[40];
        Arrays.fill(keptOfBurst, 25);
        double[] evenKept = EvenGrain.keptPercent(same, keptOfBurst);
        for (int i = 0; i < burst.length; i++) {
            burst[i] = grain(3200, i, evenKept[i]);
        }
        assertThat(Evenness.of(burst).figure()).isLessThan(1.10);

        int[] isos = {800, 3200, 12_800};
        double[] sigmas = new double[6];
        double[] kept = new double[6];
        double[] asTheyAre = new double[6];
        for (int i = 0; i < 6; i++) {
            sigmas[i] = NoiseLaw.sigma(CAMERA.noiseAt(isos[i % 3]));
            kept[i] = 60;
            asTheyAre[i] = grain(isos[i % 3], i, 60);
        }
        assertThat(Evenness.of(asTheyAre).figure()).isGreaterThan(2);
        double[] even = EvenGrain.keptPercent(sigmas, kept);
        double[] evened = new double[6];
        for (int i = 0; i < 6; i++) {
            assertThat(even[i]).isLessThanOrEqualTo(60.0000001);
            evened[i] = grain(isos[i % 3], i, even[i]);
        }
        assertThat(Evenness.of(evened).figure()).isLessThan(1.25);
    }

    /** 95th ÷ 5th percentile of a normal sample with 10 % scatter is (1 + 0.1645) / (1 − 0.1645); the interval holds it. */
    @Test
    void figureAndIntervalOfAKnownScatter() {
        SplittableRandom random = new SplittableRandom(3);
        double[] sds = new double[400];
        for (int i = 0; i < sds.length; i++) {
            sds[i] = 0.01 * (1 + 0.1 * Chance.normal(random));
        }
        double truth = 1.1645 / 0.8355;
        Evenness evenness = Evenness.of(sds);
        assertThat(evenness.figure()).isCloseTo(truth, within(0.06));
        assertThat(evenness.low()).isLessThan(truth);
        assertThat(evenness.high()).isGreaterThan(truth);
        assertThat(Evenness.of(new double[] {0.01, 0.02, 0.015, Double.NaN}).figure())
                .isCloseTo(2, within(1e-9));
        assertThat(Evenness.of(Arrays.copyOf(sds, 1))).isNull();
    }
}
