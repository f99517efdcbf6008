package org.rainsieve.noise;

import java.util.SplittableRandom;

/** Random numbers of the two laws that light and electronics follow. */
public final class Chance {
    /** Above this a Poisson count is drawn from the normal law, whose error is then far below one. */
    private static final double MANY = 60;

    private Chance() {}

    /** Standard normal (Box, Muller 1958). */
    public static double normal(SplittableRandom random) {
        return Math.sqrt(-2 * Math.log(1 - random.nextDouble())) * Math.cos(2 * Math.PI * random.nextDouble());
    }

    /** A Poisson count: by multiplication (Knuth) when few are expected. */
    public static double photons(double mean, SplittableRandom random) {
        if (mean > MANY) {
            return Math.max(0, Math.rint(mean + Math.sqrt(mean) * normal(random)));
        }
        double limit = Math.exp(-mean);
        double product = random.nextDouble();
        int count = 0;
        while (product > limit) {
            product *= random.nextDouble();
            count++;
        }
        return count;
    }
}
