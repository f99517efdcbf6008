package org.rainsieve.reading;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/**
 * Tells the shape of a blur from the slopes across edges. Behind a blur the slope across a straight step, seen in the
 * direction θ, is the blur's projection onto that direction (its line spread, as in ISO 12233): a Gaussian for a soft
 * blur, a half circle of radius r for a disc, a box of length L·|cos(θ − φ)| for a movement along φ. Profiles are gathered
 * by direction, and the three models are fitted to all directions together.
 */
final class BlurShape {
    private static final int SIZE = 2 * BlurReader.REACH + 1;
    /** A movement needs fine directions, a disc many profiles in each. */
    private static final int BINS_FOR_MOVEMENT = 16;

    private static final int BINS_FOR_DISC = 8;
    private static final int LEAST_IN_BIN = 8;
    private static final int LEAST_BINS_FOR_MOVEMENT = 6;
    /** Of each direction's profiles the narrower ones count: soft backgrounds have all directions too. */
    private static final double NARROWEST = 0.1;

    private static final double NARROWER = 0.45;
    /** Movements and discs smaller than this cannot be told from softness. */
    private static final double LEAST_LINE_PX = 5;

    private static final double LEAST_DISC_PX = 1.8;
    /** A shape is believed when what its model leaves over is less than this share of what softness leaves over. */
    private static final double DISC_BETTER = 0.7;

    private static final double LINE_BETTER = 0.25;
    /** Shares of the slopes' power: what softness leaves over behind a movement at least, and what a movement may. */
    private static final double MOVED = 0.012;

    private static final double MOVEMENT_UNEXPLAINED = 0.034;
    /** Where neither softness nor a disc explains the rest, nothing can be told. */
    private static final double UNEXPLAINED = 0.06;

    /** @param sigmaPx of the soft part; discPx or linePx are 0 where there is none */
    record Shape(double sigmaPx, double discPx, double linePx, double lineAngleDegrees) {
        /** Neither softness, nor a disc, nor one movement: several blurs, as when things move apart. */
        static final Shape UNKNOWN = new Shape(Double.NaN, 0, 0, 0);
    }

    /** A direction's profiles as one. */
    private record Direction(double[] slopes, double angle, double weight) {}

    private final List<Direction> directions = new ArrayList<>();
    private final double ownVariance;

    private BlurShape(List<BlurEvidence.Profile> profiles, double ownVariance, int binCount) {
        this.ownVariance = ownVariance;
        List<List<BlurEvidence.Profile>> bins = new ArrayList<>();
        for (int i = 0; i < binCount; i++) {
            bins.add(new ArrayList<>());
        }
        for (BlurEvidence.Profile profile : profiles) {
            bins.get((int) (profile.angle() / Math.PI * binCount) % binCount).add(profile);
        }
        for (List<BlurEvidence.Profile> bin : bins) {
            if (bin.size() >= LEAST_IN_BIN) {
                directions.add(pooled(bin));
            }
        }
    }

    /**
     * @param profiles of many edges
     * @param ownVariance of what reading the profiles added, in px²
     * @return null when neither a disc nor a movement can be told from softness
     */
    static Shape of(List<BlurEvidence.Profile> profiles, double ownVariance) {
        Shape moved = new BlurShape(profiles, ownVariance, BINS_FOR_MOVEMENT).movement();
        return moved != null ? moved : new BlurShape(profiles, ownVariance, BINS_FOR_DISC).disc();
    }

    private static Direction pooled(List<BlurEvidence.Profile> bin) {
        bin.sort(Comparator.comparingDouble(BlurEvidence.Profile::width));
        List<BlurEvidence.Profile> used =
                bin.subList((int) (NARROWEST * bin.size()), Math.max(5, (int) (NARROWER * bin.size())));
        double[] slopes = new double[SIZE];
        double sum = 0;
        for (int i = 0; i < SIZE; i++) {
            int at = i;
            double[] values =
                    used.stream().mapToDouble(p -> p.slopes()[at]).sorted().toArray();
            slopes[i] = values[values.length / 2];
            sum += slopes[i];
        }
        for (int i = 0; i < SIZE; i++) {
            slopes[i] /= sum;
        }
        // Doubled angles, so that 0 and π meet.
        double x = used.stream().mapToDouble(p -> Math.cos(2 * p.angle())).sum();
        double y = used.stream().mapToDouble(p -> Math.sin(2 * p.angle())).sum();
        return new Direction(slopes, Math.atan2(y, x) / 2, Math.sqrt(used.size()));
    }

    private double[] soft() {
        return least(new double[] {1, 0, 0, 0}, false, false);
    }

    private double[] bestDisc(double[] soft) {
        double[] best = {0.7, 1.5, 0, 0};
        for (double radius = 1.5; radius < 12; radius *= 1.3) {
            for (double sigma = 0.3; sigma < 3; sigma *= 2) {
                best = better(best, new double[] {sigma, radius, 0, 0});
            }
        }
        return better(soft, least(best, true, false));
    }

    /** @return null when no movement can be told */
    private Shape movement() {
        if (directions.size() < LEAST_BINS_FOR_MOVEMENT) {
            return null;
        }
        double[] soft = soft();
        double softLeft = misfit(soft);
        if (softLeft <= MOVED) {
            return null;
        }
        double[] best = {0.8, 0, 4, 0};
        for (double length = 4; length < 32; length *= 1.3) {
            for (int turn = 0; turn < 12; turn++) {
                for (double sigma = 0.4; sigma < 3; sigma *= 2) {
                    best = better(best, new double[] {sigma, 0, length, turn * Math.PI / 12});
                }
            }
        }
        double[] line = better(soft, least(best, false, true));
        double lineLeft = misfit(line);
        if (line[2] < LEAST_LINE_PX
                || lineLeft > MOVEMENT_UNEXPLAINED
                || lineLeft > LINE_BETTER * Math.min(softLeft, misfit(bestDisc(soft)))) {
            return null;
        }
        // Gradients point across edges; an image's rows run downwards.
        double degrees = Math.toDegrees(-line[3]);
        return new Shape(line[0], 0, line[2], ((degrees % 180) + 180) % 180);
    }

    /** @return null when it cannot be told from softness */
    private Shape disc() {
        if (directions.isEmpty()) {
            return null;
        }
        double[] soft = soft();
        double[] disc = bestDisc(soft);
        double softLeft = misfit(soft);
        double discLeft = misfit(disc);
        if (softLeft > UNEXPLAINED && discLeft > UNEXPLAINED) {
            return Shape.UNKNOWN;
        }
        return disc[1] >= LEAST_DISC_PX && discLeft < DISC_BETTER * softLeft ? new Shape(disc[0], disc[1], 0, 0) : null;
    }

    private double[] better(double[] one, double[] other) {
        return misfit(other) < misfit(one) ? other : one;
    }

    /** Walks down from a start in ever smaller steps of σ, and of radius, or length and direction. */
    private double[] least(double[] start, boolean disc, boolean line) {
        double[] at = start.clone();
        double[] step = {0.3, disc ? 0.5 : 0, line ? 2 : 0, line ? 0.3 : 0};
        double now = misfit(at);
        for (int round = 0; round < 60 && step[0] > 0.004; round++) {
            boolean moved = false;
            for (int p = 0; p < 4; p++) {
                for (int sign = -1; sign <= 1 && step[p] > 0; sign += 2) {
                    double[] next = at.clone();
                    next[p] += sign * step[p];
                    if (p < 3 && next[p] < 0) {
                        continue;
                    }
                    double then = misfit(next);
                    if (then < now) {
                        now = then;
                        at = next;
                        moved = true;
                    }
                }
            }
            if (!moved) {
                for (int p = 0; p < 4; p++) {
                    step[p] /= 2;
                }
            }
        }
        return at;
    }

    /** The share of the slopes' power that a shape does not explain. */
    private double misfit(double[] shape) {
        double sum = 0;
        double power = 0;
        for (Direction d : directions) {
            double half = shape[2] * Math.abs(Math.cos(d.angle - shape[3])) / 2;
            double variance = shape[0] * shape[0] + ownVariance;
            for (int i = 0; i < SIZE; i++) {
                double t = i - BlurReader.REACH;
                double model = shape[1] > 0 ? disc(t, shape[1], variance) : box(t, half, variance);
                sum += d.weight * (d.slopes[i] - model) * (d.slopes[i] - model);
                power += d.weight * d.slopes[i] * d.slopes[i];
            }
        }
        return sum / power;
    }

    /** A box of half its length {@code half} behind a Gaussian. */
    private static double box(double t, double half, double variance) {
        double sigma = Math.sqrt(variance);
        if (half < 0.05) {
            return Math.exp(-t * t / (2 * variance)) / (sigma * Math.sqrt(2 * Math.PI));
        }
        double root = sigma * Math.sqrt(2);
        return (erf((t + half) / root) - erf((t - half) / root)) / (4 * half);
    }

    /** The projection of a disc behind a Gaussian, by Chebyshev's quadrature of the second kind. */
    private static double disc(double t, double radius, double variance) {
        int n = 10;
        double sum = 0;
        for (int k = 1; k <= n; k++) {
            double angle = k * Math.PI / (n + 1);
            double sine = Math.sin(angle);
            double d = t - radius * Math.cos(angle);
            sum += 2.0 / (n + 1) * sine * sine * Math.exp(-d * d / (2 * variance));
        }
        return sum / Math.sqrt(2 * Math.PI * variance);
    }

    /** Abramowitz & Stegun 7.1.26; error at most 1.5e-7. */
    private static double erf(double x) {
        double z = Math.abs(x);
        double t = 1 / (1 + 0.3275911 * z);
        double p = t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))));
        return Math.signum(x) * (1 - p * Math.exp(-z * z));
    }
}
