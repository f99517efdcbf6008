package org.rainsieve.learn;

import ai.djl.engine.Engine;
import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.index.NDIndex;
import ai.djl.ndarray.types.Shape;
import ai.djl.training.GradientCollector;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.stream.Collectors;

/**
 * Trains the denoiser, resumes where it stopped, and keeps the running mean of the weights (Polyak) whenever it scores
 * better on the validation pictures. Usage: {@code Train FORM PHOTOS STATE MINUTES [RATE [LAST-RATE]]}, FORM being {@code bayer},
 * {@code little}, {@code six_by_six}, {@code picture}, {@code enlarge} or {@code sharpen}; with {@code -Deight} from now on in eight bits, see
 * {@link EightBits}. Those that denoise, but the first, begin from the 2×2 network
 * {@code bayer.onnx} in their folder.
 */
public final class Train {
    private static final int SIZE = 128;
    private static final int BATCH = Integer.getInteger("batch", 8);
    private static final long SEED = 20261125;

    /** Whole pictures never trained on. */
    static final List<String> VALIDATION =
            List.of("perched-osprey", "casa-mila", "Kleiber_by_Lukas_Baubkus", "singaporean-cityscape");

    /** Pictures under CC0, CC-BY, CC-BY-SA or in the public domain; see docs/learned.md for credits. */
    static final List<String> TRAINING = List.of(
            "beacon-street-sunset",
            "blue-periwinkle",
            "canyon-wren",
            "extreme-desert-hike",
            "high-trestle-trail",
            "lake-sherburne",
            "oakland-zoo-otters",
            "piazza-gae-aulenti",
            "roman-colosseum",
            "tea-gardens",
            "Bridge_by_Sander_Klootwijk",
            "Dragonfly_by_Bolly",
            "Picture_0B_by_freespace",
            "Picture_1A_by_freespace",
            "Wine_by_Jakkub_Mede",
            "aitzgorri_by_Aitzol_Berasategi",
            "free_by_Peter_Nerlich",
            "friends_by_Aitzol_Berasategi",
            "greentock_by_Peter_Nerlich",
            "life_by_Aitzol_Berasategi",
            "picosdeeuropa_by_Aitzol_Berasategi",
            "seeding_by_Clements_Engelhardt",
            "sunset_by_Aitzol_Berasategi",
            "collection_cincinnati-bridge",
            "collection_citrus-fruits",
            "collection_european-honey-bee");

    /** In half-size pixels; counts nothing, for in use nothing is taken from there. */
    private static final int RIM = 2;

    /** Batches on which it is measured how large numbers become. */
    private static final int MEASURED = 24;

    /** Examples one after another; what they are judged by each, see {@link Examples.Judged}. */
    private record Batch(float[] input, float[] target, float[] offset, float[] exposure, float[] usual) {}

    private static final NDIndex WITHIN = new NDIndex(String.format(":, :, %1$d:%2$d, %1$d:%2$d", RIM, SIZE / 2 - RIM));

    private Train() {}

    public static void main(String[] args) throws Exception {
        Form form = Form.of(args[0]);
        Path photos = Path.of(args[1]);
        Path state = Path.of(args[2]);
        double budget = Double.parseDouble(args[3]) * 60;
        float rate = args.length > 4 ? Float.parseFloat(args[4]) : 3e-4f;
        float last = args.length > 5 ? Float.parseFloat(args[5]) : rate;
        Files.createDirectories(state);
        List<Photographs.Picture> pictures = Photographs.load(photos, TRAINING);
        List<Photographs.Picture> unseen = Photographs.load(photos, VALIDATION);
        Scores validation = scores(form, unseen);
        System.out.printf(
                Locale.ROOT,
                "%d training pictures, %d validation pictures, %.0f multiply-adds per pixel%n",
                pictures.size(),
                unseen.size(),
                Network.multiplyAddsPerPixel(form));

        Network network = new Network(form, SEED);
        Path released = state.resolve(form.file + ".onnx");
        Checkpoint from;
        if (Checkpoint.isIn(state)) {
            from = Checkpoint.read(state);
        } else if (Files.exists(released)) {
            from = fresh(OnnxFile.readWeights(released), Long.getLong("step", 0));
        } else if (form != Form.BAYER && Files.exists(state.resolve("bayer.onnx"))) {
            Map<String, float[]> weights = OnnxFile.readWeights(state.resolve("bayer.onnx"));
            weights.computeIfPresent("first.weight", (name, w) -> form.firstLayerFromBayer(w, Network.WIDTHS[0]));
            from = fresh(weights, 0);
        } else {
            from = fresh(network.values(), 0);
        }
        from.arrays()
                .replaceAll((name, values) ->
                        name.endsWith("first.weight") ? form.widened(values, Network.WIDTHS[0]) : values);
        // Layers that a state of older days does not know begin as in a new network.
        fresh(network.values(), 0)
                .arrays()
                .forEach((name, values) -> from.arrays().putIfAbsent(name, values));
        BlockingQueue<Batch> batches = new ArrayBlockingQueue<>(4);
        Examples source = switch (form) {
            case PICTURE -> new RenderedSource(new CleanPatches(pictures, RenderedSource.FRAME), SIZE);
            case ENLARGE -> enlarge(pictures, null);
            case SHARPEN -> new SharpenSource(pictures, SIZE, null);
            default -> new PatchSource(form, new CleanPatches(pictures, SIZE), SIZE);
        };
        Thread feeder =
                new Thread(() -> feed(form, source, batches, new SplittableRandom(SEED + from.step())), "patches");
        feeder.setDaemon(true);
        feeder.setUncaughtExceptionHandler((thread, e) -> {
            e.printStackTrace();
            System.exit(1);
        });
        feeder.start();
        boolean begins =
                Boolean.getBoolean("eight") && EightBits.read(state).steps().isEmpty();
        run(
                form,
                network,
                begins ? inEightBits(form, network, from, batches, state) : from,
                batches,
                validation,
                state,
                budget,
                rate,
                last);
    }

    private static Examples enlarge(List<Photographs.Picture> pictures, EnlargeSource.Kind only) {
        return new EnlargeSource(new CleanPatches(pictures, SIZE + 2 * EnlargeSource.EDGE), SIZE, only);
    }

    private static Scores scores(Form form, List<Photographs.Picture> unseen) {
        if (!form.refines()) {
            return new Validation(form, unseen);
        }
        ExampleScores scores = form == Form.ENLARGE
                ? new ExampleScores(
                        form,
                        SIZE,
                        "clean, with grain, compressed",
                        Arrays.stream(EnlargeSource.Kind.values())
                                .map(kind -> enlarge(unseen, kind))
                                .toList())
                : new ExampleScores(
                        form,
                        SIZE,
                        "soft, disc, line",
                        Arrays.stream(SharpenSource.Kind.values())
                                .map(kind -> new SharpenSource(unseen, SIZE, kind))
                                .toList());
        System.out.println("the method it begins from: " + Arrays.toString(scores.begun()) + " dB");
        return scores;
    }

    private static Checkpoint fresh(Map<String, float[]> weights, long step) {
        Map<String, float[]> arrays = new LinkedHashMap<>();
        weights.forEach((name, value) -> {
            arrays.put(name, value);
            arrays.put("mean:" + name, value.clone());
            arrays.put("m:" + name, new float[value.length]);
            arrays.put("v:" + name, new float[value.length]);
        });
        return new Checkpoint(step, 0, 0, arrays);
    }

    private static void feed(Form form, Examples source, BlockingQueue<Batch> batches, SplittableRandom random) {
        int cells = SIZE * SIZE / 4;
        try {
            while (true) {
                Batch batch = new Batch(
                        new float[BATCH * form.inputs * cells],
                        new float[BATCH * form.outputs * cells],
                        new float[BATCH],
                        new float[BATCH],
                        new float[BATCH]);
                float[] input = new float[form.inputs * cells];
                float[] target = new float[form.outputs * cells];
                for (int i = 0; i < BATCH; i++) {
                    Examples.Judged judged = source.next(random, input, target);
                    batch.offset[i] = judged.scale().offset();
                    batch.exposure[i] = judged.exposure();
                    batch.usual[i] = judged.usual() * judged.usual();
                    System.arraycopy(input, 0, batch.input, i * input.length, input.length);
                    System.arraycopy(target, 0, batch.target, i * target.length, target.length);
                }
                batches.put(batch);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private static void run(
            Form form,
            Network network,
            Checkpoint from,
            BlockingQueue<Batch> batches,
            Scores validation,
            Path state,
            double budget,
            float rate,
            float last)
            throws IOException, InterruptedException {
        long begun = System.nanoTime();
        double best = Double.parseDouble(System.getProperty("best", String.valueOf(from.bestDb())));
        try (NDManager manager = NDManager.newBaseManager()) {
            Held held = Held.of(manager, network, from);
            Map<String, NDArray> weights = held.weights;
            weights.values().forEach(w -> w.setRequiresGradient(true));
            EightBits bits = EightBits.read(state);
            Network.Fixed fixed = new Network.Fixed(
                    nearest(manager, form), bits.steps().isEmpty() ? Rounding.NONE : new Rounding(manager, form, bits));
            Keeping keeping = new Keeping(form, network, validation, fixed, state);
            Optimiser optimiser = new Optimiser();
            Shown shown = new Shown(manager);
            double lossSum = 0;
            long lossCount = 0;
            long step = from.step();
            double nextSave = 60;
            while (true) {
                double spent = (System.nanoTime() - begun) / 1e9;
                if (spent > budget) {
                    break;
                }
                Batch batch = batches.take();
                try (NDManager sub = manager.newSubManager()) {
                    NDArray input = sub.create(batch.input, new Shape(BATCH, form.inputs, SIZE / 2, SIZE / 2));
                    NDArray target = sub.create(batch.target, new Shape(BATCH, form.outputs, SIZE / 2, SIZE / 2));
                    NDArray offset = sub.create(batch.offset, new Shape(BATCH, 1, 1, 1));
                    NDArray exposure = sub.create(batch.exposure, new Shape(BATCH, 1, 1, 1));
                    NDArray usual = sub.create(batch.usual, new Shape(BATCH));
                    float loss;
                    try (GradientCollector collector = Engine.getInstance().newGradientCollector()) {
                        NDArray out = Network.apply(form, weights, input, fixed);
                        // The mean of decibels, each example's own, so that little noise counts as much as much noise;
                        // beneath what is usual a better picture counts less and less: bare skies are not worth the
                        // effort.
                        NDArray error = shown.of(out, offset, exposure)
                                .sub(shown.of(target, offset, exposure))
                                .get(WITHIN)
                                .square()
                                .reshape(BATCH, -1)
                                .mean(new int[] {1})
                                .add(usual)
                                .log()
                                .mean();
                        collector.backward(error);
                        loss = error.getFloat();
                    }
                    if (!Float.isFinite(loss)) {
                        throw new IllegalStateException("the loss is not a number at step " + step
                                + ", largest input " + most(batch.input) + ", target " + most(batch.target)
                                + ", weight "
                                + weights.values().stream()
                                        .mapToDouble(w -> most(w.toFloatArray()))
                                        .max()
                                        .orElseThrow());
                    }
                    step++;
                    lossSum += loss;
                    lossCount++;
                    float at = rateAt(rate, last, spent / budget, step);
                    if (!optimiser.step(weights, held.first, held.second, sub, step, at)) {
                        System.out.printf(
                                Locale.ROOT,
                                "step %d was left out, its gradient is no number; loss %.3f, input up to %.3f%n",
                                step,
                                loss,
                                most(batch.input));
                    }
                    float keep = (float) Math.min(0.999, (step + 1.0) / (step + 20.0));
                    for (Map.Entry<String, NDArray> mean : held.means.entrySet()) {
                        NDArray weight = weights.get(mean.getKey());
                        mean.getValue().muli(keep);
                        try (NDArray still = weight.stopGradient();
                                NDArray share = still.mul(1 - keep)) {
                            mean.getValue().addi(share);
                        }
                    }
                }
                if (step % 100 == 0) {
                    System.out.printf(Locale.ROOT, "step %d  %.0f s  loss %.5f%n", step, spent, lossSum / lossCount);
                    lossSum = 0;
                    lossCount = 0;
                }
                if (spent > nextSave) {
                    nextSave = spent + 900;
                    best = keeping.keep(held, step, from.seconds() + spent, best);
                }
            }
            double spent = (System.nanoTime() - begun) / 1e9;
            keeping.keep(held, step, from.seconds() + spent, best);
        }
    }

    /**
     * The state made ready to be trained in eight bits: channels made alike, steps measured on some batches and written beside it.
     * Training begins anew from there.
     */
    private static Checkpoint inEightBits(
            Form form, Network network, Checkpoint from, BlockingQueue<Batch> batches, Path state)
            throws IOException, InterruptedException {
        Map<String, float[]> values = new LinkedHashMap<>();
        network.shapes().keySet().forEach(name -> values.put(name, from.arrays().get("mean:" + name)));
        EightBits.equalise(form, ranges(form, network, values, batches), values);
        EightBits.of(form, ranges(form, network, values, batches)).write(state);
        return fresh(values, 0);
    }

    private static Map<String, float[]> ranges(
            Form form, Network network, Map<String, float[]> values, BlockingQueue<Batch> batches)
            throws InterruptedException {
        Rounding.Measuring measuring = new Rounding.Measuring();
        try (NDManager manager = NDManager.newBaseManager()) {
            Map<String, NDArray> weights = new LinkedHashMap<>();
            values.forEach((name, own) ->
                    weights.put(name, manager.create(own, network.shapes().get(name))));
            Network.Fixed fixed = new Network.Fixed(nearest(manager, form), measuring);
            for (int i = 0; i < MEASURED; i++) {
                try (NDManager sub = manager.newSubManager()) {
                    NDArray input = sub.create(batches.take().input, new Shape(BATCH, form.inputs, SIZE / 2, SIZE / 2));
                    Network.apply(form, weights, input, fixed).close();
                }
            }
        }
        return measuring.ranges();
    }

    private static NDArray nearest(NDManager manager, Form form) {
        return manager.create(form.nearestColour(), new Shape(form.outputs, form.inputs, 1, 1));
    }

    /** The largest size of any; NaN if one is none. */
    private static float most(float[] values) {
        float most = 0;
        for (float value : values) {
            most = Math.max(most, Math.abs(value));
        }
        return most;
    }

    private static float rateAt(float first, float last, double share, long step) {
        return (float) ((first + (last - first) * Math.min(1, share)) * Math.min(1, step / 200f));
    }

    private static Map<String, NDArray> arrays(NDManager manager, Network network, Checkpoint from, String prefix) {
        Map<String, NDArray> arrays = new LinkedHashMap<>();
        network.shapes()
                .forEach((name, shape) ->
                        arrays.put(name, manager.create(from.arrays().get(prefix + name), shape)));
        return arrays;
    }

    /** What training changes. */
    private record Held(
            Map<String, NDArray> weights,
            Map<String, NDArray> means,
            Map<String, NDArray> first,
            Map<String, NDArray> second) {
        static Held of(NDManager manager, Network network, Checkpoint from) {
            return new Held(
                    arrays(manager, network, from, ""),
                    arrays(manager, network, from, "mean:"),
                    arrays(manager, network, from, "m:"),
                    arrays(manager, network, from, "v:"));
        }

        void save(Path state, long step, double seconds, double best) throws IOException {
            Map<String, float[]> arrays = new LinkedHashMap<>();
            for (String name : weights.keySet()) {
                arrays.put(name, weights.get(name).toFloatArray());
                arrays.put("mean:" + name, means.get(name).toFloatArray());
                arrays.put("m:" + name, first.get(name).toFloatArray());
                arrays.put("v:" + name, second.get(name).toFloatArray());
            }
            new Checkpoint(step, seconds, best, arrays).write(state);
        }
    }

    /** Where training puts what it has reached. */
    private record Keeping(Form form, Network network, Scores validation, Network.Fixed fixed, Path state) {
        /** The state as it is; the running mean as a network, with its scores, where it is better than any before. */
        double keep(Held held, long step, double seconds, double best) throws IOException {
            double[] db = validation.score(held.means, fixed);
            double mean = Arrays.stream(db).average().orElseThrow();
            String scores = Arrays.stream(db)
                    .mapToObj(level -> String.format(Locale.ROOT, "%.2f", level))
                    .collect(Collectors.joining(" "));
            System.out.printf(
                    Locale.ROOT, "validation at step %d: %s dB, mean %.3f (best %.3f)%n", step, scores, mean, best);
            if (mean > best) {
                Map<String, float[]> values = new LinkedHashMap<>();
                held.means.forEach((name, array) -> values.put(name, array.toFloatArray()));
                OnnxFile.write(
                        form,
                        state.resolve(form.file + ".onnx"),
                        values,
                        network.shapes(),
                        fixed.rounding().bits());
                Files.writeString(
                        state.resolve(form.file + ".txt"),
                        String.format(
                                Locale.ROOT,
                                "step %d, %.0f s of training, seed %d, %.0f multiply-adds per pixel%n"
                                        + "validation PSNR (sRGB, dB) at %s: %s%n",
                                step,
                                seconds,
                                SEED,
                                Network.multiplyAddsPerPixel(form),
                                validation.levels(),
                                scores));
            }
            held.save(state, step, seconds, Math.max(mean, best));
            return Math.max(mean, best);
        }
    }
}
