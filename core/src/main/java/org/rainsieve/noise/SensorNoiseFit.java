package org.rainsieve.noise;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;

/**
 * Fits one law var(x) = a·x + b to small blocks of all colours of a mosaic. A photosite's noise does not know its colour: a
 * sensor has one conversion gain and one read noise, so all blocks tell the same two numbers. In every class of brightness
 * only the blocks of least structure count; what is cut at black or white is undone by {@link CensoredNormal}.
 *
 * <p>Where the blocks leave it open how light's noise and the sensor's own share what was seen (a frame of one brightness
 * only), an expectation decides: read noise of about three electrons, within a factor of four (common practice for sensors at
 * the ISO settings that noise is fought at). Where they tell, it weighs next to nothing.
 */
final class SensorNoiseFit {
    /** Share of the blocks of one brightness that counts as smooth. (Common practice.) */
    private static final double SMOOTH_SHARE = 0.2;

    private static final int PER_CLASS = 100;
    private static final int FEW_PER_CLASS = 24;
    private static final int MOST_CLASSES = 40;
    private static final int LEAST_SMOOTH = 8;

    /** A class is at least so many times as wide as chance moves the mean of one block. */
    private static final double CLASS_CHANCE = 5;

    /** Fewer blocks than this tell nothing. */
    private static final int LEAST_BLOCKS = 6;

    /** Groups of blocks that are left out in turn to see how far the law moves (jackknife, Tukey 1958). */
    private static final int GROUPS = 8;

    /** b in units of a², which is the read noise in electrons, squared. */
    private static final double LOG_ELECTRONS2 = Math.log(9);

    private static final double LOG_ELECTRONS2_SD = 2.8;

    /** Of the size of noise nothing is expected; this keeps the equations solvable. */
    private static final double LOG_A = Math.log(1e-3);

    private static final double LOG_A_SD = 5;

    /** What classes of one brightness differ by besides chance. */
    private static final double CLASS_ERROR = 0.03;

    /**
     * Of the variance of a median absolute deviation of normal noise: 0.37 of the efficiency of the mean square (Rousseeuw,
     * Croux 1993), so that the log of the variance has this sd over √n.
     */
    private static final double LOG_VARIANCE_SD = 2.33;

    /** A colour has a law of its own only if it differs by so much (log of variance), and by so many standard errors. */
    private static final double OWN_LAW = Math.log(1.25);

    private static final double OWN_LAW_ERRORS = 4;

    private static final double NEAR_CUT_SDS = 4;

    /** Single samples cut change no mean. */
    private static final double FEW_CUT = 0.03;

    private record Block(int colour, float mean, float[] fine, float structure) {
        int group() {
            return (Float.floatToIntBits(mean) * 0x9E3779B1 >>> 8) % GROUPS;
        }
    }

    /** Mean and variance of one class before anything was cut; the sd of its log variance by chance. */
    private record Point(double mean, double variance, double error) {}

    private record Line(double a, double b) {
        double at(double x) {
            return a * Math.max(0, x) + b;
        }
    }

    /**
     * @param errorAtBlack standard error of the noise's sd there, as a share of it
     * @param errorAtGrey the same at 18 %
     * @param errorAtMiddle the same at the frame's own brightness
     */
    record Fitted(NoiseModel law, double errorAtBlack, double errorAtGrey, double errorAtMiddle) {}

    private final double floor;
    private final double leastB;
    private final List<Block> blocks = new ArrayList<>();

    /**
     * @param floor the lowest signal that the sensor writes
     * @param leastB the variance of its steps, by which values were also set off within them
     */
    SensorNoiseFit(double floor, double leastB) {
        this.floor = floor;
        this.leastB = Math.max(1e-12, leastB);
    }

    /**
     * @param fine second differences of four samples each, halved, without their sign
     * @param structure of the block at a coarser scale, apart from its noise
     * @param cutShare share of samples on the floor or at white
     */
    void add(int colour, float mean, float[] fine, float structure, double cutShare) {
        if (cutShare <= FEW_CUT || evenlyCut(mean, fine, cutShare)) {
            synchronized (this) {
                blocks.add(new Block(colour, mean, fine, structure));
            }
        }
    }

    /** Whether as many samples are cut as an even field of such a mean and noise has: edges of clipped areas have more. */
    private boolean evenlyCut(float mean, float[] fine, double cutShare) {
        float[] sorted = fine.clone();
        Arrays.sort(sorted);
        boolean dark = mean - floor < 1 - mean;
        double height = dark ? mean - floor : 1 - mean;
        CensoredNormal.Latent latent =
                CensoredNormal.latent(height, sorted[(int) (CensoredNormal.SHARE * (sorted.length - 1))]);
        if (latent == null) {
            return false;
        }
        double expected = Gaussian.below(-latent.meanAboveFloor() / latent.sd());
        return Math.abs(cutShare - expected) < 0.5 * expected + FEW_CUT;
    }

    /** Null when there is nothing to go by. */
    synchronized Fitted fit() {
        // Blocks come from several threads.
        blocks.sort(Comparator.<Block>comparingDouble(Block::mean).thenComparingDouble(Block::structure));
        List<Point> points = points(blocks);
        if (points.isEmpty()) {
            return null;
        }
        Line line = line(points);
        double middle = Math.max(0, blocks.get(blocks.size() / 2).mean);
        double[] at = {0, 0.18, middle};
        double[] errors = errors(points, line, at);
        double[] shares = new double[3];
        for (int c = 0; c < 3; c++) {
            shares[c] = own(c, line);
        }
        NoiseModel law = new NoiseModel(
                List.of(line.a * shares[0], line.a * shares[1], line.a * shares[2]),
                List.of(
                        line.b * shares[0] * shares[0],
                        line.b * shares[1] * shares[1],
                        line.b * shares[2] * shares[2]));
        return new Fitted(law, errors[0], errors[1], errors[2]);
    }

    /** The larger of what chance and expectation leave open, and of how far the law moves without some of the blocks. */
    private double[] errors(List<Point> points, Line line, double[] at) {
        double[] error = new double[at.length];
        double[][] covariance = covariance(points, trust(points, line), line);
        for (int k = 0; k < at.length; k++) {
            double byA = line.a * at[k] / line.at(at[k]);
            double byB = 1 - byA;
            double variance =
                    byA * byA * covariance[0][0] + 2 * byA * byB * covariance[0][1] + byB * byB * covariance[1][1];
            error[k] = Math.sqrt(Math.max(0, variance)) / 2;
        }
        double[] sum = new double[at.length];
        double[] squares = new double[at.length];
        for (int group = 0; group < GROUPS; group++) {
            int left = group;
            List<Point> others =
                    points(blocks.stream().filter(b -> b.group() != left).toList());
            if (others.isEmpty()) {
                Arrays.fill(error, 1);
                return error;
            }
            Line without = line(others);
            for (int k = 0; k < at.length; k++) {
                double log = Math.log(without.at(at[k])) / 2;
                sum[k] += log;
                squares[k] += log * log;
            }
        }
        for (int k = 0; k < at.length; k++) {
            double spread = (squares[k] - sum[k] * sum[k] / GROUPS) * (GROUPS - 1) / GROUPS;
            error[k] = Math.max(error[k], Math.sqrt(Math.max(0, spread)));
        }
        return error;
    }

    /** By what a colour's samples were multiplied on their way into the file, if they insist that they were; else 1. */
    private double own(int colour, Line common) {
        List<Block> mine = blocks.stream().filter(b -> b.colour == colour).toList();
        List<Point> points = points(mine);
        double[] excess = excess(points, common);
        if (Double.isNaN(excess[0]) || Math.abs(excess[0]) < OWN_LAW) {
            return 1;
        }
        double sum = 0;
        double squares = 0;
        for (int group = 0; group < GROUPS; group++) {
            int left = group;
            double[] without =
                    excess(points(mine.stream().filter(b -> b.group() != left).toList()), common);
            sum += without[0];
            squares += without[0] * without[0];
        }
        double spread = Math.sqrt(Math.max(0, (squares - sum * sum / GROUPS) * (GROUPS - 1) / GROUPS));
        if (!(Math.abs(excess[0]) > OWN_LAW_ERRORS * Math.hypot(spread, excess[1]))) {
            return 1;
        }
        // Multiplied by g, light's noise grows by g and the sensor's own by g².
        double mean =
                points.stream().mapToDouble(p -> Math.max(0, p.mean)).average().orElse(0);
        double wanted = Math.exp(excess[0]) * common.at(mean);
        double g = 1;
        for (int round = 0; round < 20; round++) {
            double value = common.a * mean * g + common.b * g * g;
            g = Math.max(0.05, g - (value - wanted) / (common.a * mean + 2 * common.b * g));
        }
        return g;
    }

    /** Log of the variance above the common law, in the mean of the classes that agree with each other, and its error. */
    private static double[] excess(List<Point> points, Line common) {
        if (points.size() < 3) {
            return new double[] {Double.NaN, 0};
        }
        double[] logs = points.stream()
                .mapToDouble(p -> Math.log(p.variance / common.at(p.mean)))
                .sorted()
                .toArray();
        // Texture only adds: the lower half tells the noise.
        double lower = logs[logs.length / 3];
        double chance = points.stream().mapToDouble(Point::error).average().orElse(1);
        return new double[] {lower, 1.5 * chance / Math.sqrt(points.size())};
    }

    private List<Point> points(List<Block> sorted) {
        int n = sorted.size();
        if (n < LEAST_BLOCKS) {
            return List.of();
        }
        int classes = Math.max(1, Math.min(MOST_CLASSES, n / (n < 4 * PER_CLASS ? FEW_PER_CLASS : PER_CLASS)));
        List<Point> points = new ArrayList<>();
        int from = 0;
        for (int k = 0; k < classes; k++) {
            int to = (int) ((k + 1L) * n / classes);
            if (k < classes - 1 && narrow(sorted, from, to)) {
                continue;
            }
            List<Block> group = new ArrayList<>(sorted.subList(from, to));
            from = to;
            group.sort(Comparator.comparingDouble(Block::structure));
            int count = Math.min(group.size(), Math.max(LEAST_SMOOTH, (int) (group.size() * SMOOTH_SHARE)));
            Point point = point(group.subList(0, count));
            if (point != null) {
                points.add(point);
            }
        }
        return points;
    }

    /** Blocks whose means differ by no more than chance moves them are of one class: apart, they would be sorted by chance. */
    private static boolean narrow(List<Block> sorted, int from, int to) {
        Block middle = sorted.get((from + to) / 2);
        float[] fine = middle.fine.clone();
        Arrays.sort(fine);
        double chance = fine[fine.length / 2] / 0.6745 / Math.sqrt(4.0 * fine.length);
        return sorted.get(to - 1).mean - sorted.get(from).mean < CLASS_CHANCE * chance;
    }

    /** Null where nearly all was cut. */
    private Point point(List<Block> smooth) {
        double mean = smooth.stream().mapToDouble(Block::mean).average().orElseThrow();
        int count = smooth.stream().mapToInt(b -> b.fine.length).sum();
        float[] fine = new float[count];
        int n = 0;
        for (Block block : smooth) {
            System.arraycopy(block.fine, 0, fine, n, block.fine.length);
            n += block.fine.length;
        }
        Arrays.sort(fine);
        double sd = (fine[(n - 1) / 2] + fine[n / 2]) / 2 / 0.6745;
        if (!(sd > 0)) {
            return null;
        }
        double error = Math.hypot(LOG_VARIANCE_SD / Math.sqrt(count), CLASS_ERROR);
        boolean dark = mean - floor < NEAR_CUT_SDS * sd;
        boolean bright = 1 - mean < NEAR_CUT_SDS * sd;
        if (!dark && !bright) {
            return new Point(mean, own(sd), error);
        }
        CensoredNormal.Latent latent =
                CensoredNormal.latent(dark ? mean - floor : 1 - mean, fine[(int) (CensoredNormal.SHARE * (n - 1))]);
        if (latent == null) {
            return null;
        }
        double uncut = dark ? floor + latent.meanAboveFloor() : 1 - latent.meanAboveFloor();
        // The more was cut, the less can be made of what is left.
        double xi = latent.meanAboveFloor() / latent.sd();
        return new Point(uncut, own(latent.sd()), error * (xi > 1.5 ? 1.3 : xi > 0.5 ? 2 : 3));
    }

    /** Less what setting values off within their steps has added. */
    private double own(double sd) {
        return Math.max(sd * sd - leastB, sd * sd / 2);
    }

    private static double[] trust(List<Point> points, Line line) {
        double[] trust = new double[points.size()];
        for (int i = 0; i < trust.length; i++) {
            Point p = points.get(i);
            double excess = p.variance / line.at(p.mean) - 1;
            // Texture only ever adds: excess is doubted early, shortfall hardly.
            double limit = Math.hypot(excess > 0 ? 0.1 : 0.4, 1.5 * p.error);
            trust[i] = 1 / (1 + Math.pow(excess / limit, 2));
        }
        return trust;
    }

    /**
     * Least squares of log variances, re-weighted so that classes of texture (variance too high) fade out. Re-weighting may
     * settle in a wrong place, so it is begun twice, from all classes alike and from the median line through pairs (Theil 1950,
     * Sen 1968), and the answer that more classes agree with is kept.
     */
    private Line line(List<Point> points) {
        double[] alike = new double[points.size()];
        Arrays.fill(alike, 1);
        Line first = settle(points, alike, started(points));
        Line median = medianLine(points);
        Line second = settle(points, trust(points, median), median);
        return agreement(points, second) > agreement(points, first) ? second : first;
    }

    private static double agreement(List<Point> points, Line line) {
        return Arrays.stream(trust(points, line)).sum();
    }

    private Line started(List<Point> points) {
        Point middle = points.get(points.size() / 2);
        double x = Math.max(0, middle.mean);
        // a·x + 9a² = v
        double a = (-x + Math.sqrt(x * x + 36 * middle.variance)) / 18;
        return new Line(a, Math.max(leastB, 9 * a * a));
    }

    private Line medianLine(List<Point> points) {
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
        if (n == 0) {
            return started(points);
        }
        Arrays.sort(slopes, 0, n);
        double a = Math.max(1e-8, slopes[n / 2]);
        double[] rests = points.stream()
                .mapToDouble(p -> p.variance - a * Math.max(0, p.mean))
                .sorted()
                .toArray();
        return new Line(a, Math.max(leastB, rests[rests.length / 2]));
    }

    private Line settle(List<Point> points, double[] begin, Line from) {
        double[] trust = begin;
        Line line = from;
        for (int round = 0; round < 40; round++) {
            double[] gradient = new double[2];
            double[][] normal = normal(points, trust, line, gradient);
            double det = normal[0][0] * normal[1][1] - normal[0][1] * normal[0][1];
            double stepA = (normal[1][1] * gradient[0] - normal[0][1] * gradient[1]) / det;
            double stepB = (normal[0][0] * gradient[1] - normal[0][1] * gradient[0]) / det;
            line = new Line(
                    line.a * Math.exp(Math.max(-1, Math.min(1, stepA))),
                    Math.max(leastB, line.b * Math.exp(Math.max(-1, Math.min(1, stepB)))));
            if (round >= 3) {
                trust = trust(points, line);
            }
        }
        return line;
    }

    /** The normal equations in log a and log b. */
    private static double[][] normal(List<Point> points, double[] trust, Line line, double[] gradient) {
        double prior = 1 / (LOG_ELECTRONS2_SD * LOG_ELECTRONS2_SD);
        double off = Math.log(line.b) - 2 * Math.log(line.a) - LOG_ELECTRONS2;
        double size = 1 / (LOG_A_SD * LOG_A_SD);
        double aa = 4 * prior + size;
        double ab = -2 * prior;
        double bb = prior;
        gradient[0] = 2 * prior * off - size * (Math.log(line.a) - LOG_A);
        gradient[1] = -prior * off;
        for (int i = 0; i < trust.length; i++) {
            Point p = points.get(i);
            double expected = line.at(p.mean);
            double byA = line.a * Math.max(0, p.mean) / expected;
            double byB = line.b / expected;
            double w = trust[i] / (p.error * p.error);
            double rest = Math.max(-2, Math.min(2, Math.log(p.variance / expected)));
            aa += w * byA * byA;
            ab += w * byA * byB;
            bb += w * byB * byB;
            gradient[0] += w * byA * rest;
            gradient[1] += w * byB * rest;
        }
        return new double[][] {{aa, ab}, {ab, bb}};
    }

    private static double[][] covariance(List<Point> points, double[] trust, Line line) {
        double[][] n = normal(points, trust, line, new double[2]);
        double det = n[0][0] * n[1][1] - n[0][1] * n[0][1];
        return new double[][] {{n[1][1] / det, -n[0][1] / det}, {-n[0][1] / det, n[0][0] / det}};
    }
}
