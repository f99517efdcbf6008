package org.rainsieve.denoise;

import ai.onnxruntime.OnnxTensor;
import ai.onnxruntime.OrtEnvironment;
import ai.onnxruntime.OrtException;
import ai.onnxruntime.OrtSession;
import ai.onnxruntime.TensorInfo;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.FloatBuffer;
import java.security.MessageDigest;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Queue;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Censoring;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.RootScale;
import org.rainsieve.noise.SensorNoise;

/**
 * The trained method: a small convolutional network that denoises and demosaics a mosaic together, told the noise
 * (Gharbi et al. 2016; Zhang, Zuo, Zhang 2018; Brooks et al. 2019; see docs/learned.md). It works on white-balanced values
 * in a {@link RootScale}, packed into half-size planes. 2×2 sensors, 6×6 sensors and pictures in full colour have models of
 * their own.
 *
 * <p>Cells lie alike in the grid of the network's reductions in every tile, and the margin is wider than what a pixel
 * depends on, so that its result is the same in whatever tile it is computed.
 */
public final class Learned implements DenoiseMethod {
    /**
     * Planes in. 2×2: four of the mosaic; 6×6: {@link NearColours} at four positions each, and four that tell whose photosite
     * stands there (red −1, green 0, blue 1). Then for each colour its noise sd far above black and at black.
     */
    private static final int INPUTS = 10;

    private static final int SIX_INPUTS = 22;

    /** Four positions of each colour, then {@link PictureLevels}. */
    private static final int PICTURE_INPUTS = 12 + PictureLevels.COUNT;

    private static final int NOISE_INPUTS = 6;
    private static final int PERIOD = 6;

    private static final int OUTPUTS = 12;

    /** The network's reach, and two pixels more for near colours. */
    static final int MARGIN = 72;

    /** Models that were released, oldest first; none is ever taken away, so that a camera's next set matches its last. */
    static final List<String> MODELS = List.of(
            "bayer-1", "bayer-2", "bayer-3", "bayer-4", "bayer-5", "bayer-6", "bayer-7", "six-1", "six-2", "picture-1");

    /** Models of two networks: the first, for little noise, works up to this a of green, the second beyond. */
    private static final Map<String, Pair> PAIRS = Map.of(
            "bayer-5", new Pair("bayer-5", 0.005, "bayer-4"),
            "bayer-6", new Pair("bayer-6", 0.005, "bayer-6-much"),
            "bayer-7", new Pair("bayer-7", 0.005, "bayer-7-much"));

    private record Pair(String little, double upToA, String much) {}

    private static final int KEPT_CORRECTIONS = 64;

    /** What the network's first layers reduce by; cells of all tiles must lie alike in that grid. */
    private static final int ALIGNED_PX = 16;

    /** Hashes of the model files by name, taken once: a run asks for them for every frame. */
    private static final Map<String, String> HASHES = new ConcurrentHashMap<>();

    /** Loaded at the first use, and only where pixels are worked on. */
    private static final Map<String, Learned> LOADED = new ConcurrentHashMap<>();

    /** What the network's means are off by, for the noise laws and white balances in use: the last few. */
    private final Map<List<Object>, LevelCorrection> corrections =
            Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, true) {
                @Override
                protected boolean removeEldestEntry(Map.Entry<List<Object>, LevelCorrection> eldest) {
                    return size() > KEPT_CORRECTIONS;
                }
            });

    private final OrtEnvironment environment = OrtEnvironment.getEnvironment();
    private final OrtSession ofLittleNoise;
    private final OrtSession ofMuchNoise;
    private final double littleUpToA;
    private final String output;

    /** Networks that are told how near to black the sensor cuts noise, see {@link Censoring}; older ones are not. */
    private final Set<OrtSession> toldOfCuts = new HashSet<>();

    private final Form form;

    /** What the network reads and answers for one tile: as large as the largest so far. */
    private static final class Buffers {
        private FloatBuffer in = FloatBuffer.allocate(0);
        private FloatBuffer out = in;

        FloatBuffer in(int values) {
            in = atLeast(values, in);
            return in.slice(0, values);
        }

        FloatBuffer out(int values) {
            out = atLeast(values, out);
            return out.slice(0, values);
        }

        private static FloatBuffer atLeast(int values, FloatBuffer buffer) {
            return buffer.capacity() >= values
                    ? buffer
                    : ByteBuffer.allocateDirect(4 * values)
                            .order(ByteOrder.nativeOrder())
                            .asFloatBuffer();
        }
    }

    /** Those that nobody works with: no more than ever worked at once. */
    private static final Queue<Buffers> BUFFERS = new ConcurrentLinkedQueue<>();

    /** What a model is for; its name begins with it. */
    private enum Form {
        BAYER(CfaPattern.RGGB, INPUTS),
        SIX(CfaPattern.SIX, SIX_INPUTS),
        PICTURE(CfaPattern.NONE, PICTURE_INPUTS);

        private final CfaPattern pattern;

        /** What every network of the form is told. */
        private final int planesIn;

        Form(CfaPattern pattern, int planesIn) {
            this.pattern = pattern;
            this.planesIn = planesIn;
        }

        static Form of(String name) {
            return valueOf(name.substring(0, name.indexOf('-')).toUpperCase(Locale.ROOT));
        }

        boolean suits(CfaPattern other) {
            return switch (this) {
                case BAYER -> other.isBayer();
                case SIX -> other.isSixBySix();
                case PICTURE -> other.equals(pattern);
            };
        }
    }

    private Learned(String name) throws OrtException {
        form = Form.of(name);
        OrtSession.SessionOptions options = new OrtSession.SessionOptions();
        // Tiles are worked on side by side; one thread each keeps all cores busy and results alike.
        options.setIntraOpNumThreads(1);
        options.setInterOpNumThreads(1);
        Pair pair = PAIRS.get(name);
        ofMuchNoise = environment.createSession(network(pair == null ? name : pair.much), options);
        ofLittleNoise = pair == null ? ofMuchNoise : environment.createSession(network(pair.little), options);
        littleUpToA = pair == null ? 0 : pair.upToA;
        for (OrtSession network : List.of(ofLittleNoise, ofMuchNoise)) {
            if (planesIn(network) > form.planesIn) {
                toldOfCuts.add(network);
            }
        }
        output = ofMuchNoise.getOutputNames().iterator().next();
    }

    private static long planesIn(OrtSession network) throws OrtException {
        return ((TensorInfo) network.getInputInfo().get("input").getInfo()).getShape()[1];
    }

    /** Looked up once, for it is asked for every frame of a shoot. */
    static boolean hasModel() {
        return Presence.ALL;
    }

    private static final class Presence {
        static final boolean ALL = MODELS.stream()
                .flatMap(Learned::networks)
                .allMatch(name -> Learned.class.getResource(file(name)) != null);
    }

    private static Stream<String> networks(String model) {
        Pair pair = PAIRS.get(model);
        return pair == null ? Stream.of(model) : Stream.of(pair.little, pair.much);
    }

    /** Whether a model is for mosaics of that pattern, or for pictures without one. */
    static boolean suits(String name, CfaPattern pattern) {
        return Form.of(name).suits(pattern);
    }

    /** The model that new pages of cameras with that pattern are bound to. */
    static String newest(CfaPattern pattern) {
        return MODELS.stream()
                .filter(name -> suits(name, pattern))
                .reduce((older, newer) -> newer)
                .orElse(MODELS.get(MODELS.size() - 1));
    }

    private static String file(String name) {
        return "/org/rainsieve/denoise/" + name + ".onnx";
    }

    private static byte[] network(String name) {
        try (InputStream in = Learned.class.getResourceAsStream(file(name))) {
            if (in == null) {
                throw new IllegalArgumentException("There is no model called " + name);
            }
            return in.readAllBytes();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    static String hash(String name) {
        return HASHES.computeIfAbsent(name, wanted -> {
            MessageDigest digest = Sha256.digest();
            networks(wanted).map(Learned::network).forEach(digest::update);
            return Sha256.hex(digest);
        });
    }

    /** @throws IllegalArgumentException in plain words when no model that ships has that hash */
    static String named(String hash) {
        return MODELS.stream()
                .filter(name -> hash(name).equals(hash))
                .findFirst()
                .orElseThrow(
                        () -> new IllegalArgumentException(
                                "The model that these settings were made with is not part of this installation. Install the"
                                        + " version of Rain Sieve that made them, or choose another model in the camera book."));
    }

    /** @throws IllegalStateException in plain words when the model that ships is broken */
    static Learned instance(String name) {
        return LOADED.computeIfAbsent(name, wanted -> {
            try {
                return new Learned(wanted);
            } catch (OrtException e) {
                throw new IllegalStateException(
                        "The model file of the method Learned is broken. Install Rain Sieve again, or choose "
                                + Methods.PATCH + ".",
                        e);
            }
        });
    }

    @Override
    public int margin(CfaPattern pattern) {
        return MARGIN;
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        if (form == Form.PICTURE || !form.suits(pattern)) {
            throw new IllegalArgumentException("This model is for sensors of another colour pattern.");
        }
        Planes out = run(noisy, pattern, noise, gains);
        List<Object> law = List.of(noise, Arrays.stream(gains).boxed().toList());
        corrections
                .computeIfAbsent(
                        law,
                        key -> LevelCorrection.of(
                                noise,
                                form.pattern,
                                mosaic -> run(mosaic, form.pattern, noise, gains),
                                gains,
                                form == Form.SIX && !toldOfCuts.isEmpty()
                                        ? LevelCorrection.SIX_FIELD_PX
                                        : LevelCorrection.FIELD_PX))
                .apply(out);
        return out;
    }

    /**
     * Pictures in full colour.
     *
     * @param levels see {@link PictureLevels}
     */
    Planes estimate(Planes noisy, float[] levels) {
        if (form != Form.PICTURE) {
            throw new IllegalArgumentException("This model is for sensors, not for rendered pictures.");
        }
        Region r = noisy.region();
        Region grid = grid(r, aligned(r.x()), aligned(r.y()));
        return run(ofMuchNoise, r, grid, PICTURE_INPUTS, PictureLevels.SCALE, new double[] {1, 1, 1}, input -> {
            int cells = grid.width() * grid.height();
            float[] row = new float[grid.width()];
            for (int p = 0; p < OUTPUTS; p++) {
                for (int cy = 0; cy < grid.height(); cy++) {
                    int y = inside(grid.y() + 2 * cy + (p >> 1 & 1), r.y(), r.bottom(), 2);
                    for (int cx = 0; cx < grid.width(); cx++) {
                        int x = inside(grid.x() + 2 * cx + (p & 1), r.x(), r.right(), 2);
                        row[cx] = PictureLevels.SCALE.forward(noisy.at(p / 4, x, y));
                    }
                    input.put(p * cells + cy * grid.width(), row);
                }
            }
            float[] level = new float[cells];
            for (int k = 0; k < levels.length; k++) {
                Arrays.fill(level, levels[k]);
                input.put((OUTPUTS + k) * cells, level);
            }
        });
    }

    private Planes run(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        Region r = noisy.region();
        // Cells lie alike in the sensor's grid in every tile; of a 2×2 mosaic the first begins at a red photosite.
        int left = aligned(r.x());
        int top = aligned(r.y());
        if (form == Form.BAYER) {
            left += pattern.colourAt(left, top) == 0 || pattern.colourAt(left, top + 1) == 0 ? 0 : 1;
            top += pattern.colourAt(left, top) == 0 ? 0 : 1;
        }
        NoiseModel law = noise.law();
        RootScale scale = RootScale.of(law, gains);
        Region grid = grid(r, left, top);
        OrtSession network = law.a().get(1) <= littleUpToA ? ofLittleNoise : ofMuchNoise;
        int known = form.planesIn;
        boolean told = toldOfCuts.contains(network);
        int inputs = known + (told ? 1 : 0);
        return run(network, r, grid, inputs, scale, gains, input -> {
            if (form == Form.SIX) {
                putNearColours(noisy, pattern, gains, scale, grid, input);
            } else {
                putMosaic(noisy, pattern, gains, scale, grid, input);
            }
            int cells = grid.width() * grid.height();
            putNoise(law, gains, scale, cells, known - NOISE_INPUTS, input);
            if (told) {
                float[] plane = new float[cells];
                Arrays.fill(plane, Censoring.nearness(noise.floor(), law.b().get(1)));
                input.put(known * cells, plane);
            }
        });
    }

    private static int aligned(int px) {
        return Math.floorDiv(px, ALIGNED_PX) * ALIGNED_PX;
    }

    /** Place of the first cell in pixels, and how many cells across and down. */
    private static Region grid(Region r, int left, int top) {
        return new Region(left, top, cells(r.right() - left), cells(r.bottom() - top));
    }

    private Planes run(
            OrtSession network,
            Region r,
            Region grid,
            int inputs,
            RootScale scale,
            double[] gains,
            Consumer<FloatBuffer> planesIn) {
        int across = grid.width();
        int down = grid.height();
        Buffers buffers = Objects.requireNonNullElseGet(BUFFERS.poll(), Buffers::new);
        FloatBuffer input = buffers.in(inputs * across * down);
        FloatBuffer answer = buffers.out(OUTPUTS * across * down);
        planesIn.accept(input);
        try (OnnxTensor in = OnnxTensor.createTensor(environment, input, new long[] {1, inputs, down, across});
                OnnxTensor out = OnnxTensor.createTensor(environment, answer, new long[] {1, OUTPUTS, down, across})) {
            network.run(Map.of("input", in), Map.of(output, out)).close();
            return output(answer, r, gains, scale, grid);
        } catch (OrtException e) {
            throw new IllegalStateException("The network could not be run", e);
        } finally {
            BUFFERS.add(buffers);
        }
    }

    /** Cells that cover so many pixels, a number that the network can halve three times. */
    private static int cells(int px) {
        return (px + ALIGNED_PX - 1) / ALIGNED_PX * (ALIGNED_PX / 2);
    }

    /** @param grid place of the first cell in pixels, and how many cells across and down */
    private static void putMosaic(
            Planes noisy, CfaPattern pattern, double[] gains, RootScale scale, Region grid, FloatBuffer input) {
        Region r = noisy.region();
        int left = grid.x();
        int top = grid.y();
        int cells = grid.width() * grid.height();
        float[] row = new float[grid.width()];
        float[] scaled = new float[grid.width()];
        for (int k = 0; k < 4; k++) {
            int colour = pattern.colourAt(left + (k & 1), top + (k >> 1));
            float gain = (float) gains[colour];
            for (int cy = 0; cy < grid.height(); cy++) {
                // Beyond the region nothing matters; it repeats the last cell there.
                int y = inside(top + 2 * cy + (k >> 1), r.y(), r.bottom(), 2);
                for (int cx = 0; cx < grid.width(); cx++) {
                    int x = inside(left + 2 * cx + (k & 1), r.x(), r.right(), 2);
                    row[cx] = noisy.channel(0)[noisy.index(x, y)] * gain;
                }
                scale.forward(row, scaled);
                input.put(k * cells + cy * grid.width(), scaled);
            }
        }
    }

    private static void putNearColours(
            Planes noisy, CfaPattern pattern, double[] gains, RootScale scale, Region grid, FloatBuffer input) {
        Region r = noisy.region();
        int w = 2 * grid.width();
        int h = 2 * grid.height();
        float[] mosaic = new float[w * h];
        for (int y = 0; y < h; y++) {
            int fromY = inside(grid.y() + y, r.y(), r.bottom(), PERIOD);
            for (int x = 0; x < w; x++) {
                int fromX = inside(grid.x() + x, r.x(), r.right(), PERIOD);
                float gain = (float) gains[pattern.colourAt(fromX, fromY)];
                mosaic[y * w + x] = scale.forward(noisy.channel(0)[noisy.index(fromX, fromY)] * gain);
            }
        }
        NearColours near = new NearColours(pattern.shifted(grid.x(), grid.y()));
        int cells = grid.width() * grid.height();
        float[] row = new float[grid.width()];
        for (int plane = 0; plane < SIX_INPUTS - NOISE_INPUTS; plane++) {
            int k = plane % 4;
            int colour = plane / 4;
            for (int cy = 0; cy < grid.height(); cy++) {
                int y = 2 * cy + (k >> 1);
                for (int cx = 0; cx < grid.width(); cx++) {
                    int x = 2 * cx + (k & 1);
                    row[cx] = colour < 3 ? near.at(mosaic, w, h, x, y, colour) : near.colourAt(x, y) - 1;
                }
                input.put(plane * cells + cy * grid.width(), row);
            }
        }
    }

    private static void putNoise(
            NoiseModel noise, double[] gains, RootScale scale, int cells, int plane, FloatBuffer input) {
        float[] level = new float[cells];
        for (int c = 0; c < 3; c++) {
            Arrays.fill(level, scale.brightSd(noise.a().get(c) * gains[c]));
            input.put((plane + c) * cells, level);
            Arrays.fill(level, scale.darkSd(noise.b().get(c) * gains[c] * gains[c]));
            input.put((plane + 3 + c) * cells, level);
        }
    }

    /** The nearest place of the same phase of the pattern within [from, to). */
    private static int inside(int at, int from, int to, int period) {
        if (at < from) {
            return from + Math.floorMod(at - from, period);
        }
        return at < to ? at : to - period + Math.floorMod(at - to, period);
    }

    private static Planes output(FloatBuffer answer, Region r, double[] gains, RootScale scale, Region grid) {
        Planes out = new Planes(r, 3);
        int cells = grid.width() * grid.height();
        float[] row = new float[grid.width()];
        float[] linear = new float[grid.width()];
        for (int p = 0; p < OUTPUTS; p++) {
            int c = p / 4;
            int dx = p & 1;
            int dy = p >> 1 & 1;
            float unbalance = (float) (1 / gains[c]);
            float[] to = out.channel(c);
            int left = grid.x() + dx;
            int from = Math.max(0, (r.x() - left + 1) / 2);
            int end = Math.min(grid.width(), (r.right() - left + 1) / 2);
            for (int cy = 0; cy < grid.height(); cy++) {
                int y = grid.y() + 2 * cy + dy;
                if (y < r.y() || y >= r.bottom()) {
                    continue;
                }
                answer.get(p * cells + cy * grid.width(), row);
                scale.inverse(row, linear);
                int i = out.index(left + 2 * from, y);
                for (int cx = from; cx < end; cx++, i += 2) {
                    to[i] = linear[cx] * unbalance;
                }
            }
        }
        return out;
    }
}
