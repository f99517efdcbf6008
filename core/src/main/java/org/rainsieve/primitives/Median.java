package org.rainsieve.primitives;

import java.util.Arrays;

/** The middle of values; of an even number of them the mean of both in the middle. */
public final class Median {
    private Median() {}

    public static double ofSorted(double[] sorted) {
        int n = sorted.length;
        return n % 2 == 1 ? sorted[n / 2] : (sorted[n / 2 - 1] + sorted[n / 2]) / 2;
    }

    public static double of(double[] values) {
        double[] sorted = values.clone();
        Arrays.sort(sorted);
        return ofSorted(sorted);
    }
}
