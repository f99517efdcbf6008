package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDList;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import ai.djl.nn.Activation;
import ai.djl.nn.convolutional.Conv2d;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import org.rainsieve.noise.Chance;

/**
 * The learned denoiser: a three-level U-shape of plain 3×3 convolutions over half-size planes (after Ronneberger,
 * Fischer, Brox 2015, with residual blocks), which denoises and demosaics together as in Gharbi et al. 2016. It adds a
 * correction to the nearest-colour picture, so that with nothing learned it returns the mosaic.
 *
 * <p>Shapes: input as {@link Form} has it × H/2 × W/2, output planes as the form has them × H/2 × W/2.
 */
final class Network {
    /** What one layer is, in the order of work; both the training graph and the exported file are made from this. */
    enum Kind {
        CONVOLVE,
        RESIDUAL_START,
        RESIDUAL_END,
        RELU,
        KEEP,
        DOWN,
        UP,
        MIX,
        ADD_KEPT
    }

    record Layer(Kind kind, String name, int in, int out) {}

    static final int[] WIDTHS = {32, 64, 112};

    private final Map<String, float[]> values = new LinkedHashMap<>();
    private final Map<String, Shape> shapes = new LinkedHashMap<>();

    Network(Form form, long seed) {
        SplittableRandom random = new SplittableRandom(seed);
        for (Layer layer : layers(form)) {
            int kernel = layer.kind == Kind.CONVOLVE ? 3 : layer.kind == Kind.DOWN ? 2 : 1;
            if (layer.in == 0) {
                continue;
            }
            int out = layer.kind == Kind.UP ? layer.out * 4 : layer.out;
            float[] weight = new float[out * layer.in * kernel * kernel];
            // He 2015; the end of each residual block and the last layer start near zero.
            double spread = Math.sqrt(2.0 / (layer.in * kernel * kernel));
            if (layer.name.endsWith("b") || layer.name.equals("last")) {
                spread *= 0.1;
            }
            for (int i = 0; i < weight.length; i++) {
                // Mixing starts with leaving everything as it is.
                weight[i] = layer.kind != Kind.MIX
                        ? (float) (spread * Chance.normal(random))
                        : i / layer.in == i % layer.in ? 1 : 0;
            }
            values.put(layer.name + ".weight", weight);
            shapes.put(layer.name + ".weight", new Shape(out, layer.in, kernel, kernel));
            values.put(layer.name + ".bias", new float[out]);
            shapes.put(layer.name + ".bias", new Shape(out));
        }
    }

    /** So wide are the two levels of a network that refines a picture. */
    private static final int[] REFINING = {32, 48};

    static List<Layer> layers(Form form) {
        List<Layer> list = new ArrayList<>();
        if (form.refines()) {
            list.add(new Layer(Kind.CONVOLVE, "first", form.inputs, REFINING[0]));
            block(list, "in0", REFINING[0]);
            list.add(new Layer(Kind.KEEP, "0", 0, 0));
            list.add(new Layer(Kind.DOWN, "down0", REFINING[0], REFINING[1]));
            block(list, "mid0", REFINING[1]);
            up(list, "up0", REFINING[1], REFINING[0]);
            block(list, "out0", REFINING[0]);
            list.add(new Layer(Kind.CONVOLVE, "last", REFINING[0], form.outputs));
            return list;
        }
        list.add(new Layer(Kind.CONVOLVE, "first", form.inputs, WIDTHS[0]));
        block(list, "in0", WIDTHS[0]);
        list.add(new Layer(Kind.KEEP, "0", 0, 0));
        list.add(new Layer(Kind.DOWN, "down0", WIDTHS[0], WIDTHS[1]));
        block(list, "in1", WIDTHS[1]);
        list.add(new Layer(Kind.KEEP, "1", 0, 0));
        list.add(new Layer(Kind.DOWN, "down1", WIDTHS[1], WIDTHS[2]));
        block(list, "mid0", WIDTHS[2]);
        block(list, "mid1", WIDTHS[2]);
        up(list, "up1", WIDTHS[2], WIDTHS[1]);
        block(list, "out1", WIDTHS[1]);
        up(list, "up0", WIDTHS[1], WIDTHS[0]);
        block(list, "out0", WIDTHS[0]);
        list.add(new Layer(Kind.CONVOLVE, "last", WIDTHS[0], form.outputs));
        return list;
    }

    private static void up(List<Layer> list, String name, int in, int out) {
        list.add(new Layer(Kind.UP, name, in, out));
        list.add(new Layer(Kind.MIX, name + "m", out, out));
        list.add(new Layer(Kind.ADD_KEPT, name, 0, 0));
    }

    private static void block(List<Layer> list, String name, int width) {
        list.add(new Layer(Kind.RESIDUAL_START, name, 0, 0));
        list.add(new Layer(Kind.CONVOLVE, name + "a", width, width));
        list.add(new Layer(Kind.RELU, name, 0, 0));
        list.add(new Layer(Kind.CONVOLVE, name + "b", width, width));
        list.add(new Layer(Kind.RESIDUAL_END, name, 0, 0));
    }

    /** Multiply-adds per pixel of the frame, the fixed nearest-colour layer left out. */
    static double multiplyAddsPerPixel(Form form) {
        double cells = 1;
        double sum = 0;
        for (Layer layer : layers(form)) {
            switch (layer.kind) {
                case CONVOLVE -> sum += 9.0 * layer.in * layer.out * cells;
                case DOWN -> {
                    cells /= 4;
                    sum += 4.0 * layer.in * layer.out * cells;
                }
                case MIX -> sum += layer.in * layer.out * cells;
                case UP -> {
                    sum += 4.0 * layer.in * layer.out * cells;
                    cells *= 4;
                }
                default -> {}
            }
        }
        // A cell is a pixel of the frame where that is to be enlarged, and four of them elsewhere.
        return form == Form.ENLARGE ? sum : sum / 4;
    }

    Map<String, float[]> values() {
        return values;
    }

    Map<String, Shape> shapes() {
        return shapes;
    }

    Map<String, NDArray> parameters(NDManager manager) {
        Map<String, NDArray> arrays = new LinkedHashMap<>();
        values.forEach((name, value) -> arrays.put(name, manager.create(value, shapes.get(name))));
        return arrays;
    }

    /**
     * What training never changes.
     *
     * @param nearest the fixed layer of the nearest colours, see {@link Form#nearestColour}
     */
    record Fixed(NDArray nearest, Rounding rounding) {}

    static NDArray apply(Form form, Map<String, NDArray> p, NDArray input, Fixed fixed) {
        NDArray x = input;
        NDArray start = null;
        List<NDArray> kept = new ArrayList<>();
        for (Layer layer : layers(form)) {
            switch (layer.kind) {
                case CONVOLVE -> x = convolve(p, fixed.rounding, layer, x, 1, 1);
                case DOWN -> x = convolve(p, fixed.rounding, layer, x, 0, 2);
                case RELU -> x = Activation.relu(x);
                case RESIDUAL_START -> start = x;
                case RESIDUAL_END -> x = x.add(start);
                case KEEP -> kept.add(x);
                case UP -> x = spread(convolve(p, fixed.rounding, layer, x, 0, 1));
                case MIX -> x = convolve(p, fixed.rounding, layer, x, 0, 1);
                case ADD_KEPT -> x = x.add(kept.remove(kept.size() - 1));
            }
        }
        NDArray base =
                Conv2d.conv2d(input, fixed.nearest, null, new Shape(1, 1)).singletonOrThrow();
        return x.add(base);
    }

    private static NDArray convolve(
            Map<String, NDArray> p, Rounding rounding, Layer layer, NDArray x, int padding, int stride) {
        NDList out = Conv2d.conv2d(
                rounding.in(layer, x),
                rounding.weight(layer, p.get(layer.name + ".weight"), x.getManager()),
                p.get(layer.name + ".bias"),
                new Shape(stride, stride),
                new Shape(padding, padding));
        return rounding.out(layer, out.singletonOrThrow());
    }

    /** Sub-pixel shuffle (Shi et al. 2016): channel c·4 + 2·dy + dx goes to position (dy, dx) of channel c. */
    private static NDArray spread(NDArray x) {
        long n = x.getShape().get(0);
        long c = x.getShape().get(1) / 4;
        long h = x.getShape().get(2);
        long w = x.getShape().get(3);
        return x.reshape(n, c, 2, 2, h, w).transpose(0, 1, 4, 2, 5, 3).reshape(n, c, 2 * h, 2 * w);
    }
}
