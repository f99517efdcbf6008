package org.rainsieve.benchmarks;

import java.util.Locale;
import java.util.SplittableRandom;
import java.util.stream.IntStream;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.DngReader;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.quality.SlantedEdge;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedLens;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.sharpen.SharpenTile;
import org.rainsieve.sharpen.Sharpening;
import org.rainsieve.source.OpenedFrame;

/**
 * What the steps after Denoise cost beside <em>Learned</em>, on one frame of 6 MP whose denoised tiles are at hand, both
 * cores at work; and sharpening beside unsharp masking at the same MTF50.
 */
final class StepsBenchmark {
    private static final int WIDTH = 3008;
    private static final int HEIGHT = 2008;
    private static final double MEGAPIXELS = WIDTH * HEIGHT / 1e6;
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final SharpenSettings SHARPEN = SharpenSettings.plain(PointSpread.soft(1.2), 0, 60, 50, 3);
    private static final OpticsSettings OPTICS =
            new OpticsSettings(true, SimulatedLens.ONDREL_24.correction(), 1, 100, 100, 100);
    private static final CropSettings TURNED = new CropSettings(true, 0, 0, 1, 1, 1.5, "free");

    private StepsBenchmark() {}

    static void run() throws Exception {
        NoiseModel noise = CAMERA.noiseAt(6400);
        Planes scene = new PlainScene(WIDTH, HEIGHT, 4).srgb();
        CAMERA.see(scene);
        Mosaic mosaic =
                CAMERA.sensor().expose(scene, noise.a().get(0), noise.b().get(0), 3);
        byte[] file = CfaDngWriter.write(
                mosaic,
                CAMERA.black(),
                new CfaDngWriter.Form(java.nio.ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                CAMERA.tags(
                        new SimulatedCamera.Shot(6400, 0.01, 2, "Ondrel 24 mm f/2", 24, "2026-10-03T21:14:05"), true));
        OpenedFrame frame = DngReader.read(file);
        double learned =
                time("Learned, with demosaic", frame, settings(noise, Methods.LEARNED, null, null, null, null), true);
        time("blending amounts", frame, settings(noise, Methods.QUICK, null, null, null, null), false);
        double plain = time(
                "Sharpen, by plain rules", frame, settings(noise, Methods.QUICK, SHARPEN, null, null, null), false);
        SharpenSettings byNetwork = SHARPEN.with(SharpenSettings.Method.LEARNED);
        double sharpened =
                time("Sharpen, learned", frame, settings(noise, Methods.QUICK, byNetwork, null, null, null), false);
        System.out.printf(
                Locale.ROOT,
                "Sharpen, learned costs %.2f of Learned, %.1f times plain rules (target: below 1 of Learned)%n",
                sharpened / learned,
                sharpened / plain);
        time("Optics", frame, settings(noise, Methods.QUICK, null, OPTICS, null, null), false);
        time("Optics and straightening", frame, settings(noise, Methods.QUICK, null, OPTICS, TURNED, null), false);
        double all = time(
                "Sharpen, Optics, straightening",
                frame,
                settings(noise, Methods.QUICK, SHARPEN, OPTICS, TURNED, null),
                false);
        for (EnlargeSettings.Edges edges : EnlargeSettings.Edges.values()) {
            EnlargeSettings twice =
                    new EnlargeSettings(true, EnlargeSettings.By.FACTOR, 2, 300, edges, false, 50, 0, "");
            double enlarged = time(
                    "Enlarge x2, " + edges.name().toLowerCase(Locale.ROOT),
                    frame,
                    settings(noise, Methods.QUICK, null, null, null, twice),
                    false);
            System.out.printf(Locale.ROOT, "%-36s %.3f s per MP of the result%n", "", enlarged / 4);
        }
        System.out.printf(
                Locale.ROOT,
                "Sharpen, Optics and straightening cost %.2f of Learned on the same frame (target: below 1)%n%n",
                all / learned);
        unsharp();
    }

    private static ResolvedSettings settings(
            NoiseModel noise,
            String method,
            SharpenSettings sharpen,
            OpticsSettings optics,
            CropSettings crop,
            EnlargeSettings enlarge) {
        return ResolvedSettings.of(6400, noise, new DenoiseSettings(true, method, 20, 0), CAMERA.pattern())
                .with(sharpen, optics, crop, enlarge);
    }

    /** @return seconds per megapixel of the frame, best of three */
    private static double time(String name, OpenedFrame frame, ResolvedSettings settings, boolean withDenoise)
            throws Exception {
        double least = Double.MAX_VALUE;
        for (int i = 0; i < 3; i++) {
            Steps steps =
                    Steps.of(frame, "frame", settings, DefectMap.EMPTY, new WorkingMemory(600L << 20), Cancel.NEVER);
            if (!withDenoise) {
                pull(steps.denoise());
            }
            long begun = System.nanoTime();
            pull(steps.result());
            least = Math.min(least, (System.nanoTime() - begun) / 1e9 / MEGAPIXELS);
        }
        System.out.printf(Locale.ROOT, "%-36s %6.3f s per MP of the frame%n", name, least);
        return least;
    }

    private static void pull(PixelSource source) {
        int tile = DenoiseStep.TILE;
        int across = (source.width() + tile - 1) / tile;
        int down = (source.height() + tile - 1) / tile;
        IntStream.range(0, across * down)
                .parallel()
                .forEach(i -> source.fill(new Planes(
                        new Region(i % across * tile, i / across * tile, tile, tile).intersect(source.bounds()), 3)));
    }

    /** A slanted edge, soft by 1.2 px, with the grain of a denoised frame: both brought to one sharpness. */
    private static void unsharp() {
        int size = 320;
        Region all = new Region(0, 0, size, size);
        Region edge = new Region(60, 60, 200, 200);
        Region smooth = new Region(64, 64, 60, 180);
        double[] gains = {1, 1, 1};
        NoiseModel noise = NoiseModel.uniform(1e-5, 1e-8);
        SplittableRandom random = new SplittableRandom(8);
        Planes soft = new Planes(all, 3);
        for (int i = 0; i < size * size; i++) {
            double d = (i % size - size / 2.0) * Math.cos(Math.toRadians(5))
                    + (i / size - size / 2.0) * Math.sin(Math.toRadians(5));
            double clean = 0.2 + 0.4 / (1 + Math.exp(-1.702 * d / Math.hypot(1.2, 0.29)));
            float value = (float) (clean + Math.sqrt(noise.variance(1, clean)) * Chance.normal(random));
            for (int c = 0; c < 3; c++) {
                soft.channel(c)[i] = value;
            }
        }
        Sharpening sharpening = new Sharpening(SHARPEN, size, size, gains, noise, 1);
        Planes ours = new Planes(all, 3);
        ours.copyFrom(soft);
        sharpening.apply(sharpening.tile(all, soft), ours);
        double wanted = new SlantedEdge(cut(ours, edge), edge).mtf50();
        double low = 0;
        double high = 10;
        for (int i = 0; i < 40; i++) {
            double middle = (low + high) / 2;
            if (new SlantedEdge(cut(masked(soft, middle), edge), edge).mtf50() < wanted) {
                low = middle;
            } else {
                high = middle;
            }
        }
        Planes masked = masked(soft, high);
        System.out.printf(
                Locale.ROOT,
                "at the same MTF50 of %.3f cycles/px (before: %.3f):%n",
                wanted,
                new SlantedEdge(cut(soft, edge), edge).mtf50());
        row("Sharpen, by plain rules", ours, soft, edge, smooth);
        row("Sharpen, learned", learnedAt(wanted, soft, noise, edge), soft, edge, smooth);
        row("unsharp mask, radius 1 px", masked, soft, edge, smooth);
    }

    /** Learned at the amount that makes an edge so sharp. */
    private static Planes learnedAt(double mtf50, Planes soft, NoiseModel noise, Region edge) {
        int size = soft.region().width();
        double low = 0;
        double high = 100;
        Planes sharp = soft;
        SharpenSettings learned = SHARPEN.with(SharpenSettings.Method.LEARNED);
        SharpenTile tile = null;
        for (int i = 0; i < 12; i++) {
            double middle = (low + high) / 2;
            Sharpening sharpening =
                    new Sharpening(learned.withBite(middle), size, size, new double[] {1, 1, 1}, noise, 1);
            // What is found does not depend on how much of it is put back.
            tile = tile == null ? sharpening.tile(sharpening.core(0, 0), soft) : tile;
            sharp = new Planes(soft.region(), 3);
            sharp.copyFrom(soft);
            sharpening.apply(tile, sharp);
            if (new SlantedEdge(cut(sharp, edge), edge).mtf50() < mtf50) {
                low = middle;
            } else {
                high = middle;
            }
        }
        return sharp;
    }

    private static void row(String name, Planes sharp, Planes soft, Region edge, Region smooth) {
        System.out.printf(
                Locale.ROOT,
                "%-36s noise in smooth places x %.2f, overshoot %.1f %%%n",
                name,
                sd(cut(sharp, smooth)) / sd(cut(soft, smooth)),
                100 * new SlantedEdge(cut(sharp, edge), edge).overshoot());
    }

    private static Planes masked(Planes soft, double amount) {
        Planes out = new Planes(soft.region(), 3);
        int w = soft.region().width();
        float[] from = soft.channel(1);
        for (int i = 0; i < from.length; i++) {
            int x = i % w;
            int y = i / w;
            double sum = 0;
            double weights = 0;
            for (int k = -3; k <= 3; k++) {
                for (int j = -3; j <= 3; j++) {
                    double weight = Math.exp(-(k * k + j * j) / 2.0);
                    int at = Math.max(0, Math.min(w - 1, y + k)) * w + Math.max(0, Math.min(w - 1, x + j));
                    sum += weight * from[at];
                    weights += weight;
                }
            }
            out.channel(1)[i] = (float) (from[i] + amount * (from[i] - sum / weights));
        }
        return out;
    }

    private static float[] cut(Planes planes, Region region) {
        float[] out = new float[(int) region.area()];
        for (int i = 0; i < out.length; i++) {
            out[i] = planes.at(1, region.x() + i % region.width(), region.y() + i / region.width());
        }
        return out;
    }

    private static double sd(float[] values) {
        double sum = 0;
        double squares = 0;
        for (float v : values) {
            sum += v;
            squares += (double) v * v;
        }
        return Math.sqrt(squares / values.length - Math.pow(sum / values.length, 2));
    }
}
