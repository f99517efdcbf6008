package org.rainsieve.learn;

import ai.djl.engine.Engine;
import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import ai.djl.nn.Activation;
import ai.djl.training.GradientCollector;
import java.io.BufferedInputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.SplittableRandom;
import org.rainsieve.noise.Chance;
import org.rainsieve.reading.BlurEvidence;

/**
 * Trains the reader of blur on what {@link BlurExamples} wrote: {@code BlurTraining OUT STEPS VALIDATION EXAMPLES…}. Two hidden layers;
 * out come four logits of what the blur is, for disc and line the logarithm of their size against {@value #USUAL_PX} px and that of
 * its sd, and the cosine and sine of twice the movement's direction. Every example is shown turned and mirrored by whole steps of
 * direction.
 */
public final class BlurTraining {
    static final double USUAL_PX = 5;
    private static final int[] WIDTHS = {BlurEvidence.SIZE, 160, 64, 10};
    private static final int BATCH = 64;
    private static final float MOST_LOG_SD = 2.5f;
    private static final double SIZE_WITHIN = 0.25;
    private static final double RADIANS_WITHIN = Math.toRadians(12);
    private static final double[] SURE = {0, 0.5, 0.7, 0.8, 0.9, 0.95};

    private BlurTraining() {}

    private record Example(float[] evidence, BlurExamples.Kind kind, double sizePx, double angle) {}

    private static List<Example> read(Path file) throws IOException {
        List<Example> all = new ArrayList<>();
        try (DataInputStream in = new DataInputStream(new BufferedInputStream(Files.newInputStream(file), 1 << 16))) {
            while (true) {
                float[] evidence = new float[BlurEvidence.SIZE];
                for (int i = 0; i < evidence.length; i++) {
                    evidence[i] = in.readFloat();
                }
                all.add(new Example(
                        evidence, BlurExamples.Kind.values()[in.readByte()], in.readFloat(), in.readFloat()));
            }
        } catch (EOFException e) {
            return all; // a file that is still written ends anywhere
        }
    }

    /** Turned by whole steps of direction, and mirrored where asked for: gradients and movements alike. */
    private static Example turned(Example example, int steps, boolean mirrored) {
        float[] out = example.evidence.clone();
        int n = BlurEvidence.DIRECTIONS;
        for (int i = 0; i < n; i++) {
            int to = Math.floorMod((mirrored ? -i : i) + steps, n);
            System.arraycopy(
                    example.evidence,
                    i * BlurEvidence.PER_DIRECTION,
                    out,
                    to * BlurEvidence.PER_DIRECTION,
                    BlurEvidence.PER_DIRECTION);
        }
        // Rows run downwards, so gradients turn the other way.
        double turn = -steps * Math.PI / n;
        return new Example(out, example.kind, example.sizePx, (mirrored ? -example.angle : example.angle) + turn);
    }

    public static void main(String[] args) throws IOException {
        int steps = Integer.parseInt(args[1]);
        List<Example> unseen = read(Path.of(args[2]));
        List<Example> seen = new ArrayList<>();
        for (String file : Arrays.asList(args).subList(3, args.length)) {
            seen.addAll(read(Path.of(file)));
        }
        System.out.println(seen.size() + " examples, " + unseen.size() + " unseen");
        SplittableRandom random = new SplittableRandom(7);
        Engine.getInstance().setRandomSeed(1);
        try (NDManager manager = NDManager.newBaseManager()) {
            Map<String, NDArray> weights = new LinkedHashMap<>();
            Map<String, NDArray> mean = new LinkedHashMap<>();
            Map<String, NDArray> first = new LinkedHashMap<>();
            Map<String, NDArray> second = new LinkedHashMap<>();
            for (int l = 0; l + 1 < WIDTHS.length; l++) {
                float[] w = new float[WIDTHS[l] * WIDTHS[l + 1]];
                for (int i = 0; i < w.length; i++) {
                    w[i] = (float) (Math.sqrt(2.0 / WIDTHS[l]) * Chance.normal(random) * (l == 2 ? 0.1 : 1));
                }
                weights.put("w" + l, manager.create(w, new Shape(WIDTHS[l], WIDTHS[l + 1])));
                weights.put("b" + l, manager.zeros(new Shape(WIDTHS[l + 1])));
            }
            weights.forEach((name, value) -> {
                value.setRequiresGradient(true);
                mean.put(name, value.duplicate());
                first.put(name, manager.zeros(value.getShape()));
                second.put(name, manager.zeros(value.getShape()));
            });
            for (int step = 1; step <= steps; step++) {
                double part = (double) step / steps;
                float rate = (float) (1e-3 * (part < 0.05 ? part / 0.05 : 0.5 * (1 + Math.cos(Math.PI * part))));
                try (NDManager sub = manager.newSubManager()) {
                    float lost = step(weights, first, second, batch(seen, random), sub, step, rate);
                    if (step % 1000 == 0) {
                        System.out.printf(Locale.ROOT, "step %d: %.3f%n", step, lost);
                        judge(weights, unseen, sub);
                    }
                }
            }
            write(Path.of(args[0]), weights);
        }
    }

    private static Example[] batch(List<Example> seen, SplittableRandom random) {
        Example[] batch = new Example[BATCH];
        for (int i = 0; i < BATCH; i++) {
            batch[i] = turned(
                    seen.get(random.nextInt(seen.size())),
                    random.nextInt(BlurEvidence.DIRECTIONS),
                    random.nextBoolean());
        }
        return batch;
    }

    private static NDArray inputs(Example[] examples, NDManager manager) {
        float[] all = new float[examples.length * BlurEvidence.SIZE];
        for (int i = 0; i < examples.length; i++) {
            System.arraycopy(examples[i].evidence, 0, all, i * BlurEvidence.SIZE, BlurEvidence.SIZE);
        }
        return manager.create(all, new Shape(examples.length, BlurEvidence.SIZE));
    }

    private static NDArray answer(Map<String, NDArray> weights, NDArray x) {
        NDArray out = x;
        for (int l = 0; l + 1 < WIDTHS.length; l++) {
            out = out.matMul(weights.get("w" + l)).add(weights.get("b" + l));
            out = l + 2 < WIDTHS.length ? Activation.relu(out) : out;
        }
        return out;
    }

    private static float step(
            Map<String, NDArray> weights,
            Map<String, NDArray> first,
            Map<String, NDArray> second,
            Example[] batch,
            NDManager sub,
            int step,
            float rate) {
        int n = batch.length;
        float[] kinds = new float[n * 4];
        float[] sizes = new float[n * 2];
        float[] asked = new float[n * 2];
        float[] turns = new float[n * 2];
        float[] moved = new float[n * 2];
        for (int i = 0; i < n; i++) {
            int kind = batch[i].kind.ordinal();
            kinds[4 * i + kind] = 1;
            if (kind == 1 || kind == 2) {
                sizes[2 * i + kind - 1] = (float) Math.log(batch[i].sizePx / USUAL_PX);
                asked[2 * i + kind - 1] = 1;
            }
            if (kind == 2) {
                turns[2 * i] = (float) Math.cos(2 * batch[i].angle);
                turns[2 * i + 1] = (float) Math.sin(2 * batch[i].angle);
                moved[2 * i] = 1;
                moved[2 * i + 1] = 1;
            }
        }
        Shape two = new Shape(n, 2);
        NDArray input = inputs(batch, sub);
        NDArray loss;
        try (GradientCollector gradients = Engine.getInstance().newGradientCollector()) {
            NDArray out = answer(weights, input);
            NDArray kind = out.get(":, 0:4")
                    .logSoftmax(1)
                    .mul(sub.create(kinds, new Shape(n, 4)))
                    .sum()
                    .neg();
            NDArray sd = out.get(":, 6:8").tanh().mul(MOST_LOG_SD);
            NDArray off = out.get(":, 4:6").sub(sub.create(sizes, two));
            NDArray size = off.square()
                    .mul(sd.mul(-2).exp())
                    .mul(0.5f)
                    .add(sd)
                    .mul(sub.create(asked, two))
                    .sum();
            NDArray turn = out.get(":, 8:10")
                    .sub(sub.create(turns, two))
                    .square()
                    .mul(sub.create(moved, two))
                    .sum();
            loss = kind.add(size.mul(0.5f)).add(turn.mul(2f)).div(n);
            gradients.backward(loss);
        }
        float lost = loss.getFloat();
        for (Map.Entry<String, NDArray> entry : weights.entrySet()) {
            NDArray weight = entry.getValue();
            NDArray gradient = weight.getGradient();
            NDArray m = first.get(entry.getKey());
            NDArray v = second.get(entry.getKey());
            // Kingma, Ba 2015, with decayed weights (Loshchilov, Hutter 2019).
            m.muli(0.9f).addi(gradient.mul(0.1f));
            v.muli(0.99f).addi(gradient.square().mul(0.01f));
            NDArray change = m.div(1 - (float) Math.pow(0.9, step))
                    .div(v.div(1 - (float) Math.pow(0.99, step)).sqrt().add(1e-8f));
            NDArray plain = weight.stopGradient();
            plain.subi(change.mul(rate));
            if (entry.getKey().startsWith("w")) {
                plain.muli(1 - 0.02f * rate);
            }
            gradient.muli(0f);
        }
        return lost;
    }

    private static void judge(Map<String, NDArray> weights, List<Example> unseen, NDManager sub) {
        float[] out =
                answer(weights, inputs(unseen.toArray(new Example[0]), sub)).toFloatArray();
        for (double sure : SURE) {
            int[] told = new int[4];
            int[] right = new int[4];
            int[] all = new int[4];
            for (int i = 0; i < unseen.size(); i++) {
                Example example = unseen.get(i);
                int kind = example.kind.ordinal();
                all[kind]++;
                int said = 0;
                double sum = 0;
                for (int k = 0; k < 4; k++) {
                    said = out[10 * i + k] > out[10 * i + said] ? k : said;
                }
                for (int k = 0; k < 4; k++) {
                    sum += Math.exp(out[10 * i + k] - out[10 * i + said]);
                }
                if (1 / sum < sure || said == 3) {
                    continue;
                }
                told[kind]++;
                boolean fits = said == kind;
                if (fits && said > 0) {
                    double size = USUAL_PX * Math.exp(out[10 * i + 3 + said]);
                    fits = Math.abs(size - example.sizePx) <= SIZE_WITHIN * example.sizePx;
                }
                if (fits && said == 2) {
                    double angle = Math.atan2(out[10 * i + 9], out[10 * i + 8]) / 2;
                    double apart = Math.abs(Math.IEEEremainder(angle - example.angle, Math.PI));
                    fits = apart <= RADIANS_WITHIN;
                }
                right[kind] += fits ? 1 : 0;
            }
            int tell = told[0] + told[1] + told[2] + told[3];
            int fit = right[0] + right[1] + right[2];
            System.out.printf(
                    Locale.ROOT,
                    "  p ≥ %.2f: right %.1f %% (soft %.0f, disc %.0f, line %.0f), wrong %.1f %%%n",
                    sure,
                    100.0 * fit / (all[0] + all[1] + all[2]),
                    100.0 * right[0] / all[0],
                    100.0 * right[1] / all[1],
                    100.0 * right[2] / all[2],
                    100.0 * (tell - fit) / unseen.size());
        }
    }

    private static void write(Path file, Map<String, NDArray> weights) throws IOException {
        try (DataOutputStream out = new DataOutputStream(Files.newOutputStream(file))) {
            for (NDArray weight : weights.values()) {
                for (float value : weight.toFloatArray()) {
                    out.writeFloat(value);
                }
            }
        }
    }
}
