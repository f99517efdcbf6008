package org.rainsieve.noise;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class NoiseModelTest {
    @Test
    void profilesOfOneAndOfThreePairsAreRead() {
        assertThat(NoiseModel.ofProfile(List.of(1e-3, 1e-5))).isEqualTo(NoiseModel.uniform(1e-3, 1e-5));
        NoiseModel three = NoiseModel.ofProfile(List.of(1e-3, 1e-5, 2e-3, 2e-5, 3e-3, 3e-5));
        assertThat(three.a()).containsExactly(1e-3, 2e-3, 3e-3);
        assertThat(three.variance(2, 0.5)).isCloseTo(1.5e-3 + 3e-5, within(1e-12));
        assertThat(three.variance(2, -0.5)).as("below black as at black").isEqualTo(3e-5);
        assertThat(NoiseModel.ofProfile(List.of())).isNull();
        assertThat(NoiseModel.ofProfile(List.of(1.0, 2.0, 3.0))).isNull();
        assertThat(NoiseModel.ofProfile(List.of(-1.0, Double.NaN)))
                .as("nonsense")
                .isNull();
    }

    /** One bad frame does not move its series. */
    @Test
    void poolingIsRobust() {
        List<NoiseModel> models = new ArrayList<>();
        for (int i = 0; i < 9; i++) {
            models.add(NoiseModel.uniform(1e-3 * (1 + 0.01 * i), 1e-5));
        }
        models.add(NoiseModel.uniform(0.9, 0.9));
        models.add(NoiseModel.uniform(0.8, 0.9));
        assertThat(NoiseModel.pooled(models).a().get(1)).isCloseTo(1e-3, within(1e-4));
        assertThat(NoiseModel.pooled(models).b().get(1)).isEqualTo(1e-5);
        assertThatThrownBy(() -> NoiseModel.pooled(List.of())).isInstanceOf(IllegalArgumentException.class);
    }

    /** The fit finds a known law among blocks of which half hold texture as well. */
    @Test
    void textureDoesNotBendTheFit() {
        double a = 8e-4;
        double b = 4e-6;
        NoiseFit fit = new NoiseFit();
        SplittableRandom random = new SplittableRandom(3);
        for (int i = 0; i < 8000; i++) {
            double mean = 0.005 + 0.6 * random.nextDouble();
            double variance = (a * mean + b) * (1 + 0.15 * Chance.normal(random));
            double texture = random.nextBoolean() ? 0 : Math.pow(10, -6 + 4 * random.nextDouble());
            double structure = (a * mean + b) / 16 * (1 + 0.3 * Chance.normal(random)) + texture;
            fit.add((float) mean, (float) (variance + 0.5 * texture), (float) Math.max(0, structure));
        }
        NoiseFit.Line line = fit.fit();
        assertThat(line.a()).isCloseTo(a, within(0.05 * a));
        assertThat(Math.sqrt(line.a() * 0.02 + line.b()))
                .isCloseTo(Math.sqrt(a * 0.02 + b), within(0.05 * Math.sqrt(a * 0.02 + b)));
        assertThat(new NoiseFit().fit()).as("nothing to go by").isNull();
    }

    @ParameterizedTest
    @ValueSource(doubles = {1e-4, 0.003, 0.2})
    void rootScaleReturnsEverywhere(double offset) {
        RootScale scale = new RootScale((float) offset);
        float before = -Float.MAX_VALUE;
        for (double y = -3 * offset; y < 4; y += 0.001) {
            float t = scale.forward((float) y);
            assertThat(t).isGreaterThan(before);
            assertThat(scale.inverse(t)).isCloseTo((float) y, within(2e-5f + 2e-6f * (float) Math.abs(y)));
            before = t;
        }
        assertThat(scale.forward(0)).isZero();
    }
}
