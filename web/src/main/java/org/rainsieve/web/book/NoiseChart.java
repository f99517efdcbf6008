package org.rainsieve.web.book;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.TreeMap;
import org.rainsieve.noise.NoiseLaw;

/**
 * Noise against ISO, both on log scales, laid out for drawing: sd of one green photosite at 18 % grey in % of the clipping
 * point. Equal readings fall on one point.
 *
 * @param law null without readings
 * @param band path of the law's 95 % interval
 */
public record NoiseChart(
        NoiseLaw law,
        List<Point> points,
        String line,
        String band,
        List<LogScale.Tick> across,
        List<LogScale.Tick> down,
        List<Row> rows) {
    static final int WIDTH = 620;
    static final int HEIGHT = 250;
    private static final int LEFT = 52;
    private static final int RIGHT = 16;
    private static final int TOP = 14;
    private static final int BOTTOM = 34;
    private static final int CROWDED = 60;
    private static final double GOLDEN = 0.618034;
    private static final double ASIDE_PX = 26;

    public record Point(double x, double y, String title) {}

    /** One ISO of the table behind the chart. */
    public record Row(int iso, int frames, double readPercent, double lawPercent) {}

    /** How strongly points are drawn, so that a crowd of them can be told from a few. */
    public double pointOpacity() {
        return points.size() > CROWDED ? 0.45 : 1;
    }

    static NoiseChart of(List<NoiseLaw.AtIso> readings) {
        NoiseLaw law = NoiseLaw.fit(readings);
        if (law == null) {
            return new NoiseChart(null, List.of(), "", "", List.of(), List.of(), List.of());
        }
        double isoFrom = Math.min(
                        100,
                        readings.stream().mapToInt(NoiseLaw.AtIso::iso).min().orElse(100))
                / 1.2;
        double isoTo = Math.max(
                        51_200,
                        readings.stream().mapToInt(NoiseLaw.AtIso::iso).max().orElse(100))
                * 1.2;
        double least = law.sigma(isoFrom) / 1.3;
        double most = law.sigma(isoTo) * 1.3;
        for (NoiseLaw.AtIso reading : readings) {
            least = Math.min(least, NoiseLaw.sigma(reading.law()) / 1.1);
            most = Math.max(most, NoiseLaw.sigma(reading.law()) * 1.1);
        }
        LogScale x = new LogScale(isoFrom, isoTo, LEFT, WIDTH - RIGHT);
        LogScale y = new LogScale(least, most, HEIGHT - BOTTOM, TOP);
        TreeMap<Integer, List<Double>> byIso = new TreeMap<>();
        TreeMap<String, Point> points = new TreeMap<>();
        for (NoiseLaw.AtIso reading : readings) {
            double sigma = NoiseLaw.sigma(reading.law());
            byIso.computeIfAbsent(reading.iso(), iso -> new ArrayList<>()).add(sigma);
            String title = String.format(Locale.ROOT, "ISO %,d: %.3g %%", reading.iso(), 100 * sigma);
            // Many readings lie over each other: they are set beside each other a little, evenly.
            double aside = readings.size() > CROWDED ? (points.size() * GOLDEN % 1 - 0.5) * ASIDE_PX : 0;
            points.putIfAbsent(title, new Point(x.at(reading.iso()) + aside, y.at(sigma), title));
        }
        StringBuilder line = new StringBuilder();
        StringBuilder upper = new StringBuilder();
        StringBuilder lower = new StringBuilder();
        double error = Math.min(0.9, law.sigmaErrorPercent() / 100);
        for (int i = 0; i <= 60; i++) {
            double iso = isoFrom * Math.pow(isoTo / isoFrom, i / 60.0);
            String at = String.format(Locale.ROOT, "%.1f ", x.at(iso));
            line.append(i == 0 ? "M" : "L").append(at).append(two(y.at(law.sigma(iso))));
            upper.append(i == 0 ? "M" : "L").append(at).append(two(y.at(law.sigma(iso) * (1 + error))));
            lower.insert(0, "L" + at + two(y.at(law.sigma(iso) * (1 - error))));
        }
        List<LogScale.Tick> down = new ArrayList<>();
        for (double percent : new double[] {0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20}) {
            if (percent / 100 > least && percent / 100 < most) {
                down.add(new LogScale.Tick(y.at(percent / 100), String.format(Locale.ROOT, "%s %%", trimmed(percent))));
            }
        }
        List<Row> rows = byIso.entrySet().stream()
                .map(entry -> new Row(
                        entry.getKey(),
                        entry.getValue().size(),
                        100 * middle(entry.getValue()),
                        100 * law.sigma(entry.getKey())))
                .toList();
        return new NoiseChart(
                law,
                List.copyOf(points.values()),
                line.toString(),
                upper.toString() + lower + "Z",
                x.stops(isoTo),
                down,
                rows);
    }

    private static String trimmed(double percent) {
        return percent >= 1 ? Integer.toString((int) percent) : Double.toString(percent);
    }

    private static String two(double v) {
        return String.format(Locale.ROOT, "%.1f", v);
    }

    private static double middle(List<Double> values) {
        List<Double> sorted = values.stream().sorted().toList();
        return (sorted.get((sorted.size() - 1) / 2) + sorted.get(sorted.size() / 2)) / 2;
    }
}
