package org.rainsieve.learn;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.withinPercentage;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import ai.onnxruntime.OnnxTensor;
import ai.onnxruntime.OrtEnvironment;
import ai.onnxruntime.OrtSession;
import java.io.IOException;
import java.nio.FloatBuffer;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.noise.Chance;

/** A network in eight bits, worked by ONNX Runtime, rounds as training does. */
class EightBitsTest {
    private static final Form FORM = Form.BAYER;
    private static final int SIDE = 64;
    private static final Shape INPUT = new Shape(1, FORM.inputs, SIDE, SIDE);

    private final Network network = new Network(FORM, 5);
    private final Map<String, float[]> values = network.values();
    private final float[] input = new float[FORM.inputs * SIDE * SIDE];

    @TempDir
    private Path folder;

    /** The network as it is trained: one at random adds next to nothing that could be rounded. */
    EightBitsTest() throws IOException {
        Map<String, float[]> trained = Checkpoint.read(Path.of("state")).arrays();
        values.replaceAll((name, any) -> trained.get("mean:" + name));
        SplittableRandom random = new SplittableRandom(9);
        for (int i = 0; i < input.length; i++) {
            input[i] = 0.3f + 0.1f * (float) Chance.normal(random);
        }
    }

    @Test
    void runtimeRoundsAsTrainingDoes() throws Exception {
        Rounding.Measuring measuring = new Rounding.Measuring();
        float[] floats = answer(measuring);
        EightBits.equalise(FORM, measuring.ranges(), values);
        Rounding.Measuring again = new Rounding.Measuring();
        assertThat(farthest(answer(again), floats))
                .as("channels made alike change no answer")
                .isLessThan(1e-3);
        EightBits bits = EightBits.of(FORM, again.ranges());
        float[] rounded;
        try (NDManager manager = NDManager.newBaseManager()) {
            rounded = answer(new Rounding(manager, FORM, bits));
        }
        assertThat(farthest(rounded, floats)).as("rounding is seen").isBetween(1e-3, 0.2);

        OnnxFile.write(FORM, folder.resolve("eight.onnx"), values, network.shapes(), bits);
        OrtEnvironment environment = OrtEnvironment.getEnvironment();
        float[] worked = new float[rounded.length];
        try (OrtSession session =
                        environment.createSession(folder.resolve("eight.onnx").toString());
                OnnxTensor in = OnnxTensor.createTensor(environment, FloatBuffer.wrap(input), INPUT.getShape());
                OrtSession.Result out = session.run(Map.of("input", in))) {
            ((OnnxTensor) out.get(0)).getFloatBuffer().get(worked);
        }
        // Not number by number: where sums of floats end a little otherwise, a number is rounded the other way, and
        // what follows from it
        // grows to the size of rounding itself.
        assertThat(rms(worked, floats)).isCloseTo(rms(rounded, floats), withinPercentage(20));

        bits.write(folder);
        assertThat(EightBits.read(folder).steps().keySet())
                .isEqualTo(bits.steps().keySet());
    }

    private float[] answer(Rounding rounding) {
        try (NDManager manager = NDManager.newBaseManager()) {
            Map<String, NDArray> weights = new LinkedHashMap<>();
            values.forEach((name, own) ->
                    weights.put(name, manager.create(own, network.shapes().get(name))));
            NDArray nearest = manager.create(FORM.nearestColour(), new Shape(FORM.outputs, FORM.inputs, 1, 1));
            return Network.apply(FORM, weights, manager.create(input, INPUT), new Network.Fixed(nearest, rounding))
                    .toFloatArray();
        }
    }

    private static double rms(float[] one, float[] other) {
        double sum = 0;
        for (int i = 0; i < one.length; i++) {
            sum += Math.pow(one[i] - other[i], 2);
        }
        return Math.sqrt(sum / one.length);
    }

    private static double farthest(float[] one, float[] other) {
        double most = 0;
        for (int i = 0; i < one.length; i++) {
            most = Math.max(most, Math.abs(one[i] - other[i]));
        }
        return most;
    }
}
