package org.rainsieve.benchmarks;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.strip.Candidate;
import org.rainsieve.strip.Candidates;
import org.rainsieve.strip.SpotFinder;

/** A strip of three spots and four rows on 24 MP: how many tiles it makes, when its first cell is there, and when all are. */
final class StripBenchmark {

    private StripBenchmark() {}

    static void run() throws Exception {
        OpenedFrame frame = LargeFrame.open();
        List<Candidate> rows = Candidates.of(
                Candidates.Of.METHODS,
                new DenoiseSettings(true, "Learned", 25, 0),
                new DenoiseSettings(true, "Learned", 25, 0),
                true,
                SharpenSettings.OFF,
                null,
                EnlargeSettings.OFF,
                LargeFrame.CAMERA.pattern(),
                "");
        for (int round = 0; round < 2; round++) {
            strip(frame, rows, round > 0);
        }
    }

    private static void strip(OpenedFrame frame, List<Candidate> rows, boolean warm) throws Exception {
        long begun = System.nanoTime();
        List<SpotFinder.Found> spots = SpotFinder.find(
                frame.capture(),
                LargeFrame.LAW,
                LargeFrame.CAMERA.colour().gains(),
                new Region(0, 0, LargeFrame.WIDTH, LargeFrame.HEIGHT));
        double finding = (System.nanoTime() - begun) / 1e9;
        double sum = 0;
        for (Candidate row : rows) {
            for (SpotFinder.Found spot : spots) {
                Steps steps = steps(frame, row, new WorkingMemory(600L << 20));
                long at = System.nanoTime();
                Region r = spot.region();
                steps.denoise().tile(r.x() / DenoiseStep.TILE, r.y() / DenoiseStep.TILE);
                sum += (System.nanoTime() - at) / 1e9;
            }
        }
        WorkingMemory cache = new WorkingMemory(1200L << 20);
        ExecutorService two = Executors.newFixedThreadPool(2);
        List<Future<Double>> cells = new ArrayList<>();
        long start = System.nanoTime();
        for (SpotFinder.Found spot : spots) {
            for (Candidate row : rows) {
                cells.add(two.submit(() -> {
                    Planes cell = new Planes(spot.region(), 3);
                    steps(frame, row, cache).result().fill(cell);
                    return (System.nanoTime() - start) / 1e9;
                }));
            }
        }
        double first = Double.MAX_VALUE;
        double last = 0;
        for (Future<Double> cell : cells) {
            first = Math.min(first, cell.get());
            last = Math.max(last, cell.get());
        }
        two.shutdown();
        if (warm) {
            System.out.printf(
                    Locale.ROOT,
                    "%d spots found in %.2f s; %d cells made %d tiles%n"
                            + "first cell after %.2f s, all after %.2f s with two at a time; their tiles one after the other %.2f s%n",
                    spots.size(),
                    finding,
                    cells.size(),
                    cache.made(),
                    first,
                    last,
                    sum);
        }
    }

    private static Steps steps(OpenedFrame frame, Candidate row, WorkingMemory cache) throws Exception {
        return Steps.of(
                frame,
                "strip",
                ResolvedSettings.of(LargeFrame.ISO, LargeFrame.LAW, row.denoise(), LargeFrame.CAMERA.pattern())
                        .with(row.sharpen(), null, null, row.enlarge()),
                DefectMap.EMPTY,
                cache,
                Cancel.NEVER);
    }
}
