package org.rainsieve.benchmarks;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.IntStream;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.colour.ViewRendering;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.Mask;
import org.rainsieve.mask.MaskAmounts;
import org.rainsieve.mask.MaskPart;
import org.rainsieve.mask.MaskShape;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ReducedPicture;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;

/**
 * What a look at a 24 MP frame takes in the worker: the first megapixel of a frame whose tiles are not made yet, and a view of
 * 1,170 × 420 px after an amount was moved, from the tiles of 512 px that the viewer asks for, two at a time, to their PNGs.
 */
final class ViewerBenchmark {
    private static final int TILE = 512;
    private static final int MOVES = 40;

    private ViewerBenchmark() {}

    static void run() throws Exception {
        OpenedFrame frame = LargeFrame.open();
        for (String method : List.of("Quick", "Learned")) {
            for (int round = 0; round < 2; round++) {
                WorkingMemory cache = new WorkingMemory(600L << 20);
                double first = seconds(frame, method, cache, 20, false, new Region(2048, 1024, 1024, 1024));
                if (round > 0) {
                    System.out.printf(Locale.ROOT, "%s, first megapixel: %.2f s%n", method, first);
                }
            }
        }
        for (boolean everything : new boolean[] {false, true}) {
            WorkingMemory cache = new WorkingMemory(600L << 20);
            Region view = new Region(2300, 1200, 1170, 420);
            seconds(frame, "Quick", cache, 20, everything, view);
            double[] moves = new double[MOVES];
            for (int i = 0; i < MOVES; i++) {
                moves[i] = seconds(frame, "Quick", cache, 21 + i, everything, view);
            }
            Arrays.sort(moves);
            System.out.printf(
                    Locale.ROOT,
                    "amount moved%s: median %.0f ms, 95 %% within %.0f ms%n",
                    everything ? ", with Sharpen, detail and a mask of what is in focus" : "",
                    1000 * moves[MOVES / 2],
                    1000 * moves[MOVES * 95 / 100]);
        }
    }

    private static double seconds(
            OpenedFrame frame, String method, WorkingMemory cache, double grain, boolean everything, Region view)
            throws Exception {
        ResolvedSettings settings = ResolvedSettings.of(
                LargeFrame.ISO,
                LargeFrame.LAW,
                new DenoiseSettings(true, method, grain, 0, everything ? 50.0 : 0.0),
                LargeFrame.CAMERA.pattern());
        if (everything) {
            MaskPart sharp = new MaskPart(MaskShape.InFocus.USUAL, MaskPart.Join.ADD, false);
            settings = settings.with(SharpenSettings.plain(PointSpread.soft(1), 0, 50, 50, 3), null, null, null)
                    .with(List.of(
                            new Mask("", true, List.of(sharp), false, 80, new MaskAmounts(60.0, null, null, 80.0))));
        }
        long begun = System.nanoTime();
        Steps steps = Steps.of(frame, "viewer", settings, DefectMap.EMPTY, cache, Cancel.NEVER);
        ViewRendering rendering = new ViewRendering(frame.colour(), ViewLook.PLAIN);
        int x0 = view.x() / TILE;
        int y0 = view.y() / TILE;
        int across = (view.right() - 1) / TILE - x0 + 1;
        int down = (view.bottom() - 1) / TILE - y0 + 1;
        IntStream.range(0, across * down).parallel().forEach(i -> {
            Region part = new Region((x0 + i % across) * TILE, (y0 + i / across) * TILE, TILE, TILE);
            Planes planes = new Planes(part.intersect(steps.result().bounds()), 3);
            steps.result().fill(planes);
            ReducedPicture.png(
                    rendering.render(planes),
                    planes.region().width(),
                    planes.region().height());
        });
        return (System.nanoTime() - begun) / 1e9;
    }
}
