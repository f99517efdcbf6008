package org.rainsieve.noise;

/**
 * The generalised Anscombe transform and its exact unbiased inverse: Mäkitalo, Foi, IEEE TIP 22(1), 2013. In counts
 * y = x/a with Gaussian noise of sd σ̃ = √b/a, f(z) = 2·√(z + 3/8 + σ̃²) has noise of sd 1 at every brightness.
 *
 * <p>Samples that were cut at black or at white average to something else, which the inverse takes into account where it is told
 * (Foi, <i>Clipped noisy images</i>, Signal Processing 89, 2009).
 *
 * <p>Values are handed out relative to f(0), which keeps single precision exact enough at low ISO.
 */
public final class StabilisingTransform {
    private static final int STEPS = 1 << 14;
    /** Counts up to which the mean of f is summed; above, the closed form is exact to 10⁻⁴ counts. */
    private static final double SUMMED = 30;

    private final double a;
    private final double offset;
    private final double zero;
    private final float[] inverse = new float[STEPS + 1];
    private final double low;
    private final double step;
    private final float slopeBelow;

    /** @param largest signal up to which the inverse must answer, 1.0 = clipping */
    public StabilisingTransform(double a, double b, double largest) {
        this(a, b, Double.NEGATIVE_INFINITY, largest, false);
    }

    /** For one colour of a sensor that cuts at white, and at its floor. */
    public StabilisingTransform(SensorNoise noise, int colour) {
        this(noise.law().a().get(colour), noise.law().b().get(colour), noise.floor(), 1, true);
    }

    /** Those of all three colours; colours of one law share one, for making it takes a while. */
    public static StabilisingTransform[] ofColours(SensorNoise noise) {
        StabilisingTransform[] transforms = new StabilisingTransform[3];
        for (int c = 0; c < 3; c++) {
            for (int other = 0; other < c && transforms[c] == null; other++) {
                if (noise.law().isAlike(c, other)) {
                    transforms[c] = transforms[other];
                }
            }
            if (transforms[c] == null) {
                transforms[c] = new StabilisingTransform(noise, c);
            }
        }
        return transforms;
    }

    private StabilisingTransform(double a, double b, double floor, double largest, boolean cutsWhite) {
        this.a = a;
        double sigma2 = b / (a * a);
        this.offset = 0.375 + sigma2;
        this.zero = 2 * Math.sqrt(offset);
        MeanOfTransform mean = new MeanOfTransform(Math.sqrt(sigma2), offset, floor / a);
        low = mean.at(0);
        double highest = cutsWhite ? 1 / a : Math.max(2 * SUMMED, 1.5 * largest / a);
        double top = 2 * Math.sqrt(highest + offset);
        step = (top - low) / STEPS;
        double from = 0;
        double valueFrom = low;
        double to = 0;
        double valueTo = low;
        for (int i = 0; i <= STEPS; i++) {
            double d = low + i * step;
            double y;
            if (cutsWhite) {
                d = uncut(top, d);
            }
            if (d >= top && cutsWhite) {
                y = 1 / a;
            } else if (d >= mean.last()) {
                y = closedForm(d, sigma2);
            } else {
                while (valueTo <= d && to < SUMMED) {
                    from = to;
                    valueFrom = valueTo;
                    to += MeanOfTransform.SPACING;
                    valueTo = mean.at(to);
                }
                y = from + (to - from) * (d - valueFrom) / (valueTo - valueFrom);
            }
            inverse[i] = (float) (y * a);
        }
        slopeBelow = (float) ((inverse[1] - inverse[0]) / step);
    }

    /** What would have averaged to d if nothing had been cut at the top; noise has sd 1 here. */
    private static double uncut(double top, double d) {
        double missing = top - d;
        if (missing > 5) {
            return d;
        }
        if (missing <= CensoredNormal.meanAboveFloor(0)) {
            return top; // white, or beyond
        }
        double below = 0;
        double above = 5;
        for (int i = 0; i < 40; i++) {
            double middle = (below + above) / 2;
            if (CensoredNormal.meanAboveFloor(middle) < missing) {
                below = middle;
            } else {
                above = middle;
            }
        }
        return top - below;
    }

    private static double closedForm(double d, double sigma2) {
        double root = Math.sqrt(1.5);
        return d * d / 4 + root / (4 * d) - 11 / (8 * d * d) + 5 * root / (8 * d * d * d) - 0.125 - sigma2;
    }

    public float forward(float x) {
        double u = x / a + offset;
        return u <= 0 ? (float) -zero : (float) (2 * Math.sqrt(u) - zero);
    }

    /** Signal whose transformed noisy values average to t; continued by a straight line below black. */
    public float inverse(float t) {
        double place = (t + zero - low) / step;
        if (place <= 0) {
            return (float) (inverse[0] + slopeBelow * (t + zero - low));
        }
        int i = (int) place;
        if (i >= STEPS) {
            return inverse[STEPS];
        }
        float part = (float) (place - i);
        return inverse[i] + part * (inverse[i + 1] - inverse[i]);
    }

    /** What the transformed noisy values of a signal average to: the other way round from {@link #inverse}. */
    public float expected(float x) {
        double t;
        if (x <= inverse[0]) {
            t = (x - inverse[0]) / slopeBelow;
        } else {
            int below = 0;
            int above = STEPS;
            while (above - below > 1) {
                int middle = (below + above) >>> 1;
                if (inverse[middle] <= x) {
                    below = middle;
                } else {
                    above = middle;
                }
            }
            float span = inverse[above] - inverse[below];
            t = (below + (span > 0 ? Math.min(1, (x - inverse[below]) / span) : 1)) * step;
        }
        return (float) (low + t - zero);
    }

    /** E[f(z) | y]: a Poisson sum of Gaussian integrals. */
    private static final class MeanOfTransform {
        static final double SPACING = 0.02;
        private final double[] gaussian = new double[120];
        private final double last;

        MeanOfTransform(double sigma, double offset, double floor) {
            int points = 1600;
            double[] weight = new double[points];
            double sum = 0;
            for (int i = 0; i < points; i++) {
                double n = -8 + 16.0 * (i + 0.5) / points;
                weight[i] = Math.exp(-n * n / 2);
                sum += weight[i];
            }
            for (int k = 0; k < gaussian.length; k++) {
                double mean = 0;
                for (int i = 0; i < points; i++) {
                    double n = -8 + 16.0 * (i + 0.5) / points;
                    mean += weight[i] * 2 * Math.sqrt(Math.max(0, Math.max(floor, k + sigma * n) + offset));
                }
                gaussian[k] = mean / sum;
            }
            last = at(SUMMED);
        }

        double at(double y) {
            double p = Math.exp(-y);
            double sum = 0;
            for (int k = 0; k < gaussian.length; k++) {
                sum += p * gaussian[k];
                p *= y / (k + 1);
            }
            return sum;
        }

        double last() {
            return last;
        }
    }
}
