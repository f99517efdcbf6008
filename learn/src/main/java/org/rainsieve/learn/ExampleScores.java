package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import org.rainsieve.colour.RgbSpace;

/** Scores a network on examples as it is trained with, of pictures that it never saw: always the same ones. */
final class ExampleScores implements Scores {
    private static final int EACH = 40;
    private static final long SEED = 7;

    /** Cells at the rim that count nothing, as in training. */
    private static final int RIM = 2;

    private final Form form;
    private final int size;
    private final String levels;
    private final List<List<Example>> kinds = new ArrayList<>();

    private record Example(float[] input, float[] target, Examples.Judged judged) {}

    ExampleScores(Form form, int size, String levels, List<? extends Examples> sources) {
        this.form = form;
        this.size = size;
        this.levels = levels;
        int cells = size * size / 4;
        for (Examples source : sources) {
            SplittableRandom random = new SplittableRandom(SEED);
            List<Example> examples = new ArrayList<>();
            for (int i = 0; i < EACH; i++) {
                float[] input = new float[form.inputs * cells];
                float[] target = new float[form.outputs * cells];
                Examples.Judged judged = source.next(random, input, target);
                examples.add(new Example(input, target, judged));
            }
            kinds.add(examples);
        }
    }

    @Override
    public String levels() {
        return levels;
    }

    @Override
    public double[] score(Map<String, NDArray> weights, Network.Fixed fixed) {
        double[] mean = new double[kinds.size()];
        for (int k = 0; k < mean.length; k++) {
            for (Example example : kinds.get(k)) {
                try (NDManager manager = NDManager.newBaseManager()) {
                    NDArray x = manager.create(example.input, new Shape(1, form.inputs, size / 2, size / 2));
                    try (NDArray answer = Network.apply(form, weights, x, fixed)) {
                        mean[k] += db(example, answer.toFloatArray()) / EACH;
                    }
                }
            }
        }
        return mean;
    }

    /** What the planes that the network corrects stand at by themselves: the method that it begins from. */
    double[] begun() {
        return kinds.stream()
                .mapToDouble(examples -> examples.stream()
                        .mapToDouble(e -> db(e, e.input))
                        .average()
                        .orElseThrow())
                .toArray();
    }

    private double db(Example example, float[] answer) {
        int across = size / 2;
        int cells = across * across;
        double error = 0;
        long count = 0;
        for (int p = 0; p < form.outputs; p++) {
            for (int y = RIM; y < across - RIM; y++) {
                for (int x = RIM; x < across - RIM; x++) {
                    int i = p * cells + y * across + x;
                    double difference = shown(example, answer[i]) - shown(example, example.target[i]);
                    error += difference * difference;
                    count++;
                }
            }
        }
        // Even patches would count without end.
        return 10 * Math.log10(count / Math.max(error, count * 1e-5));
    }

    private static double shown(Example example, float value) {
        double light = example.judged.scale().inverse(value) / example.judged.exposure();
        return RgbSpace.encode(Math.min(1, Math.max(0, light)));
    }
}
