package org.rainsieve.noise;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;

/**
 * Fits var = a·mean + b to many small blocks of a picture, leaving texture out: in every class of brightness only the
 * blocks of least structure count, and the median of those. Structure must be measured apart from the noise (at a
 * coarser scale, or on an estimate), so that choosing by it does not choose by noise.
 */
public final class NoiseFit {
    /** Share of the blocks of one brightness that counts as smooth. (Common practice.) */
    private static final double SMOOTH_SHARE = 0.2;

    private static final int PER_CLASS = 100;

    /** Groups of blocks that are left out in turn to see how far the line moves (jackknife, Tukey 1958). */
    private static final int GROUPS = 8;

    private record Block(float mean, float variance, float structure) {
        int group() {
            return (Float.floatToIntBits(mean) * 0x9E3779B1 >>> 8) % GROUPS;
        }
    }

    private record Point(double mean, double variance, int blocks) {}

    /** The law of one colour, and on how many smooth blocks it rests. */
    public record Line(double a, double b, int blocks) {}

    /** What lies so many times above the median is texture, whatever it is a mean of. */
    private static final double ODD = 8;

    private final List<Block> blocks = new ArrayList<>();
    private final boolean ofMeans;

    /** By medians. */
    public NoiseFit() {
        this(false);
    }

    private NoiseFit(boolean ofMeans) {
        this.ofMeans = ofMeans;
    }

    /**
     * By the means of a class instead of its median: where noise was taken out, what is left may be next to nothing in most blocks
     * and much in a few.
     */
    public static NoiseFit ofUnevenNoise() {
        return new NoiseFit(true);
    }

    public synchronized void add(float mean, float variance, float structure) {
        blocks.add(new Block(mean, variance, structure));
    }

    /** The fitted line, or null when there are too few blocks to say. */
    public synchronized Line fit() {
        return fit(new ArrayList<>(blocks));
    }

    /** Standard error of the noise's sd at signal x, as a share of it; infinite when there is no line. */
    public synchronized double relativeSigmaError(double x) {
        double sum = 0;
        double squares = 0;
        for (int group = 0; group < GROUPS; group++) {
            int left = group;
            Line line = fit(new ArrayList<>(
                    blocks.stream().filter(block -> block.group() != left).toList()));
            if (line == null || !(line.a * x + line.b > 0)) {
                return Double.POSITIVE_INFINITY;
            }
            double logSigma = Math.log(line.a * x + line.b) / 2;
            sum += logSigma;
            squares += logSigma * logSigma;
        }
        return Math.sqrt(Math.max(0, (squares - sum * sum / GROUPS) * (GROUPS - 1) / GROUPS));
    }

    /** Median brightness of the blocks. */
    public synchronized double middle() {
        double[] means = blocks.stream().mapToDouble(Block::mean).sorted().toArray();
        return means.length == 0 ? 0 : means[means.length / 2];
    }

    private Line fit(List<Block> blocks) {
        List<Point> points = points(blocks);
        return points.isEmpty() ? null : line(points);
    }

    private List<Point> points(List<Block> blocks) {
        if (blocks.size() < 2 * PER_CLASS) {
            return List.of();
        }
        blocks.sort(Comparator.comparingDouble(Block::mean));
        int classes = Math.min(40, blocks.size() / PER_CLASS);
        List<Point> points = new ArrayList<>();
        for (int k = 0; k < classes; k++) {
            List<Block> group =
                    new ArrayList<>(blocks.subList(k * blocks.size() / classes, (k + 1) * blocks.size() / classes));
            group.sort(Comparator.comparingDouble(Block::structure));
            List<Block> smooth = group.subList(0, Math.max(8, (int) (group.size() * SMOOTH_SHARE)));
            double mean = smooth.stream().mapToDouble(Block::mean).average().orElse(0);
            double[] variances =
                    smooth.stream().mapToDouble(Block::variance).sorted().toArray();
            double middle = variances[variances.length / 2];
            double usual = !ofMeans
                    ? middle
                    : Arrays.stream(variances)
                            .filter(v -> v <= ODD * middle)
                            .average()
                            .orElse(middle);
            points.add(new Point(mean, usual, smooth.size()));
        }
        return points;
    }

    /**
     * Least squares of relative errors, re-weighted so that classes of texture (variance too high) fade out. Re-weighting
     * may settle in a wrong place, so it is begun twice, from all classes alike and from the median line through pairs
     * (Theil 1950, Sen 1968), and the answer that more classes agree with is kept.
     */
    private static Line line(List<Point> points) {
        double[] alike = new double[points.size()];
        Arrays.fill(alike, 1);
        Settled first = settle(points, alike);
        Settled second = settle(points, trust(points, medianLine(points)));
        return second.agreement > first.agreement ? second.line : first.line;
    }

    private record Settled(Line line, double agreement) {}

    private static Line medianLine(List<Point> points) {
        double[] slopes = new double[points.size() * (points.size() - 1) / 2];
        int n = 0;
        for (int i = 0; i < points.size(); i++) {
            for (int j = 0; j < i; j++) {
                double apart = points.get(i).mean - points.get(j).mean;
                if (apart > 0) {
                    slopes[n++] = (points.get(i).variance - points.get(j).variance) / apart;
                }
            }
        }
        Arrays.sort(slopes, 0, n);
        double a = n == 0 ? 0 : Math.max(0, slopes[n / 2]);
        double[] rests = points.stream()
                .mapToDouble(p -> p.variance - a * p.mean)
                .sorted()
                .toArray();
        return new Line(a, Math.max(0, rests[rests.length / 2]), 0);
    }

    private static double[] trust(List<Point> points, Line line) {
        double[] trust = new double[points.size()];
        for (int i = 0; i < trust.length; i++) {
            Point p = points.get(i);
            double excess = p.variance / Math.max(line.a * p.mean + line.b, 1e-12) - 1;
            // Texture only ever adds: excess is doubted early, shortfall hardly.
            double limit = excess > 0 ? 0.12 : 0.4;
            trust[i] = 1 / (1 + Math.pow(excess / limit, 2));
        }
        return trust;
    }

    private static Settled settle(List<Point> points, double[] begin) {
        double[] trust = begin;
        Line line = null;
        for (int round = 0; round < 20; round++) {
            double sw = 0;
            double sx = 0;
            double sy = 0;
            double sxx = 0;
            double sxy = 0;
            for (int i = 0; i < points.size(); i++) {
                Point p = points.get(i);
                double expected = line == null ? p.variance : Math.max(line.a * p.mean + line.b, 1e-3 * p.variance);
                double w = trust[i] * p.blocks / (expected * expected + 1e-30);
                sw += w;
                sx += w * p.mean;
                sy += w * p.variance;
                sxx += w * p.mean * p.mean;
                sxy += w * p.mean * p.variance;
            }
            double det = sw * sxx - sx * sx;
            double a = det > 1e-9 * sw * sxx ? Math.max(0, (sw * sxy - sx * sy) / det) : 0;
            double b = (sy - a * sx) / sw;
            if (b < 0) {
                b = 0;
                a = sxx > 0 ? sxy / sxx : 0;
            }
            line = new Line(a, b, points.stream().mapToInt(Point::blocks).sum());
            trust = trust(points, line);
        }
        double agreement = 0;
        for (int i = 0; i < trust.length; i++) {
            agreement += trust[i] * points.get(i).blocks;
        }
        return new Settled(line, agreement);
    }
}
