package org.rainsieve.learn;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Writes the network as an ONNX file (opset 13): the few protobuf messages of onnx.proto that it needs. */
final class OnnxFile {
    private static final int FLOAT = 1;
    private static final int UINT8 = 2;
    private static final int INT8 = 3;
    private static final int INT32 = 6;
    private static final int INT64 = 7;

    private final ByteArrayOutputStream graph = new ByteArrayOutputStream();
    /** Where the runtime keeps a convolution of whole numbers that takes pixels with all their channels side by side. */
    private static final String PIXELS_DOMAIN = "com.microsoft";

    private final EightBits bits;
    private final Set<String> written = new HashSet<>();
    private int count;

    /** Where numbers are whole just now; empty while they are floats. */
    private String place = "";

    private boolean arePixels;

    private OnnxFile(EightBits bits) {
        this.bits = bits;
    }

    /** @param bits what is worked in eight bits, if anything is */
    static void write(
            Form form,
            Path file,
            Map<String, float[]> values,
            Map<String, ai.djl.ndarray.types.Shape> shapes,
            EightBits bits)
            throws IOException {
        OnnxFile onnx = new OnnxFile(bits);
        Map<String, float[]> floats = new LinkedHashMap<>(values);
        String x = "input";
        String start = null;
        List<String> kept = new ArrayList<>();
        for (Network.Layer layer : Network.layers(form)) {
            if (bits.has(layer)) {
                x = onnx.whole(layer, x, values);
                floats.remove(layer.name() + ".weight");
                floats.remove(layer.name() + ".bias");
                continue;
            }
            if (layer.kind() == Network.Kind.RELU && !onnx.place.isEmpty()) {
                continue; // has been done by the rounding
            }
            x = onnx.floats(x);
            switch (layer.kind()) {
                case CONVOLVE -> x = onnx.convolve(layer.name(), onnx.planes(x), 3, 1, 1);
                case DOWN -> x = onnx.convolve(layer.name(), x, 2, 0, 2);
                case RELU -> x = onnx.node("Relu", List.of(x), List.of());
                case RESIDUAL_START -> start = x;
                case RESIDUAL_END -> x = onnx.node("Add", List.of(x, start), List.of());
                case KEEP -> kept.add(x);
                case UP -> x = onnx.spread(layer.name(), onnx.convolve(layer.name(), x, 1, 0, 1), layer.out());
                case MIX -> x = onnx.convolve(layer.name(), x, 1, 0, 1);
                case ADD_KEPT -> x = onnx.node("Add", List.of(x, kept.remove(kept.size() - 1)), List.of());
            }
            if (layer.name().equals("first") && !bits.steps().isEmpty()) {
                x = onnx.pixels(x);
            }
        }
        String base = onnx.node("Conv", List.of("input", "nearest"), List.of(numbers("kernel_shape", 1, 1)));
        onnx.named("Add", List.of(x, base), "output", List.of());
        floats.forEach((name, v) -> onnx.tensor(name, shapes.get(name).getShape(), v));
        onnx.tensor("nearest", new long[] {form.outputs, form.inputs, 1, 1}, form.nearestColour());
        onnx.field(2, "denoise");
        onnx.field(11, shape("input", form.inputs));
        onnx.field(12, shape("output", form.outputs));

        ByteArrayOutputStream model = new ByteArrayOutputStream();
        varint(model, 1, 8); // IR version
        bytes(model, 2, "rain-sieve".getBytes(StandardCharsets.UTF_8));
        bytes(model, 7, onnx.graph.toByteArray());
        ByteArrayOutputStream opset = new ByteArrayOutputStream();
        varint(opset, 2, 13);
        bytes(model, 8, opset.toByteArray());
        if (!bits.steps().isEmpty()) {
            ByteArrayOutputStream more = new ByteArrayOutputStream();
            bytes(more, 1, PIXELS_DOMAIN.getBytes(StandardCharsets.UTF_8));
            varint(more, 2, 1);
            bytes(model, 8, more.toByteArray());
        }
        Files.write(file, model.toByteArray());
    }

    /**
     * What DepthToSpace with mode CRD does: two moves of one axis each take half its time in ONNX Runtime. First neighbours come
     * to lie side by side, then rows.
     */
    private String spread(String name, String x, int planes) {
        x = reshaped("Reshape", name + ".columns", x, 2L * planes, 2, 0, 0);
        x = node("Transpose", List.of(x), List.of(numbers("perm", 0, 2, 3, 1)));
        x = reshaped("Unsqueeze", name + ".first", x, 0); // or the next shape could not take the height over
        x = reshaped("Reshape", name + ".rows", x, planes, 2, 0, -1);
        x = node("Transpose", List.of(x), List.of(numbers("perm", 0, 2, 1, 3)));
        return reshaped("Reshape", name + ".planes", x, 1, planes, -1, 0);
    }

    /** @param to a shape (0: as it is there, -1: what is left), or axes */
    private String reshaped(String type, String name, String x, long... to) {
        ByteBuffer raw = ByteBuffer.allocate(to.length * 8).order(ByteOrder.LITTLE_ENDIAN);
        for (long value : to) {
            raw.putLong(value);
        }
        tensor(name, INT64, new long[] {to.length}, raw);
        return node(type, List.of(x, name), List.of());
    }

    /** The learned arrays of a file that {@link #write} made, by name. */
    static Map<String, float[]> readWeights(Path file) throws IOException {
        Map<String, float[]> values = new LinkedHashMap<>();
        messages(ByteBuffer.wrap(Files.readAllBytes(file)), 7)
                .forEach(graph -> messages(graph, 5).forEach(tensor -> {
                    String name = StandardCharsets.UTF_8
                            .decode(messages(tensor, 8).get(0))
                            .toString();
                    if (!name.endsWith(".weight") && !name.endsWith(".bias")) {
                        return;
                    }
                    float[] numbers = new float[messages(tensor, 9).get(0).remaining() / 4];
                    messages(tensor, 9)
                            .get(0)
                            .order(ByteOrder.LITTLE_ENDIAN)
                            .asFloatBuffer()
                            .get(numbers);
                    values.put(name, numbers);
                }));
        return values;
    }

    /** The length-delimited fields of that number in a message. */
    private static List<ByteBuffer> messages(ByteBuffer message, int number) {
        ByteBuffer in = message.duplicate();
        List<ByteBuffer> found = new ArrayList<>();
        while (in.hasRemaining()) {
            long key = varint(in);
            long value = varint(in);
            if ((key & 7) == 2) {
                if (key >> 3 == number) {
                    found.add(in.slice(in.position(), (int) value));
                }
                in.position(in.position() + (int) value);
            }
        }
        return found;
    }

    private static long varint(ByteBuffer in) {
        long value = 0;
        for (int shift = 0; ; shift += 7) {
            byte b = in.get();
            value |= (long) (b & 0x7f) << shift;
            if (b >= 0) {
                return value;
            }
        }
    }

    private String convolve(String name, String x, int kernel, int padding, int stride) {
        return node(
                "Conv",
                List.of(x, name + ".weight", name + ".bias"),
                List.of(
                        numbers("kernel_shape", kernel, kernel),
                        numbers("pads", padding, padding, padding, padding),
                        numbers("strides", stride, stride)));
    }

    /** A convolution in whole numbers of eight bits. */
    private String whole(Network.Layer layer, String x, Map<String, float[]> values) {
        String name = layer.name();
        if (place.isEmpty()) {
            place = EightBits.in(layer);
            x = node("QuantizeLinear", List.of(x, step(place), zero(place)), List.of());
        }
        EightBits.Layer own =
                layer.kind() == Network.Kind.UP ? bits.layer(layer, values).inRows() : bits.layer(layer, values);
        int width = own.bias().length;
        int kernel = layer.kind() == Network.Kind.CONVOLVE ? 3 : layer.kind() == Network.Kind.DOWN ? 2 : 1;
        int stride = layer.kind() == Network.Kind.DOWN ? 2 : 1;
        int pad = kernel == 3 ? 1 : 0;
        tensor(name + ".weight", INT8, new long[] {width, layer.in(), kernel, kernel}, ByteBuffer.wrap(own.weight()));
        tensor(name + ".scale", new long[] {width}, own.scale());
        tensor(name + ".even", INT8, new long[] {width}, ByteBuffer.wrap(new byte[width]));
        ByteBuffer bias = ByteBuffer.allocate(4 * width).order(ByteOrder.LITTLE_ENDIAN);
        bias.asIntBuffer().put(own.bias());
        tensor(name + ".bias", INT32, new long[] {width}, bias);
        String zeroIn = zero(place);
        place = EightBits.out(layer);
        x = node(
                "QLinearConv",
                List.of(
                        x,
                        one(),
                        zeroIn,
                        name + ".weight",
                        name + ".scale",
                        name + ".even",
                        one(),
                        zero(place),
                        name + ".bias"),
                List.of(
                        numbers("kernel_shape", kernel, kernel),
                        numbers("pads", pad, pad, pad, pad),
                        numbers("strides", stride, stride),
                        number("channels_last", 1)));
        return layer.kind() == Network.Kind.UP ? spreadPixels(name, x, layer.out()) : x;
    }

    /** As {@link #spread}, for pixels with their channels side by side, in the order of {@link EightBits#inRows}. */
    private String spreadPixels(String name, String x, int channels) {
        x = reshaped("Squeeze", name + ".first", x, 0); // or the next shapes could not take height and width over
        x = reshaped("Reshape", name + ".rows", x, 0, 0, 2, 2L * channels);
        x = node("Transpose", List.of(x), List.of(numbers("perm", 0, 2, 1, 3)));
        x = reshaped("Reshape", name + ".columns", x, 0, 2, -1, channels);
        return reshaped("Reshape", name + ".pixels", x, 1, -1, 0, channels);
    }

    /** Planes to pixels with their channels side by side, as whole numbers are convolved fastest. */
    private String pixels(String x) {
        arePixels = true;
        return node("Transpose", List.of(x), List.of(numbers("perm", 0, 2, 3, 1)));
    }

    private String planes(String x) {
        if (!arePixels) {
            return x;
        }
        arePixels = false;
        return node("Transpose", List.of(x), List.of(numbers("perm", 0, 3, 1, 2)));
    }

    /** Numbers as floats, whatever they are just now. */
    private String floats(String x) {
        if (place.isEmpty()) {
            return x;
        }
        String from = place;
        place = "";
        return node("DequantizeLinear", List.of(x, step(from), zero(from)), List.of());
    }

    private String step(String at) {
        if (written.add(at)) {
            tensor(at, new long[] {}, new float[] {bits.steps().get(at)[0]});
        }
        return at;
    }

    private String one() {
        if (written.add("one")) {
            tensor("one", new long[] {}, new float[] {1});
        }
        return "one";
    }

    private String zero(String at) {
        int zero = EightBits.isPositive(at) ? 0 : EightBits.MIDDLE;
        String name = "zero" + zero;
        if (written.add(name)) {
            tensor(name, UINT8, new long[] {}, ByteBuffer.wrap(new byte[] {(byte) zero}));
        }
        return name;
    }

    private String node(String type, List<String> inputs, List<byte[]> attributes) {
        String output = "v" + count++;
        named(type, inputs, output, attributes);
        return output;
    }

    private void named(String type, List<String> inputs, String output, List<byte[]> attributes) {
        ByteArrayOutputStream node = new ByteArrayOutputStream();
        inputs.forEach(input -> bytes(node, 1, input.getBytes(StandardCharsets.UTF_8)));
        bytes(node, 2, output.getBytes(StandardCharsets.UTF_8));
        bytes(node, 3, ("n_" + output).getBytes(StandardCharsets.UTF_8));
        bytes(node, 4, type.getBytes(StandardCharsets.UTF_8));
        if (type.equals("QLinearConv")) {
            bytes(node, 7, PIXELS_DOMAIN.getBytes(StandardCharsets.UTF_8));
        }
        attributes.forEach(attribute -> bytes(node, 5, attribute));
        bytes(graph, 1, node.toByteArray());
    }

    private void tensor(String name, long[] dims, float[] values) {
        ByteBuffer raw = ByteBuffer.allocate(values.length * 4).order(ByteOrder.LITTLE_ENDIAN);
        for (float value : values) {
            raw.putFloat(value);
        }
        tensor(name, FLOAT, dims, raw);
    }

    private void tensor(String name, int type, long[] dims, ByteBuffer raw) {
        ByteArrayOutputStream tensor = new ByteArrayOutputStream();
        for (long dim : dims) {
            varint(tensor, 1, dim);
        }
        varint(tensor, 2, type);
        bytes(tensor, 8, name.getBytes(StandardCharsets.UTF_8));
        bytes(tensor, 9, raw.array());
        bytes(graph, 5, tensor.toByteArray());
    }

    private void field(int number, String text) {
        bytes(graph, number, text.getBytes(StandardCharsets.UTF_8));
    }

    private void field(int number, byte[] message) {
        bytes(graph, number, message);
    }

    /** One picture of so many planes, of any height and width (multiples of 8). */
    private static byte[] shape(String name, long planes) {
        ByteArrayOutputStream dims = new ByteArrayOutputStream();
        for (long size : new long[] {1, planes}) {
            ByteArrayOutputStream dim = new ByteArrayOutputStream();
            varint(dim, 1, size);
            bytes(dims, 1, dim.toByteArray());
        }
        for (String size : new String[] {"height", "width"}) {
            ByteArrayOutputStream dim = new ByteArrayOutputStream();
            bytes(dim, 2, size.getBytes(StandardCharsets.UTF_8));
            bytes(dims, 1, dim.toByteArray());
        }
        ByteArrayOutputStream tensor = new ByteArrayOutputStream();
        varint(tensor, 1, 1);
        bytes(tensor, 2, dims.toByteArray());
        ByteArrayOutputStream type = new ByteArrayOutputStream();
        bytes(type, 1, tensor.toByteArray());
        ByteArrayOutputStream info = new ByteArrayOutputStream();
        bytes(info, 1, name.getBytes(StandardCharsets.UTF_8));
        bytes(info, 2, type.toByteArray());
        return info.toByteArray();
    }

    private static byte[] numbers(String name, long... values) {
        ByteArrayOutputStream attribute = new ByteArrayOutputStream();
        bytes(attribute, 1, name.getBytes(StandardCharsets.UTF_8));
        for (long value : values) {
            varint(attribute, 8, value);
        }
        varint(attribute, 20, 7); // INTS
        return attribute.toByteArray();
    }

    private static byte[] number(String name, long value) {
        ByteArrayOutputStream attribute = new ByteArrayOutputStream();
        bytes(attribute, 1, name.getBytes(StandardCharsets.UTF_8));
        varint(attribute, 3, value);
        varint(attribute, 20, 2); // INT
        return attribute.toByteArray();
    }

    private static void varint(ByteArrayOutputStream out, int field, long value) {
        raw(out, (long) field << 3);
        raw(out, value);
    }

    private static void bytes(ByteArrayOutputStream out, int field, byte[] content) {
        raw(out, (long) field << 3 | 2);
        raw(out, content.length);
        out.writeBytes(content);
    }

    private static void raw(ByteArrayOutputStream out, long value) {
        while ((value & ~0x7fL) != 0) {
            out.write((int) (value & 0x7f | 0x80));
            value >>>= 7;
        }
        out.write((int) value);
    }
}
