package org.rainsieve.benchmarks;

import ai.onnxruntime.OnnxTensor;
import ai.onnxruntime.OrtEnvironment;
import ai.onnxruntime.OrtException;
import ai.onnxruntime.OrtSession;
import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.FloatBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.stream.IntStream;

/**
 * How fast ONNX Runtime is at nothing but convolutions: 64 channels, 3 × 3, one after another. What the trained method reaches is
 * measured against that.
 */
final class ConvolutionStack {
    /** As long as a frame takes, nearly: processors work faster for a moment. */
    private static final double SECONDS = 6;

    private static final int CHANNELS = 64;
    private static final int LAYERS = 12;
    private static final int SIDE = 256;

    private ConvolutionStack() {}

    /** Multiply-adds a second in units of 10⁹, one stack for each core, in the mean over some seconds. */
    static double rate() throws OrtException {
        OrtEnvironment environment = OrtEnvironment.getEnvironment();
        OrtSession.SessionOptions options = new OrtSession.SessionOptions();
        options.setIntraOpNumThreads(1);
        options.setInterOpNumThreads(1);
        int cores = Runtime.getRuntime().availableProcessors();
        double work = (double) LAYERS * CHANNELS * CHANNELS * 9 * SIDE * SIDE;
        try (OrtSession session = environment.createSession(model(), options);
                OnnxTensor input = OnnxTensor.createTensor(
                        environment, FloatBuffer.allocate(CHANNELS * SIDE * SIDE), new long[] {1, CHANNELS, SIDE, SIDE
                        })) {
            run(session, input);
            int runs = 0;
            double seconds = 0;
            long begun = System.nanoTime();
            while (seconds < SECONDS) {
                IntStream.range(0, cores).parallel().forEach(k -> run(session, input));
                runs++;
                seconds = (System.nanoTime() - begun) / 1e9;
            }
            return runs * cores * work / seconds / 1e9;
        }
    }

    private static void run(OrtSession session, OnnxTensor input) {
        try {
            session.run(Map.of("x0", input)).close();
        } catch (OrtException e) {
            throw new IllegalStateException(e);
        }
    }

    /** An ONNX file (IR 8, operators 13): every layer has the same small weights. */
    private static byte[] model() {
        ByteArrayOutputStream graph = new ByteArrayOutputStream();
        for (int i = 0; i < LAYERS; i++) {
            ByteArrayOutputStream node = new ByteArrayOutputStream();
            text(node, 1, "x" + i);
            text(node, 1, "weights");
            text(node, 2, "x" + (i + 1));
            text(node, 4, "Conv");
            ByteArrayOutputStream pads = new ByteArrayOutputStream();
            text(pads, 1, "pads");
            for (int side = 0; side < 4; side++) {
                number(pads, 8, 1);
            }
            number(pads, 20, 7);
            bytes(node, 5, pads.toByteArray());
            bytes(graph, 1, node.toByteArray());
        }
        text(graph, 2, "stack");
        ByteArrayOutputStream weights = new ByteArrayOutputStream();
        for (long size : new long[] {CHANNELS, CHANNELS, 3, 3}) {
            number(weights, 1, size);
        }
        number(weights, 2, 1);
        text(weights, 8, "weights");
        ByteBuffer values = ByteBuffer.allocate(CHANNELS * CHANNELS * 9 * 4).order(ByteOrder.LITTLE_ENDIAN);
        while (values.hasRemaining()) {
            values.putFloat(0.001f);
        }
        bytes(weights, 9, values.array());
        bytes(graph, 5, weights.toByteArray());
        bytes(graph, 11, plane("x0"));
        bytes(graph, 12, plane("x" + LAYERS));
        ByteArrayOutputStream model = new ByteArrayOutputStream();
        number(model, 1, 8);
        bytes(model, 7, graph.toByteArray());
        ByteArrayOutputStream operators = new ByteArrayOutputStream();
        number(operators, 2, 13);
        bytes(model, 8, operators.toByteArray());
        return model.toByteArray();
    }

    private static byte[] plane(String name) {
        ByteArrayOutputStream shape = new ByteArrayOutputStream();
        for (long size : new long[] {1, CHANNELS, SIDE, SIDE}) {
            ByteArrayOutputStream dimension = new ByteArrayOutputStream();
            number(dimension, 1, size);
            bytes(shape, 1, dimension.toByteArray());
        }
        ByteArrayOutputStream tensor = new ByteArrayOutputStream();
        number(tensor, 1, 1);
        bytes(tensor, 2, shape.toByteArray());
        ByteArrayOutputStream type = new ByteArrayOutputStream();
        bytes(type, 1, tensor.toByteArray());
        ByteArrayOutputStream value = new ByteArrayOutputStream();
        text(value, 1, name);
        bytes(value, 2, type.toByteArray());
        return value.toByteArray();
    }

    private static void text(ByteArrayOutputStream out, int field, String value) {
        bytes(out, field, value.getBytes(StandardCharsets.UTF_8));
    }

    private static void bytes(ByteArrayOutputStream out, int field, byte[] content) {
        raw(out, (long) field << 3 | 2);
        raw(out, content.length);
        out.writeBytes(content);
    }

    private static void number(ByteArrayOutputStream out, int field, long value) {
        raw(out, (long) field << 3);
        raw(out, value);
    }

    /** Seven bits at a time, as protocol buffers have it. */
    private static void raw(ByteArrayOutputStream out, long value) {
        while ((value & ~0x7fL) != 0) {
            out.write((int) (value & 0x7f | 0x80));
            value >>>= 7;
        }
        out.write((int) value);
    }
}
