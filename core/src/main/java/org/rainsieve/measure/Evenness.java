package org.rainsieve.measure;

import java.util.Arrays;
import java.util.SplittableRandom;

/**
 * How alike the grain of the returns of one group looks: 95th ÷ 5th percentile of their luminance noise at mid-grey, as
 * shown after push; of fewer than ten, largest ÷ smallest. 1 is perfectly even.
 *
 * @param low lower end of the 95 % bootstrap interval (Efron 1979)
 * @param high its upper end
 * @param count how many returns it rests on
 */
public record Evenness(double figure, double low, double high, int count) {
    private static final int ENOUGH_FOR_PERCENTILES = 10;
    private static final int RESAMPLES = 500;

    /** @param sds one sd for each return; those that are not known are left out. Null when fewer than two are known. */
    public static Evenness of(double[] sds) {
        double[] known = Arrays.stream(sds).filter(sd -> sd > 0).toArray();
        if (known.length < 2) {
            return null;
        }
        SplittableRandom random = new SplittableRandom(known.length);
        double[] figures = new double[RESAMPLES];
        double[] drawn = new double[known.length];
        for (int k = 0; k < RESAMPLES; k++) {
            for (int i = 0; i < drawn.length; i++) {
                drawn[i] = known[random.nextInt(known.length)];
            }
            figures[k] = figure(drawn);
        }
        Arrays.sort(figures);
        return new Evenness(figure(known), percentile(figures, 0.025), percentile(figures, 0.975), known.length);
    }

    private static double figure(double[] sds) {
        double[] sorted = sds.clone();
        Arrays.sort(sorted);
        return sorted.length < ENOUGH_FOR_PERCENTILES
                ? sorted[sorted.length - 1] / sorted[0]
                : percentile(sorted, 0.95) / percentile(sorted, 0.05);
    }

    /** Between the order statistics by straight lines. */
    private static double percentile(double[] sorted, double share) {
        double at = share * (sorted.length - 1);
        int below = (int) at;
        int above = Math.min(sorted.length - 1, below + 1);
        return sorted[below] + (at - below) * (sorted[above] - sorted[below]);
    }
}
