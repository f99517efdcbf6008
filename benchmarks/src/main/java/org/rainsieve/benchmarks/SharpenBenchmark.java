package org.rainsieve.benchmarks;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.SplittableRandom;
import java.util.stream.IntStream;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.quality.Psnr;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.sharpen.SharpenTile;
import org.rainsieve.sharpen.Sharpening;

/**
 * Pictures blurred by kernels counted from points (OpenCV lays them over the picture), with some of a sensor's noise left in, sharpened
 * and compared in sRGB with what they were, under the same grain: what sharpening is not to make stronger. Plain rules at the best of four
 * amounts for each picture, learned at its full amount, both without a halo limit; told the blur rightly, and wrongly by up to 30 % and
 * 10 degrees.
 */
final class SharpenBenchmark {
    private static final NoiseModel LAW = NoiseModel.uniform(0.008, 2e-4);
    private static final double[] EVEN = {1, 1, 1};
    private static final double[] GRAIN_KEPT = {0.05, 0.15, 0.3};
    private static final double[] AMOUNTS_PERCENT = {25, 50, 75, 100};
    private static final int RIM_PX = 16;

    private SharpenBenchmark() {}

    private record Blur(String kind, PointSpread spread) {}

    private static List<Blur> blurs() {
        List<Blur> all = new ArrayList<>();
        for (double sigma : new double[] {0.6, 1, 1.5, 2}) {
            all.add(new Blur("soft", PointSpread.soft(sigma)));
        }
        for (double disc : new double[] {1, 2.5, 5}) {
            all.add(new Blur("disc", new PointSpread(0.5, disc, 0, 0)));
        }
        for (double line : new double[] {3, 8, 20}) {
            all.add(new Blur("line", new PointSpread(0.5, 0, line, 25 + 7 * line)));
        }
        return all;
    }

    /** Gains in dB: plain rules and learned over not sharpening, told rightly and wrongly. */
    private static final class Sums {
        int count;
        double plain;
        double learned;
        double wrong;
        double plainWrong;
        double worst = Double.POSITIVE_INFINITY;
        double worstWrong = Double.POSITIVE_INFINITY;
        double worstSuggested = Double.POSITIVE_INFINITY;

        void add(double[] gain) {
            count++;
            plain += gain[0];
            learned += gain[1];
            plainWrong += gain[2];
            wrong += gain[3];
            worst = Math.min(worst, gain[1]);
            worstWrong = Math.min(worstWrong, gain[3]);
            worstSuggested = Math.min(worstSuggested, gain[4]);
        }

        void print(String name) {
            System.out.printf(
                    Locale.ROOT,
                    "  %-22s plain %+.2f, learned %+.2f (%+.2f; worst %+.2f); told wrongly %+.2f, %+.2f (worst %+.2f, at 50 %% %+.2f)%n",
                    name,
                    plain / count,
                    learned / count,
                    (learned - plain) / count,
                    worst,
                    plainWrong / count,
                    wrong / count,
                    worstWrong,
                    worstSuggested);
        }
    }

    /** @param folder of pictures that no model was trained on */
    static void run(Path folder, boolean halved) throws IOException {
        List<Planes> truths = HeldPictures.middles(folder, halved ? 2 : 1);
        System.out.printf(
                Locale.ROOT,
                "%d pictures, gains in dB over not sharpening (plain rules at their best amount, learned at 100 %%)%n",
                truths.size());
        Sums all = new Sums();
        Sums kind = new Sums();
        List<Blur> blurs = blurs();
        for (int b = 0; b < blurs.size(); b++) {
            Blur blur = blurs.get(b);
            Sums row = new Sums();
            for (double kept : GRAIN_KEPT) {
                long seed = b + 1;
                List<double[]> gains = IntStream.range(0, truths.size())
                        .parallel()
                        .mapToObj(i -> gains(truths.get(i), blur.spread, kept, new SplittableRandom(seed * 100 + i)))
                        .toList();
                for (double[] gain : gains) {
                    all.add(gain);
                    kind.add(gain);
                    row.add(gain);
                }
            }
            PointSpread s = blur.spread;
            row.print(String.format(
                    Locale.ROOT,
                    "%s %.1f px",
                    blur.kind,
                    Math.max(s.linePx(), s.discPx() > 0 ? s.discPx() : s.softPx())));
            if (b + 1 == blurs.size() || !blurs.get(b + 1).kind.equals(blur.kind)) {
                kind.print("all " + blur.kind);
                kind = new Sums();
            }
        }
        all.print("all");
    }

    /** In dB over not sharpening: plain and learned, told rightly, then told wrongly, last learned at the amount that is suggested. */
    private static double[] gains(Planes truth, PointSpread spread, double kept, SplittableRandom random) {
        PointSpread wrong = wrong(spread, random);
        Case one = Case.of(truth, spread, kept, random);
        double none = one.psnr(one.blurred);
        double[] learnedWrong =
                one.psnrs(wrong, SharpenSettings.Method.LEARNED, 100, SharpenSettings.OFF.biteFinePercent());
        double[] gains = {
            one.best(spread, SharpenSettings.Method.PLAIN, AMOUNTS_PERCENT),
            one.best(spread, SharpenSettings.Method.LEARNED, 100),
            one.best(wrong, SharpenSettings.Method.PLAIN, AMOUNTS_PERCENT),
            learnedWrong[0],
            learnedWrong[1]
        };
        for (int i = 0; i < gains.length; i++) {
            gains[i] -= none;
        }
        return gains;
    }

    private record Case(Planes truth, Planes blurred, double kept) {
        static Case of(Planes clean, PointSpread spread, double kept, SplittableRandom random) {
            Region r = clean.region();
            Planes sharp = new Planes(r, 3);
            Planes soft = CountedBlur.of(clean, spread, random);
            for (int c = 0; c < 3; c++) {
                for (int i = 0; i < soft.channel(c).length; i++) {
                    float here = soft.channel(c)[i];
                    float grain = (float) (kept * Math.sqrt(LAW.variance(c, here)) * Chance.normal(random));
                    soft.channel(c)[i] += grain;
                    sharp.channel(c)[i] = clean.channel(c)[i] + grain;
                }
            }
            return new Case(sharp, soft, kept);
        }

        double psnr(Planes picture) {
            return Psnr.cpsnrDb(picture, truth, truth.region().grow(-RIM_PX), EVEN);
        }

        /** The best of some amounts; what is found does not depend on how much of it is put back. */
        double best(PointSpread told, SharpenSettings.Method method, double... amountsPercent) {
            return Arrays.stream(psnrs(told, method, amountsPercent)).max().orElseThrow();
        }

        double[] psnrs(PointSpread told, SharpenSettings.Method method, double... amountsPercent) {
            List<SharpenTile> tiles = tiles(sharpening(told, method, 100));
            double[] psnrs = new double[amountsPercent.length];
            for (int i = 0; i < psnrs.length; i++) {
                Sharpening sharpening = sharpening(told, method, amountsPercent[i]);
                Planes out = new Planes(blurred.region(), 3);
                out.copyFrom(blurred);
                tiles.forEach(tile -> sharpening.apply(tile, out));
                psnrs[i] = psnr(out);
            }
            return psnrs;
        }

        private Sharpening sharpening(PointSpread told, SharpenSettings.Method method, double percent) {
            SharpenSettings settings = new SharpenSettings(true, told, 0, percent, percent, 100, method, "");
            Region r = blurred.region();
            return new Sharpening(settings, r.width(), r.height(), EVEN, LAW, kept);
        }

        private List<SharpenTile> tiles(Sharpening sharpening) {
            List<SharpenTile> tiles = new ArrayList<>();
            int size = sharpening.tilePx();
            for (int y = 0; y * size < blurred.region().height(); y++) {
                for (int x = 0; x * size < blurred.region().width(); x++) {
                    tiles.add(sharpening.tile(sharpening.core(x, y), blurred));
                }
            }
            return tiles;
        }
    }

    private static PointSpread wrong(PointSpread spread, SplittableRandom random) {
        double size = 0.7 + 0.6 * random.nextDouble();
        return new PointSpread(
                size * spread.softPx(),
                size * spread.discPx(),
                size * spread.linePx(),
                spread.lineAngleDegrees() + 20 * random.nextDouble() - 10);
    }
}
