package org.rainsieve.benchmarks;

import java.util.Locale;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.IntStream;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.DngReader;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedLens;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;

/** One frame of 61 MP through all steps, four times as large, into nothing: what it takes of heap and time. */
final class LargeBenchmark {
    private static final int WIDTH = 9568;
    private static final int HEIGHT = 6376;
    private static final int COPY = 1196;
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;

    private LargeBenchmark() {}

    static void run() throws Exception {
        OpenedFrame frame = DngReader.read(file());
        ResolvedSettings settings = ResolvedSettings.of(
                        6400, CAMERA.noiseAt(6400), new DenoiseSettings(true, Methods.QUICK, 20, 0), CAMERA.pattern())
                .with(
                        SharpenSettings.plain(PointSpread.soft(1.2), 0.4, 60, 50, 3),
                        new OpticsSettings(true, SimulatedLens.ONDREL_24.correction(), 1, 100, 100, 100),
                        new CropSettings(true, 0, 0, 1, 1, 1, "free"),
                        EnlargeSettings.factor(4));
        WorkingMemory cache = new WorkingMemory(600L << 20);
        Steps steps = Steps.of(frame, "large", settings, DefectMap.EMPTY, cache, Cancel.NEVER);
        int width = steps.result().width();
        int height = steps.result().height();
        AtomicLong most = new AtomicLong();
        long begun = System.nanoTime();
        int tile = DenoiseStep.TILE;
        for (int y = 0; y < height; y += tile) {
            int top = y;
            IntStream.range(0, (width + tile - 1) / tile).parallel().forEach(i -> {
                Planes out = new Planes(
                        new Region(i * tile, top, Math.min(tile, width - i * tile), Math.min(tile, height - top)), 3);
                steps.result().fill(out);
                Runtime runtime = Runtime.getRuntime();
                most.accumulateAndGet(runtime.totalMemory() - runtime.freeMemory(), Math::max);
            });
        }
        double seconds = (System.nanoTime() - begun) / 1e9;
        System.out.printf(
                Locale.ROOT,
                "%d x %d px, all steps: %.0f s, %.2f s per MP of the frame; heap at most %d of %d MB; %d tiles made%n",
                width,
                height,
                seconds,
                seconds / (WIDTH * HEIGHT / 1e6),
                most.get() >> 20,
                Runtime.getRuntime().maxMemory() >> 20,
                cache.made());
    }

    /** A smaller drawing beside itself: what the picture shows does not matter here. */
    private static byte[] file() {
        NoiseModel noise = CAMERA.noiseAt(6400);
        Planes drawn = new PlainScene(COPY, COPY, 4).srgb();
        CAMERA.see(drawn);
        Planes scene = new Planes(new Region(0, 0, WIDTH, HEIGHT), 3);
        for (int c = 0; c < 3; c++) {
            float[] to = scene.channel(c);
            for (int i = 0; i < to.length; i++) {
                to[i] = drawn.channel(c)[i / WIDTH % COPY * COPY + i % WIDTH % COPY];
            }
        }
        return CfaDngWriter.write(
                CAMERA.sensor().expose(scene, noise.a().get(0), noise.b().get(0), 3),
                CAMERA.black(),
                new CfaDngWriter.Form(java.nio.ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                CAMERA.tags(
                        new SimulatedCamera.Shot(6400, 0.01, 2, "Ondrel 24 mm f/2", 24, "2026-10-03T21:14:05"), true));
    }
}
