package org.rainsieve.denoise;

import ai.onnxruntime.OnnxTensor;
import ai.onnxruntime.OrtEnvironment;
import ai.onnxruntime.OrtException;
import ai.onnxruntime.OrtSession;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.FloatBuffer;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Arrays;
import java.util.Collections;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.RootScale;

/**
 * The trained method: a small convolutional network that denoises and demosaics a 2×2 mosaic together, told the noise
 * (Gharbi et al. 2016; Zhang, Zuo, Zhang 2018; Brooks et al. 2019; see docs/learned.md). It works on white-balanced values
 * in a {@link RootScale}, packed into half-size planes that begin at a red photosite, whatever the order of the pattern.
 *
 * <p>Cells lie alike in the grid of the network's reductions in every tile, and the margin is wider than what a pixel
 * depends on, so that its result is the same in whatever tile it is computed.
 */
public final class Learned implements DenoiseMethod {
    /** Planes in: four of the mosaic, then for each colour its noise sd far above black and at black. */
    private static final int INPUTS = 10;

    private static final int OUTPUTS = 12;

    private static final int MARGIN = 68;

    public static final String NOT_FOR_SIX = "The method Learned has no model for 6×6 sensors yet. Choose Quick.";

    /** Models that were released, oldest first; none is ever taken away, so that a camera's next set matches its last. */
    static final List<String> MODELS = List.of("bayer-1", "bayer-2", "bayer-3");

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
    private final OrtSession session;

    private Learned(byte[] model) throws OrtException {
        OrtSession.SessionOptions options = new OrtSession.SessionOptions();
        // Tiles are worked on side by side; one thread each keeps all cores busy and results alike.
        options.setIntraOpNumThreads(1);
        options.setInterOpNumThreads(1);
        session = environment.createSession(model, options);
    }

    static boolean hasModel() {
        return MODELS.stream().allMatch(name -> Learned.class.getResource(file(name)) != null);
    }

    /** The model that new pages are bound to. */
    static String newest() {
        return MODELS.get(MODELS.size() - 1);
    }

    private static String file(String name) {
        return "/org/rainsieve/denoise/" + name + ".onnx";
    }

    private static byte[] model(String name) {
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
            try {
                return HexFormat.of()
                        .formatHex(MessageDigest.getInstance("SHA-256").digest(model(wanted)));
            } catch (NoSuchAlgorithmException e) {
                throw new IllegalStateException(e);
            }
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
                return new Learned(model(wanted));
            } catch (OrtException e) {
                throw new IllegalStateException(
                        "The model file of the method Learned is broken. Install Rain Sieve again, or choose Quick.",
                        e);
            }
        });
    }

    @Override
    public int margin(CfaPattern pattern) {
        return MARGIN;
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, NoiseModel noise, double[] gains) {
        if (!pattern.isBayer()) {
            throw new IllegalArgumentException(NOT_FOR_SIX);
        }
        Planes out = run(noisy, pattern, noise, gains);
        List<Object> law = List.of(noise, Arrays.stream(gains).boxed().toList());
        corrections
                .computeIfAbsent(
                        law,
                        key -> LevelCorrection.of(
                                noise, mosaic -> run(mosaic, LevelCorrection.PATTERN, noise, gains), gains))
                .apply(out);
        return out;
    }

    private Planes run(Planes noisy, CfaPattern pattern, NoiseModel noise, double[] gains) {
        Region r = noisy.region();
        // The first cell begins at a red photosite, at the same place of the sensor's grid in every tile.
        int left = Math.floorDiv(r.x(), ALIGNED_PX) * ALIGNED_PX;
        int top = Math.floorDiv(r.y(), ALIGNED_PX) * ALIGNED_PX;
        left += pattern.colourAt(left, top) == 0 || pattern.colourAt(left, top + 1) == 0 ? 0 : 1;
        top += pattern.colourAt(left, top) == 0 ? 0 : 1;
        int across = cells(r.right() - left);
        int down = cells(r.bottom() - top);
        RootScale scale = RootScale.of(noise, gains);
        FloatBuffer input = input(noisy, pattern, noise, gains, scale, new Region(left, top, across, down));
        try (OnnxTensor tensor = OnnxTensor.createTensor(environment, input, new long[] {1, INPUTS, down, across});
                OrtSession.Result result = session.run(Map.of("input", tensor))) {
            FloatBuffer answer = ((OnnxTensor) result.get(0)).getFloatBuffer();
            return output(answer, r, gains, scale, new Region(left, top, across, down));
        } catch (OrtException e) {
            throw new IllegalStateException("The network could not be run", e);
        }
    }

    /** Cells that cover so many pixels, a number that the network can halve three times. */
    private static int cells(int px) {
        return (px + ALIGNED_PX - 1) / ALIGNED_PX * (ALIGNED_PX / 2);
    }

    /** @param grid place of the first cell in pixels, and how many cells across and down */
    private static FloatBuffer input(
            Planes noisy, CfaPattern pattern, NoiseModel noise, double[] gains, RootScale scale, Region grid) {
        Region r = noisy.region();
        int left = grid.x();
        int top = grid.y();
        int cells = grid.width() * grid.height();
        FloatBuffer input = ByteBuffer.allocateDirect(4 * INPUTS * cells)
                .order(ByteOrder.nativeOrder())
                .asFloatBuffer();
        float[] row = new float[grid.width()];
        for (int k = 0; k < 4; k++) {
            int colour = pattern.colourAt(left + (k & 1), top + (k >> 1));
            float gain = (float) gains[colour];
            for (int cy = 0; cy < grid.height(); cy++) {
                // Beyond the region nothing matters; it repeats the last cell there.
                int y = inside(top + 2 * cy + (k >> 1), r.y(), r.bottom());
                for (int cx = 0; cx < grid.width(); cx++) {
                    int x = inside(left + 2 * cx + (k & 1), r.x(), r.right());
                    row[cx] = scale.forward(noisy.channel(0)[noisy.index(x, y)] * gain);
                }
                input.put(k * cells + cy * grid.width(), row);
            }
        }
        float[] level = new float[cells];
        for (int c = 0; c < 3; c++) {
            Arrays.fill(level, scale.brightSd(noise.a().get(c) * gains[c]));
            input.put((4 + c) * cells, level);
            Arrays.fill(level, scale.darkSd(noise.b().get(c) * gains[c] * gains[c]));
            input.put((7 + c) * cells, level);
        }
        return input;
    }

    /** The nearest place of the same parity within [from, to). */
    private static int inside(int at, int from, int to) {
        if (at < from) {
            return from + Math.floorMod(at - from, 2);
        }
        return at < to ? at : to - 2 + Math.floorMod(at - to, 2);
    }

    private static Planes output(FloatBuffer answer, Region r, double[] gains, RootScale scale, Region grid) {
        Planes out = new Planes(r, 3);
        int cells = grid.width() * grid.height();
        for (int p = 0; p < OUTPUTS; p++) {
            int c = p / 4;
            int dx = p & 1;
            int dy = p >> 1 & 1;
            float unbalance = (float) (1 / gains[c]);
            float[] to = out.channel(c);
            for (int cy = 0; cy < grid.height(); cy++) {
                int y = grid.y() + 2 * cy + dy;
                if (y < r.y() || y >= r.bottom()) {
                    continue;
                }
                for (int cx = 0; cx < grid.width(); cx++) {
                    int x = grid.x() + 2 * cx + dx;
                    if (x >= r.x() && x < r.right()) {
                        to[out.index(x, y)] = scale.inverse(answer.get(p * cells + cy * grid.width() + cx)) * unbalance;
                    }
                }
            }
        }
        return out;
    }
}
