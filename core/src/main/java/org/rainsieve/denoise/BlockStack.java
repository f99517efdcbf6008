package org.rainsieve.denoise;

import java.util.Arrays;

/** Like blocks on top of each other, for {@link PatchFilter}. */
final class BlockStack {
    private static final int AREA = BlockTransform.AREA;

    /** The paper's, in units of the noise's sd. */
    private static final float THRESHOLD = 2.7f;

    /** Share of the power that a plane has in common with the first which may be its own after all. */
    private static final float UNSURE = 0.2f;

    private static final float ROOT_HALF = (float) Math.sqrt(0.5);

    /** Places of the blocks. */
    final int[] at;

    /** Coefficients of the blocks, once fetched. */
    final float[][] noisy;

    final float[][] pilot;
    final float[][] first;

    /** Sums of each coefficient over the stack: vectors run over the coefficients. */
    private final float[] left = new float[AREA];

    private final float[] products = new float[AREA];
    private final float[] squares = new float[AREA];

    BlockStack(int most) {
        at = new int[most];
        noisy = new float[most][AREA];
        pilot = new float[most][AREA];
        first = new float[most][AREA];
    }

    /** The blocks of the stack, transformed. */
    void fetch(float[] blocks, int n, float[][] stack) {
        for (int i = 0; i < n; i++) {
            System.arraycopy(blocks, at[i] * AREA, stack[i], 0, AREA);
        }
        haar(stack, n);
    }

    /** Haar transform across the stack, orthonormal, in place: the mean comes first. */
    private static void haar(float[][] stack, int n) {
        int s = 1;
        for (; 4 * s <= n; s *= 4) {
            for (int i = 0; i < n; i += 4 * s) {
                haarOfFour(stack[i], stack[i + s], stack[i + 2 * s], stack[i + 3 * s]);
            }
        }
        if (s < n) {
            haar(stack[0], stack[s]);
        }
    }

    private static void inverse(float[][] stack, int n) {
        int s = n;
        if ((Integer.numberOfTrailingZeros(n) & 1) == 1) {
            s = n / 2;
            haar(stack[0], stack[s]);
        }
        for (s /= 4; s >= 1; s /= 4) {
            for (int i = 0; i < n; i += 4 * s) {
                inverseOfFour(stack[i], stack[i + s], stack[i + 2 * s], stack[i + 3 * s]);
            }
        }
    }

    /** Two steps at once, which saves half of the loading and storing. */
    private static void haarOfFour(float[] a, float[] b, float[] c, float[] d) {
        for (int k = 0; k < AREA; k++) {
            float sum = a[k] + b[k];
            float other = c[k] + d[k];
            float left = a[k] - b[k];
            float right = c[k] - d[k];
            a[k] = (sum + other) * 0.5f;
            b[k] = left * ROOT_HALF;
            c[k] = (sum - other) * 0.5f;
            d[k] = right * ROOT_HALF;
        }
    }

    private static void inverseOfFour(float[] a, float[] b, float[] c, float[] d) {
        for (int k = 0; k < AREA; k++) {
            float sum = (a[k] + c[k]) * 0.5f;
            float other = (a[k] - c[k]) * 0.5f;
            float left = b[k] * ROOT_HALF;
            float right = d[k] * ROOT_HALF;
            a[k] = sum + left;
            b[k] = sum - left;
            c[k] = other + right;
            d[k] = other - right;
        }
    }

    /** Sum and difference; the same again turns back. */
    private static void haar(float[] a, float[] b) {
        for (int k = 0; k < AREA; k++) {
            float p = a[k];
            float q = b[k];
            a[k] = (p + q) * ROOT_HALF;
            b[k] = (p - q) * ROOT_HALF;
        }
    }

    /** @return the weight of this stack's answer: the less noise is left in it, the more */
    float hardThreshold(float[] noise, int n) {
        float mean = noisy[0][0];
        Arrays.fill(left, 0);
        for (int i = 0; i < n; i++) {
            float[] row = noisy[i];
            float[] rest = pilot[i];
            for (int k = 0; k < AREA; k++) {
                boolean keep = row[k] * row[k] > THRESHOLD * THRESHOLD * noise[k];
                row[k] = keep ? row[k] : 0;
                rest[k] = keep ? noise[k] : 0;
            }
            for (int k = 0; k < AREA; k++) {
                left[k] += rest[k];
            }
        }
        noisy[0][0] = mean;
        inverse(noisy, n);
        return weight();
    }

    /** The same. */
    float wienerShrink(float[] noise, int n) {
        Arrays.fill(left, 0);
        for (int i = 0; i < n; i++) {
            float[] row = noisy[i];
            float[] told = pilot[i];
            for (int k = 0; k < AREA; k++) {
                float power = told[k] * told[k];
                float gain = power / (power + noise[k]);
                row[k] *= gain;
                left[k] += gain * gain * noise[k];
            }
        }
        inverse(noisy, n);
        return weight();
    }

    /**
     * The same for another plane than the first. Where colours end, brightness mostly does, too: what the pilot has in
     * common with the first plane, a straight line through the whole stack, is taken from the first plane's estimate, which
     * knows it better; only what differs from it is weighed.
     */
    float weighBeside(float[] noise, float above, int n) {
        // How bright it is says nothing about colours.
        first[0][0] = 0;
        if (above > 0) {
            addAbove(noise, above, n);
        }
        float slope = slope(n);
        Arrays.fill(left, 0);
        for (int i = 0; i < n; i++) {
            float[] row = noisy[i];
            float[] told = pilot[i];
            float[] led = first[i];
            for (int k = 0; k < AREA; k++) {
                float common = slope * led[k];
                float own = told[k] - common;
                float power = own * own + UNSURE * common * common;
                float gain = power / (power + noise[k]);
                row[k] = common + gain * (row[k] - common);
                left[k] += gain * gain * noise[k];
            }
        }
        inverse(noisy, n);
        return weight();
    }

    private void addAbove(float[] noise, float above, int n) {
        for (int i = 0; i < n; i++) {
            float[] row = noisy[i];
            float[] told = pilot[i];
            for (int k = 0; k < AREA; k++) {
                float seen = row[k] * row[k] > THRESHOLD * THRESHOLD * noise[k] ? row[k] : 0;
                told[k] += above * (seen - told[k]);
            }
        }
    }

    /** Of the pilot over the first plane's estimate; flatter where that has hardly more than noise. */
    private float slope(int n) {
        Arrays.fill(products, 0);
        Arrays.fill(squares, 0);
        for (int i = 0; i < n; i++) {
            float[] told = pilot[i];
            float[] led = first[i];
            for (int k = 0; k < AREA; k++) {
                products[k] += told[k] * led[k];
                squares[k] += led[k] * led[k];
            }
        }
        return sum(products) / (sum(squares) + n);
    }

    private float weight() {
        return 1f / Math.max(1e-3f, sum(left));
    }

    private static float sum(float[] values) {
        float sum = 0;
        for (float value : values) {
            sum += value;
        }
        return sum;
    }

    void add(int n, float share, float[] sums, float[] weights) {
        for (int i = 0; i < n; i++) {
            float[] row = noisy[i];
            int to = at[i] * AREA;
            for (int k = 0; k < AREA; k++) {
                sums[to + k] += share * row[k];
            }
            weights[at[i]] += share;
        }
    }
}
