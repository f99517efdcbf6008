package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Rounds in training what a network of eight bits rounds at work. Gradients pass as if nothing was rounded, and stop where numbers
 * are cut (the straight-through estimator of Bengio et al. 2013).
 */
class Rounding {
    /** Everything as it is. */
    static final Rounding NONE = new Rounding(EightBits.NONE);

    private final EightBits bits;
    private final Map<String, Steps> steps = new LinkedHashMap<>();
    private final Map<String, NDArray> weightSteps = new LinkedHashMap<>();
    private NDArray largestWeight;
    private NDArray least;

    private record Steps(NDArray step, NDArray lowest, NDArray highest) {}

    private Rounding(EightBits bits) {
        this.bits = bits;
    }

    /** @param manager that lives as long as training does */
    Rounding(NDManager manager, Form form, EightBits bits) {
        this(bits);
        bits.steps().forEach((place, own) -> {
            Shape shape = new Shape(1, own.length, 1, 1);
            float[] lowest = new float[own.length];
            float[] highest = new float[own.length];
            for (int i = 0; i < own.length; i++) {
                lowest[i] = own[i] * EightBits.lowest(place);
                highest[i] = own[i] * EightBits.highest(place);
            }
            steps.put(
                    place,
                    new Steps(
                            manager.create(own, shape), manager.create(lowest, shape), manager.create(highest, shape)));
        });
        for (Network.Layer layer : Network.layers(form)) {
            if (bits.has(layer)) {
                float[] in = bits.stepsIn(layer);
                weightSteps.put(layer.name(), manager.create(in, new Shape(1, in.length, 1, 1)));
            }
        }
        least = manager.create(Float.MIN_NORMAL);
        largestWeight = manager.create((float) EightBits.LARGEST_WEIGHT);
    }

    EightBits bits() {
        return bits;
    }

    /** What a layer reads. */
    NDArray in(Network.Layer layer, NDArray x) {
        String place = EightBits.in(layer);
        return place.endsWith(".in") ? rounded(place, x) : x;
    }

    /** What a layer made. */
    NDArray out(Network.Layer layer, NDArray x) {
        return rounded(EightBits.out(layer), x);
    }

    /** @param manager of the step's own arrays */
    NDArray weight(Network.Layer layer, NDArray weight, NDManager manager) {
        NDArray in = weightSteps.get(layer.name());
        if (in == null) {
            return weight;
        }
        NDArray whole = weight.mul(in);
        whole.attach(manager); // or it would live as long as the weights
        NDArray still = whole.stopGradient();
        long outs = weight.getShape().get(0);
        NDArray unit = still.abs()
                .reshape(outs, -1)
                .max(new int[] {1})
                .maximum(least)
                .div(largestWeight)
                .reshape(outs, 1, 1, 1);
        return still.div(unit).round().mul(unit).sub(still).div(in).add(weight);
    }

    private NDArray rounded(String place, NDArray x) {
        Steps own = steps.get(place);
        if (own == null) {
            return x;
        }
        NDArray cut = x.maximum(own.lowest).minimum(own.highest);
        NDArray still = cut.stopGradient();
        return cut.add(still.div(own.step).round().mul(own.step).sub(still));
    }

    /** Rounds nothing, and keeps how large everything becomes that is to be rounded. */
    static final class Measuring extends Rounding {
        private final Map<String, float[]> sums = new LinkedHashMap<>();
        private final Map<String, Integer> counts = new LinkedHashMap<>();

        Measuring() {
            super(EightBits.NONE);
        }

        @Override
        NDArray in(Network.Layer layer, NDArray x) {
            String place = EightBits.in(layer);
            return place.endsWith(".in") ? measured(layer, place, x) : x;
        }

        @Override
        NDArray out(Network.Layer layer, NDArray x) {
            return measured(layer, EightBits.out(layer), x);
        }

        private NDArray measured(Network.Layer layer, String place, NDArray x) {
            if (EightBits.fits(layer)) {
                NDArray size = EightBits.isPositive(place) ? x : x.abs();
                float[] largest = size.max(new int[] {3})
                        .max(new int[] {2})
                        .max(new int[] {0})
                        .toFloatArray();
                float[] sum = sums.computeIfAbsent(place, p -> new float[largest.length]);
                for (int i = 0; i < sum.length; i++) {
                    sum[i] += Math.max(0, largest[i]);
                }
                counts.merge(place, 1, Integer::sum);
            }
            return x;
        }

        /** By place and channel: the largest of a batch, in the mean of all batches. */
        Map<String, float[]> ranges() {
            Map<String, float[]> ranges = new LinkedHashMap<>();
            sums.forEach((place, sum) -> {
                float[] range = new float[sum.length];
                for (int i = 0; i < sum.length; i++) {
                    range[i] = sum[i] / counts.get(place);
                }
                ranges.put(place, range);
            });
            return ranges;
        }
    }
}
