package org.rainsieve.noise;

/**
 * A normal law whose lower part is cut off and heaped up at a floor, as a sensor does that writes nothing below black: what
 * means and fine differences of such samples tell of the law before it was cut (Foi, <i>Clipped noisy images</i>, Signal
 * Processing 89, 2009, for means and deviations; a quantile of differences is worked out the same way: their median would be
 * nothing soon). In units of
 * the sd before cutting, ξ being how far the mean lay above the floor. Cut at white it is the same, upside down.
 */
public final class CensoredNormal {
    /** Below, most differences are of nothing but samples on the floor. */
    private static final double LEAST_XI = -1;

    /** The share of differences below the one that is looked at, and where it lies for the normal law. */
    static final double SHARE = 0.8;

    private static final double AT_SHARE = 1.2815516;

    /** From here on the floor is out of reach. */
    private static final double MOST_XI = 4;

    private static final double STEP = 0.05;
    private static final int COUNT = (int) Math.round((MOST_XI - LEAST_XI) / STEP) + 1;

    /** Of the tables below, by ξ: differences over those of the law uncut, and the mean above the floor in units of it. */
    private static final double[] FINE_SD = new double[COUNT];

    private static final double[] RATIO = new double[COUNT];

    static {
        for (int i = 0; i < COUNT; i++) {
            double xi = LEAST_XI + i * STEP;
            FINE_SD[i] = fineSd(xi);
            RATIO[i] = meanAboveFloor(xi) / FINE_SD[i];
        }
    }

    private CensoredNormal() {}

    /** The law before it was cut. */
    record Latent(double meanAboveFloor, double sd) {}

    /**
     * @param meanAboveFloor of the samples as they are
     * @param difference the absolute second difference of four samples ((p − q − r + s)/2) that 80 % are smaller than
     * @return null when nearly all lies on the floor
     */
    static Latent latent(double meanAboveFloor, double difference) {
        double fineSd = difference / AT_SHARE;
        double ratio = meanAboveFloor / fineSd;
        if (!(ratio > RATIO[0])) {
            return null;
        }
        if (ratio >= RATIO[COUNT - 1]) {
            return new Latent(meanAboveFloor, fineSd);
        }
        int below = 0;
        int above = COUNT - 1;
        while (above - below > 1) {
            int middle = (below + above) >>> 1;
            if (RATIO[middle] <= ratio) {
                below = middle;
            } else {
                above = middle;
            }
        }
        double part = (ratio - RATIO[below]) / (RATIO[above] - RATIO[below]);
        double sd = fineSd / (FINE_SD[below] + part * (FINE_SD[above] - FINE_SD[below]));
        return new Latent((LEAST_XI + (below + part) * STEP) * sd, sd);
    }

    /** Mean of max(0, ξ + a standard normal). */
    public static double meanAboveFloor(double xi) {
        return xi * Gaussian.below(xi) + Gaussian.density(xi);
    }

    /** By convolving the law with itself on a grid, the samples on the floor as a spike at 0. */
    private static double fineSd(double xi) {
        double step = 0.03;
        int cells = (int) Math.ceil((Math.max(0, xi) + 5) / step);
        double[] p = new double[cells];
        p[0] = Gaussian.below(-xi + step / 2);
        for (int i = 1; i < cells; i++) {
            p[i] = Gaussian.below((i + 0.5) * step - xi) - Gaussian.below((i - 0.5) * step - xi);
        }
        double[] pairs = new double[2 * cells];
        for (int i = 0; i < cells; i++) {
            for (int k = 0; k < cells; k++) {
                pairs[i + k] += p[i] * p[k];
            }
        }
        // How often two sums of two lie so far apart.
        double[] apart = new double[2 * cells];
        for (int i = 0; i < pairs.length; i++) {
            for (int k = 0; k < pairs.length; k++) {
                apart[Math.abs(i - k)] += pairs[i] * pairs[k];
            }
        }
        double sum = 0;
        for (int d = 0; ; d++) {
            double before = sum;
            sum += apart[d];
            if (sum >= SHARE) {
                double part = d == 0 ? 0 : (SHARE - before) / apart[d] - 0.5;
                return (d + part) * step / 2 / AT_SHARE;
            }
        }
    }
}
