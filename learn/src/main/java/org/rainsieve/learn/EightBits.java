package org.rainsieve.learn;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * Inner layers worked in whole numbers of eight bits: for what goes into a layer and what comes out, the step of each channel. What
 * passes a level by (the residual and the skip connections), the first and the last layer stay in floats, so that smooth skies show no
 * steps. After Jacob et al., Quantization and Training of Neural Networks for Efficient Integer-Arithmetic-Only Inference (2018).
 *
 * <p>Weights keep to seven bits: two products of an unsigned and a signed byte then fit into sixteen, so that processors which add
 * them in pairs reach the same numbers as those which do not.
 *
 * @param steps by place, see {@link #in} and {@link #out}; none at all: everything is worked in floats
 */
record EightBits(Map<String, float[]> steps) {
    static final EightBits NONE = new EightBits(Map.of());

    private static final String FILE = "steps.txt";

    /** Stands for zero where numbers have signs. */
    static final int MIDDLE = 128;

    static final int LARGEST_WEIGHT = 63;

    /**
     * How far a channel's own range counts for its step beside the widest one's: with 1 small channels are as fine as large ones, but
     * weights differ by as much more.
     */
    private static final double OWN_RANGE = 0.5;

    /** A convolution in whole numbers: weights, biases, and what a unit is worth in steps of what comes out, by output channel. */
    record Layer(byte[] weight, int[] bias, float[] scale) {
        /** Channels c·4 + 2·dy + dx in the order dy, dx, c: what belongs to one pixel of four times the size stands together. */
        Layer inRows() {
            int channels = bias.length / 4;
            int each = weight.length / bias.length;
            Layer rows = new Layer(new byte[weight.length], new int[bias.length], new float[bias.length]);
            for (int from = 0; from < bias.length; from++) {
                int to = from % 4 * channels + from / 4;
                System.arraycopy(weight, from * each, rows.weight, to * each, each);
                rows.bias[to] = bias[from];
                rows.scale[to] = scale[from];
            }
            return rows;
        }
    }

    /** Whether it is one of those that can be worked so. */
    static boolean fits(Network.Layer layer) {
        return switch (layer.kind()) {
            case DOWN, UP, MIX -> true;
            case CONVOLVE -> !layer.name().equals("first") && !layer.name().equals("last");
            default -> false;
        };
    }

    boolean has(Network.Layer layer) {
        return fits(layer) && !steps.isEmpty();
    }

    /** The place that a layer reads: its own, or what the layer before it in the same block has made. */
    static String in(Network.Layer layer) {
        String name = layer.name();
        String before = name.substring(0, name.length() - 1);
        return switch (layer.kind()) {
            case MIX -> before + ".out";
            case CONVOLVE -> name.endsWith("b") ? before + "a.out" : name + ".in";
            default -> name + ".in";
        };
    }

    static String out(Network.Layer layer) {
        return layer.name() + ".out";
    }

    /** Whether what comes out has no signs, as that of a layer before a ReLU, which is done by the rounding then. */
    static boolean isPositive(String place) {
        return place.endsWith("a.out");
    }

    static float lowest(String place) {
        return isPositive(place) ? 0 : -MIDDLE;
    }

    static float highest(String place) {
        return isPositive(place) ? 255 : 255 - MIDDLE;
    }

    /** Steps of each input channel of a layer. */
    float[] stepsIn(Network.Layer layer) {
        float[] all = steps.get(in(layer));
        // Four planes of the layer before become one of four times the size.
        return layer.kind() != Network.Kind.MIX ? all : every(4, all);
    }

    float[] stepsOut(Network.Layer layer) {
        return steps.get(out(layer));
    }

    private static float[] every(int nth, float[] all) {
        float[] some = new float[all.length / nth];
        for (int i = 0; i < some.length; i++) {
            some[i] = all[nth * i];
        }
        return some;
    }

    Layer layer(Network.Layer layer, Map<String, float[]> values) {
        float[] in = stepsIn(layer);
        float[] out = stepsOut(layer);
        float[] weight = values.get(layer.name() + ".weight");
        float[] bias = values.get(layer.name() + ".bias");
        byte[] whole = new byte[weight.length];
        int[] biases = new int[out.length];
        float[] scale = new float[out.length];
        int each = weight.length / out.length;
        int kernel = each / in.length;
        for (int o = 0; o < out.length; o++) {
            float largest = Float.MIN_NORMAL;
            for (int k = 0; k < each; k++) {
                largest = Math.max(largest, Math.abs(weight[o * each + k] * in[k / kernel]));
            }
            float unit = largest / LARGEST_WEIGHT;
            for (int k = 0; k < each; k++) {
                whole[o * each + k] = (byte) Math.rint(weight[o * each + k] * in[k / kernel] / unit);
            }
            biases[o] = (int) Math.rint(bias[o] / unit);
            scale[o] = unit / out[o];
        }
        return new Layer(whole, biases, scale);
    }

    /**
     * Makes the channels of each level more alike in size, for they share a step; what the network answers stays as it is.
     *
     * @param ranges by place, the largest size of each channel
     * @param values of layers; changed
     */
    static void equalise(Form form, Map<String, float[]> ranges, Map<String, float[]> values) {
        List<float[]> largest = new ArrayList<>();
        eachOfLevel(form, (layer, level, reads) -> {
            if (level == largest.size()) {
                largest.add(new float[reads ? layer.in() : layer.out()]);
            }
            float[] range = reads ? ranges.get(in(layer)) : null;
            for (int i = 0; range != null && i < range.length; i++) {
                largest.get(level)[i] = Math.max(largest.get(level)[i], range[i]);
            }
        });
        eachOfLevel(form, (layer, level, reads) -> {
            float[] weight = values.get(layer.name() + ".weight");
            float[] bias = values.get(layer.name() + ".bias");
            int channels = largest.get(level).length;
            int others = reads ? bias.length : layer.in();
            int kernel = weight.length / channels / others;
            for (int i = 0; i < channels; i++) {
                float by = (float) Math.sqrt(widest(largest.get(level)) / Math.max(1e-6f, largest.get(level)[i]));
                for (int o = 0; o < others; o++) {
                    for (int k = 0; k < kernel; k++) {
                        int at = reads ? (o * channels + i) * kernel + k : (i * others + o) * kernel + k;
                        weight[at] *= reads ? 1 / by : by;
                    }
                }
                if (!reads) {
                    bias[i] *= by;
                }
            }
        });
    }

    private interface OfLevel {
        /** @param reads whether the layer reads what runs along the level, or adds to it */
        void take(Network.Layer layer, int level, boolean reads);
    }

    private static void eachOfLevel(Form form, OfLevel work) {
        int level = 0;
        for (Network.Layer layer : Network.layers(form)) {
            switch (layer.kind()) {
                case CONVOLVE ->
                    work.take(
                            layer,
                            level,
                            layer.name().equals("last")
                                    || in(layer).endsWith(".in")
                                            && !layer.name().equals("first"));
                case DOWN -> {
                    work.take(layer, level, true);
                    work.take(layer, ++level, false);
                }
                case UP -> work.take(layer, level--, true);
                case MIX -> work.take(layer, level, false);
                default -> {}
            }
        }
    }

    private static float widest(float[] ranges) {
        float widest = 1e-6f;
        for (float range : ranges) {
            widest = Math.max(widest, range);
        }
        return widest;
    }

    /** @param ranges by place, the largest size of each channel */
    static EightBits of(Form form, Map<String, float[]> ranges) {
        Map<String, float[]> steps = new LinkedHashMap<>();
        for (Network.Layer layer : Network.layers(form)) {
            if (fits(layer)) {
                // What comes from floats and returns to them has one step for all channels: the runtime is slow at
                // others.
                steps.computeIfAbsent(in(layer), place -> steps(place, ranges.get(place), 0, 1));
                boolean inside = isPositive(out(layer)) || layer.kind() == Network.Kind.UP;
                steps.put(
                        out(layer),
                        steps(
                                out(layer),
                                ranges.get(out(layer)),
                                inside ? OWN_RANGE : 0,
                                layer.kind() == Network.Kind.UP ? 4 : 1));
            }
        }
        return new EightBits(steps);
    }

    /** @param alike so many channels side by side have the same step */
    private static float[] steps(String place, float[] ranges, double own, int alike) {
        float widest = widest(ranges);
        float[] steps = new float[ranges.length];
        for (int i = 0; i < steps.length; i++) {
            float range = 1e-3f * widest;
            for (int k = i / alike * alike; k < i / alike * alike + alike; k++) {
                range = Math.max(range, ranges[k]);
            }
            steps[i] = (float) (widest * Math.pow(range / widest, own) / highest(place));
        }
        return steps;
    }

    static EightBits read(Path state) throws IOException {
        Map<String, float[]> steps = new LinkedHashMap<>();
        if (Files.exists(state.resolve(FILE))) {
            for (String line : Files.readAllLines(state.resolve(FILE))) {
                String[] words = line.split(" ");
                float[] own = new float[words.length - 1];
                for (int i = 0; i < own.length; i++) {
                    own[i] = Float.parseFloat(words[i + 1]);
                }
                steps.put(words[0], own);
            }
        }
        return new EightBits(steps);
    }

    void write(Path state) throws IOException {
        List<String> lines = new ArrayList<>();
        steps.forEach((place, own) -> lines.add(IntStream.range(0, own.length)
                .mapToObj(i -> Float.toString(own[i]))
                .collect(Collectors.joining(" ", place + " ", ""))));
        Files.write(state.resolve(FILE), lines);
    }
}
