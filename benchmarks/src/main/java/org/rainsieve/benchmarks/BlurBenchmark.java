package org.rainsieve.benchmarks;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.SplittableRandom;
import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.reading.Blur;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.sharpen.PointSpread;

/**
 * How often the blur of a frame is read as it is: photographs blurred by kernels counted from points of light, exposed on a simulated
 * 2×2 sensor at two levels of noise. Told right is a shape whose size is within 25 % and whose direction is within 12°.
 */
final class BlurBenchmark {
    private static final int SIDE_PX = 1500;
    private static final double SIZE_WITHIN = 0.25;
    private static final double DEGREES_WITHIN = 12;
    private static final double[] GAINS = {1, 1, 1};

    private static final NoiseModel[] LAWS = {NoiseModel.uniform(5e-4, 1e-6), NoiseModel.uniform(0.004, 2e-5)};

    private BlurBenchmark() {}

    private enum Verdict {
        RIGHT,
        NOT_TOLD,
        WRONG
    }

    private static List<PointSpread> spreads() {
        List<PointSpread> all = new ArrayList<>();
        for (double sigma : new double[] {0.8, 1.2, 1.6, 2}) {
            all.add(PointSpread.soft(sigma));
        }
        for (double disc : new double[] {2, 3, 4, 5}) {
            all.add(new PointSpread(0.5, disc, 0, 0));
        }
        for (double line : new double[] {6, 9, 14, 20}) {
            all.add(new PointSpread(0.5, 0, line, 20 + 8 * line));
        }
        return all;
    }

    static void run(Path folder, boolean halved) throws IOException {
        List<Planes> pictures = HeldPictures.middles(folder, halved ? 2 : 1, SIDE_PX);
        System.out.printf(Locale.ROOT, "%d pictures at %d levels of noise%n", pictures.size(), LAWS.length);
        int[] all = new int[Verdict.values().length];
        int number = 0;
        for (PointSpread spread : spreads()) {
            int[] row = new int[Verdict.values().length];
            for (NoiseModel law : LAWS) {
                long seed = ++number;
                IntStream.range(0, pictures.size())
                        .mapToObj(i -> verdict(pictures.get(i), spread, law, 1000 * seed + i))
                        .forEach(verdict -> row[verdict.ordinal()]++);
            }
            print(name(spread), row);
            for (int v = 0; v < row.length; v++) {
                all[v] += row[v];
            }
        }
        print("all", all);
    }

    private static String name(PointSpread s) {
        return s.linePx() > 0
                ? String.format(Locale.ROOT, "moved %.0f px", s.linePx())
                : s.discPx() > 0
                        ? String.format(Locale.ROOT, "disc %.0f px", s.discPx())
                        : String.format(Locale.ROOT, "soft %.1f px", s.softPx());
    }

    private static void print(String name, int[] counts) {
        double of = IntStream.of(counts).sum() / 100.0;
        System.out.printf(
                Locale.ROOT,
                "  %-14s right %3.0f %%, not told %3.0f %%, wrong %3.0f %%%n",
                name,
                counts[0] / of,
                counts[1] / of,
                counts[2] / of);
    }

    private static Verdict verdict(Planes picture, PointSpread spread, NoiseModel law, long seed) {
        Planes seen = CountedBlur.of(picture, spread, new SplittableRandom(seed));
        SimulatedSensor sensor = new SimulatedSensor(CfaPattern.RGGB, 512, 16_383);
        Blur read = Reading.full(sensor.expose(seen, law.a().get(1), law.b().get(1), seed), law, GAINS)
                .reading()
                .blur();
        if (read == null) {
            return Verdict.NOT_TOLD;
        }
        return right(read, spread) ? Verdict.RIGHT : Verdict.WRONG;
    }

    private static boolean right(Blur read, PointSpread spread) {
        if (spread.linePx() > 0) {
            double turned = Math.abs(read.lineAngleDegrees() - spread.lineAngleDegrees()) % 180;
            return near(read.linePx(), spread.linePx()) && Math.min(turned, 180 - turned) <= DEGREES_WITHIN;
        }
        if (spread.discPx() > 0) {
            return near(read.discPx(), spread.discPx());
        }
        return !read.moved() && read.discPx() == 0 && near(read.sigmaPx(), spread.softPx());
    }

    private static boolean near(double read, double truth) {
        return Math.abs(read - truth) <= SIZE_WITHIN * truth;
    }
}
