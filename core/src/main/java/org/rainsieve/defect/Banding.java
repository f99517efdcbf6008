package org.rainsieve.defect;

import java.util.Arrays;

/**
 * What is added to whole rows (or columns) as they are read out: what all parts of a row have in common beside the rows
 * around it. It is believed only where the parts agree, and never more of it than the read noise's sd, so that no picture
 * can be taken for it.
 */
final class Banding {
    /** How many lines on each side a line is compared with, each a pattern's period further. */
    static final int AROUND = 8;

    /** Rows differ when their variance is larger than noise makes it by this share of it. */
    private static final float PRESENT = 0.3f;

    private static final int QUARTERS = 4;

    private static final float CUT_SD = 2;

    /** What is left out makes the mean of normal values smaller by this. */
    private static final float SHORTENED = 1 / 0.738f;

    private Banding() {}

    /** What it has more than the mean of those around; strong structure, and a sky's stars, are left out. */
    static void excess(float[][] across, int middle, float[] a, float[] b, float[] out) {
        Arrays.fill(out, 0);
        for (int k = 0; k < AROUND; k++) {
            addBoth(across[middle - 1 - k], across[middle + 1 + k], out);
        }
        beyond(across[middle], a, b, out);
    }

    private static void addBoth(float[] one, float[] other, float[] to) {
        for (int x = 0; x < to.length; x++) {
            to[x] += one[x] + other[x];
        }
    }

    private static void beyond(float[] own, float[] a, float[] b, float[] sums) {
        for (int x = 0; x < sums.length; x++) {
            float level = sums[x] * (0.5f / AROUND);
            float cut = CUT_SD * (float) Math.sqrt(a[x] * Math.max(0, level) + b[x]);
            float excess = own[x] - level;
            sums[x] = Math.abs(excess) > cut ? 0 : excess * SHORTENED;
        }
    }

    /**
     * What the parts of each row have in common.
     *
     * @param parts of each row, how far they lie above the rows around
     * @param step from one row to the next of its phase of the pattern
     * @param cap what is believed at most
     * @return empty if the rows do not differ by more than noise lets them
     */
    static float[] common(float[][] parts, int step, float cap) {
        int n = parts.length;
        int pieces = parts[0].length;
        if (pieces < QUARTERS) {
            return new float[0];
        }
        float[][] quarters = new float[QUARTERS][n];
        float[] middle = new float[n];
        float[] noise = new float[n];
        for (int i = 0; i < n; i++) {
            float[] four = new float[QUARTERS];
            for (int q = 0; q < QUARTERS; q++) {
                int from = q * pieces / QUARTERS;
                int to = (q + 1) * pieces / QUARTERS;
                four[q] = middleHalf(Arrays.copyOfRange(parts[i], from, to));
                quarters[q][i] = four[q];
            }
            middle[i] = middleHalf(four);
            // The middle two of four normal values lie 0.594 sd apart; their mean varies by 0.298 of the variance.
            float sd = (four[2] - four[1]) / 0.594f;
            noise[i] = 0.298f * sd * sd;
        }
        for (int q = 0; q < QUARTERS; q++) {
            quarters[q] = lessAround(quarters[q], step);
        }
        // Noise is not normal: what is left out of it by its size lies more on one side, everywhere alike or nearly.
        float banding = least(quarters);
        float usual = Math.max(0, variance(lessAround(middle, step)) - banding);
        if (!(banding > PRESENT * usual)) {
            return new float[0];
        }
        // The rows around have theirs, too: what was taken away with them is put back.
        centre(middle, step);
        float[] mean = roundabout(middle, step);
        float[] found = new float[n];
        for (int i = 0; i < n; i++) {
            float share = banding / (banding + Math.max(usual, noise[i]));
            found[i] = Math.max(-cap, Math.min(cap, share * (middle[i] + mean[i])));
        }
        return found;
    }

    /** The least variance that any two quarters share: a picture has hardly anything in common over all of a row. */
    private static float least(float[][] quarters) {
        int n = quarters[0].length;
        float least = Float.MAX_VALUE;
        float[] sum = new float[n];
        float[] difference = new float[n];
        for (int p = 0; p < QUARTERS; p++) {
            for (int q = p + 1; q < QUARTERS; q++) {
                for (int i = 0; i < n; i++) {
                    sum[i] = (quarters[p][i] + quarters[q][i]) / 2;
                    difference[i] = (quarters[p][i] - quarters[q][i]) / 2;
                }
                least = Math.min(least, variance(sum) - variance(difference));
            }
        }
        return least;
    }

    /** The mean of all but the lowest and the highest quarter; the array is put in order. */
    private static float middleHalf(float[] values) {
        Arrays.sort(values);
        int from = values.length / 4;
        float sum = 0;
        for (int k = from; k < values.length - from; k++) {
            sum += values[k];
        }
        return sum / (values.length - 2 * from);
    }

    /** By the median of sizes, as far as these are normal. */
    private static float variance(float[] values) {
        float[] sizes = new float[values.length];
        for (int i = 0; i < sizes.length; i++) {
            sizes[i] = Math.abs(values[i]);
        }
        Arrays.sort(sizes);
        float sd = sizes[sizes.length / 2] / 0.6745f;
        return sd * sd;
    }

    private static float[] lessAround(float[] values, int step) {
        float[] rest = roundabout(values, step);
        for (int i = 0; i < rest.length; i++) {
            rest[i] = values[i] - rest[i];
        }
        return rest;
    }

    /** Takes away the median of each phase of the pattern. */
    private static void centre(float[] values, int step) {
        for (int phase = 0; phase < step; phase++) {
            float[] own = new float[(values.length - phase + step - 1) / step];
            for (int i = 0; i < own.length; i++) {
                own[i] = values[phase + i * step];
            }
            Arrays.sort(own);
            for (int i = phase; i < values.length; i += step) {
                values[i] -= own[own.length / 2];
            }
        }
    }

    private static float[] roundabout(float[] values, int step) {
        int n = values.length;
        float[] mean = new float[n];
        for (int i = 0; i < n; i++) {
            for (int k = 1; k <= AROUND; k++) {
                mean[i] += values[Math.max(i % step, i - k * step)] + values[Math.min(i + k * step, n - 1)];
            }
            mean[i] /= 2 * AROUND;
        }
        return mean;
    }
}
