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
    private static final double SMOOTH_SHARE = 0.25;

    private static final int PER_CLASS = 100;

    private record Block(float mean, float variance, float structure) {}

    private record Point(double mean, double variance, int blocks) {}

    /** The law of one colour, and on how many smooth blocks it rests. */
    public record Line(double a, double b, int blocks) {}

    private final List<Block> blocks = new ArrayList<>();

    public synchronized void add(float mean, float variance, float structure) {
        blocks.add(new Block(mean, variance, structure));
    }

    /** The fitted line, or null when there are too few blocks to say. */
    public synchronized Line fit() {
        if (blocks.size() < 2 * PER_CLASS) {
            return null;
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
            points.add(new Point(mean, variances[variances.length / 2], smooth.size()));
        }
        return line(points);
    }

    /** Least squares of relative errors, re-weighted so that classes of texture (variance too high) fade out. */
    private static Line line(List<Point> points) {
        double a = 0;
        double b = points.stream().mapToDouble(Point::variance).min().orElse(0);
        double[] trust = new double[points.size()];
        Arrays.fill(trust, 1);
        for (int round = 0; round < 20; round++) {
            double sw = 0;
            double sx = 0;
            double sy = 0;
            double sxx = 0;
            double sxy = 0;
            for (int i = 0; i < points.size(); i++) {
                Point p = points.get(i);
                double expected = round == 0 ? p.variance : Math.max(a * p.mean + b, 1e-3 * p.variance);
                double w = trust[i] * p.blocks / (expected * expected + 1e-30);
                sw += w;
                sx += w * p.mean;
                sy += w * p.variance;
                sxx += w * p.mean * p.mean;
                sxy += w * p.mean * p.variance;
            }
            double det = sw * sxx - sx * sx;
            a = det > 1e-9 * sw * sxx ? (sw * sxy - sx * sy) / det : 0;
            if (a < 0) {
                a = 0;
            }
            b = (sy - a * sx) / sw;
            if (b < 0) {
                b = 0;
                a = sxx > 0 ? sxy / sxx : 0;
            }
            for (int i = 0; i < points.size(); i++) {
                Point p = points.get(i);
                double excess = p.variance / Math.max(a * p.mean + b, 1e-12) - 1;
                // Texture only ever adds: excess is doubted early, shortfall hardly.
                double limit = excess > 0 ? 0.12 : 0.4;
                trust[i] = 1 / (1 + Math.pow(excess / limit, 2));
            }
        }
        return new Line(a, b, points.stream().mapToInt(Point::blocks).sum());
    }
}
