package org.rainsieve.learn;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import ai.djl.engine.Engine;
import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import ai.djl.training.GradientCollector;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;

/** The optimiser against the papers' update rules, written out in double precision. */
class OptimiserTest {
    private static final float RATE = 0.01f;

    private final NDManager manager = NDManager.newBaseManager();
    private final Map<String, NDArray> weights = new LinkedHashMap<>();
    private final Map<String, NDArray> first = new LinkedHashMap<>();
    private final Map<String, NDArray> second = new LinkedHashMap<>();
    private final Optimiser optimiser = new Optimiser();

    private void weight(String name, float[] values, Shape shape) {
        weights.put(name, manager.create(values, shape));
        weights.get(name).setRequiresGradient(true);
        first.put(name, manager.zeros(shape));
        second.put(name, manager.zeros(shape));
    }

    /** One step down a plane of that slope. */
    private boolean step(String name, float[] slope, long number) {
        try (NDManager sub = manager.newSubManager()) {
            NDArray g = sub.create(slope, weights.get(name).getShape());
            try (GradientCollector collector = Engine.getInstance().newGradientCollector()) {
                collector.backward(weights.get(name).mul(g).sum());
            }
            return optimiser.step(weights, first, second, sub, number, RATE);
        }
    }

    /** Kingma, Ba 2015, algorithm 1, with β 0.9 and 0.99. */
    @Test
    void adam() {
        weight("last.bias", new float[] {1, -2, 0.5f}, new Shape(3));
        double[] w = {1, -2, 0.5};
        double[] m = new double[3];
        double[] v = new double[3];
        float[][] slopes = {{0.3f, -0.2f, 0.01f}, {0.25f, 0.1f, 0.02f}, {0.2f, 0.2f, -0.01f}};
        for (int t = 1; t <= slopes.length; t++) {
            assertThat(step("last.bias", slopes[t - 1], t)).isTrue();
            for (int i = 0; i < 3; i++) {
                double g = slopes[t - 1][i];
                m[i] = 0.9 * m[i] + 0.1 * g;
                v[i] = 0.99 * v[i] + 0.01 * g * g;
                w[i] -= RATE * (m[i] / (1 - Math.pow(0.9, t))) / (Math.sqrt(v[i] / (1 - Math.pow(0.99, t))) + 1e-8);
            }
        }
        float[] reached = weights.get("last.bias").toFloatArray();
        for (int i = 0; i < 3; i++) {
            assertThat((double) reached[i]).isCloseTo(w[i], within(1e-5));
        }
    }

    /** Between first and last layer the change is nearly orthogonal: its rows have about the same length and nothing in common. */
    @Test
    void betweenTheChangeIsOrthogonal() {
        int rows = 4;
        int columns = 9 * 6;
        weight("in0a.weight", new float[rows * columns], new Shape(rows, 6, 3, 3));
        float[] slope = new float[rows * columns];
        SplittableRandom random = new SplittableRandom(3);
        for (int i = 0; i < slope.length; i++) {
            // One row is far longer than the others.
            slope[i] = (float) ((i < columns ? 10 : 1) * random.nextGaussian());
        }
        assertThat(step("in0a.weight", slope, 1)).isTrue();
        float[] change = weights.get("in0a.weight").toFloatArray();
        double length = RATE * 0.2 * Math.sqrt(columns);
        for (int p = 0; p < rows; p++) {
            for (int q = 0; q <= p; q++) {
                double dot = 0;
                for (int k = 0; k < columns; k++) {
                    dot += change[p * columns + k] / length * change[q * columns + k] / length;
                }
                // Five steps of Newton and Schulz bring singular values to between 0.7 and 1.2 (Jordan 2024, mem.).
                assertThat(dot).isBetween(p == q ? 0.45 : -0.5, p == q ? 1.5 : 0.5);
            }
        }
    }

    /** A gradient that is no number changes nothing, and the next one does as if it had not been. */
    @Test
    void whatIsNoNumberIsLeftOut() {
        weight("last.bias", new float[] {1, 2}, new Shape(2));
        assertThat(step("last.bias", new float[] {Float.NaN, 1}, 1)).isFalse();
        assertThat(weights.get("last.bias").toFloatArray()).containsExactly(1, 2);
        assertThat(step("last.bias", new float[] {1, -1}, 1)).isTrue();
        assertThat(weights.get("last.bias").toFloatArray()[0]).isCloseTo(1 - RATE, within(1e-6f));
        assertThat(weights.get("last.bias").toFloatArray()[1]).isCloseTo(2 + RATE, within(1e-6f));
    }
}
