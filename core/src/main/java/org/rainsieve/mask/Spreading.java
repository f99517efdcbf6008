package org.rainsieve.mask;

/**
 * Carries what is known of some cells over to those around that look alike, and stops at edges: the field u that makes
 * Σ known·(u − wanted)² + Σ alike·(u − u′)² least (weighted least squares; conjugate gradients, scaled by the diagonal).
 */
final class Spreading {
    private static final int MOST_ROUNDS = 400;
    private static final double CLOSE_ENOUGH = 1e-8;

    /** How much neighbours hold together against what is known of them. */
    private static final double HOLD = 110;

    /** Neighbours whose square roots differ by this share are told apart. */
    private static final double CONTRAST = 0.06;

    /** In the dark, contrasts count as if it were this bright. */
    private static final double DARK = 0.15;

    private final int w;
    private final int n;
    private final double[] right;
    private final double[] down;
    private final double[] known;

    private Spreading(FrameLook look, float[] known) {
        w = look.columns();
        n = w * look.rows();
        right = new double[n];
        down = new double[n];
        this.known = new double[n];
        for (int i = 0; i < n; i++) {
            this.known[i] = known[i];
            right[i] = i % w < w - 1 ? HOLD * alike(look, i, i + 1) : 0;
            down[i] = i + w < n ? HOLD * alike(look, i, i + w) : 0;
        }
    }

    static float[] solve(FrameLook look, float[] wanted, float[] known) {
        return new Spreading(look, known).solve(wanted);
    }

    private float[] solve(float[] wanted) {
        double[] u = new double[n];
        double[] rest = new double[n];
        double[] way = new double[n];
        double[] image = new double[n];
        double[] diagonal = new double[n];
        for (int i = 0; i < n; i++) {
            double left = i % w > 0 ? right[i - 1] : 0;
            double up = i >= w ? down[i - w] : 0;
            diagonal[i] = known[i] + right[i] + down[i] + left + up + 1e-9;
            u[i] = wanted[i];
        }
        apply(u, image);
        double product = 0;
        for (int i = 0; i < n; i++) {
            rest[i] = known[i] * wanted[i] - image[i];
            way[i] = rest[i] / diagonal[i];
            product += rest[i] * way[i];
        }
        for (int round = 0; round < MOST_ROUNDS && product > CLOSE_ENOUGH * n; round++) {
            apply(way, image);
            double along = 0;
            for (int i = 0; i < n; i++) {
                along += way[i] * image[i];
            }
            double step = product / along;
            double next = 0;
            for (int i = 0; i < n; i++) {
                u[i] += step * way[i];
                rest[i] -= step * image[i];
                next += rest[i] * rest[i] / diagonal[i];
            }
            double turn = next / product;
            product = next;
            for (int i = 0; i < n; i++) {
                way[i] = rest[i] / diagonal[i] + turn * way[i];
            }
        }
        float[] out = new float[n];
        for (int i = 0; i < n; i++) {
            out[i] = (float) u[i];
        }
        return out;
    }

    private void apply(double[] u, double[] out) {
        for (int i = 0; i < n; i++) {
            out[i] = known[i] * u[i];
        }
        for (int i = 0; i < n; i++) {
            if (right[i] > 0) {
                double flow = right[i] * (u[i] - u[i + 1]);
                out[i] += flow;
                out[i + 1] -= flow;
            }
            if (down[i] > 0) {
                double flow = down[i] * (u[i] - u[i + w]);
                out[i] += flow;
                out[i + w] -= flow;
            }
        }
    }

    private static double alike(FrameLook look, int i, int j) {
        double difference = 0;
        double brightness = 0;
        for (int c = 0; c < 3; c++) {
            double p = look.colour(c)[i];
            double q = look.colour(c)[j];
            difference += (p - q) * (p - q);
            brightness += p + q;
        }
        return Math.exp(-difference / (2 * CONTRAST * CONTRAST * Math.max(DARK, brightness / 6))) + 1e-4;
    }
}
