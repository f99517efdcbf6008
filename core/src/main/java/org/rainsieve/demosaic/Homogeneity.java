package org.rainsieve.demosaic;

import java.util.Arrays;

/**
 * Tells in which direction a picture guessed along it is the most homogeneous (after Hirakawa, Parks, IEEE TIP 14(3),
 * 2005): for each pixel, how alike its neighbours are in brightness and colour, measured by how much the best direction
 * changes along itself, and summed over a small window. Likeness falls off instead of being counted as yes or no.
 */
final class Homogeneity {
    /** The window reaches this far. */
    static final int WINDOW = 2;

    /** Directions with at least this share of the best one's homogeneity are averaged with it. */
    private static final float NEARLY_BEST = 0.9f;

    private static final int[][] STEPS = DirectionalFilters.DIRECTIONS;

    private final int w;
    private final float[] brightness;
    private final float[] redness;
    private final float[] blueness;
    private final float[] brightnessStep;
    private final float[] colourStep;
    private final float[][] sums;
    private final float[] likeness;
    private final float[][] own = new float[3][];
    private final float[][] next = new float[3][];
    private final float[][] last = new float[3][];
    private final float[] scratch;

    /** @param rows most rows that are decided at once */
    Homogeneity(int width, int rows) {
        w = width;
        int n = width * (rows + 2 * WINDOW + 2);
        brightness = new float[n];
        redness = new float[n];
        blueness = new float[n];
        brightnessStep = new float[n];
        colourStep = new float[n];
        likeness = new float[n];
        sums = new float[STEPS.length][n];
        for (int k = 0; k < 3; k++) {
            own[k] = new float[width];
            next[k] = new float[width];
            last[k] = new float[width];
        }
        scratch = new float[width];
    }

    /**
     * @param guesses for each direction red, green and blue of the rows asked for and {@link #WINDOW} + 1 more on either
     *     side, row by row
     * @param chosen receives, from {@code at} on, one bit for each trusted direction
     */
    void choose(float[][] guesses, int rows, byte[] chosen, int at) {
        int height = rows + 2 * WINDOW + 2;
        Arrays.fill(brightnessStep, Float.MAX_VALUE);
        Arrays.fill(colourStep, Float.MAX_VALUE);
        for (int d = 0; d < STEPS.length; d++) {
            load(guesses, d, height * w);
            for (int y = 1; y < height - 1; y++) {
                smallestSteps(y, d);
            }
        }
        for (int i = 0; i < height * w; i++) {
            brightnessStep[i] = 1 / (brightnessStep[i] + 1e-6f);
            colourStep[i] = 1 / (colourStep[i] + 1e-9f);
        }
        for (int d = 0; d < STEPS.length; d++) {
            load(guesses, d, height * w);
            Arrays.fill(likeness, 0);
            for (int y = 1; y < height - 1; y++) {
                addLikeness(y);
            }
            window(rows, sums[d]);
        }
        for (int y = 0; y < rows; y++) {
            for (int x = WINDOW + 1; x < w - WINDOW - 1; x++) {
                int i = (y + 1 + WINDOW) * w + x;
                float best = Math.max(Math.max(sums[0][i], sums[1][i]), Math.max(sums[2][i], sums[3][i]));
                int bits = 0;
                for (int d = 0; d < STEPS.length; d++) {
                    bits |= sums[d][i] >= NEARLY_BEST * best ? 1 << d : 0;
                }
                chosen[at + y * w + x] = (byte) bits;
            }
        }
    }

    private void load(float[][] guesses, int d, int n) {
        float[] r = guesses[3 * d];
        float[] g = guesses[3 * d + 1];
        float[] b = guesses[3 * d + 2];
        for (int i = 0; i < n; i++) {
            brightness[i] = (r[i] + 2 * g[i] + b[i]) * 0.25f;
            redness[i] = r[i] - g[i];
            blueness[i] = b[i] - g[i];
        }
    }

    /** Copies of a row of the three planes, moved, so that loops use one index for all arrays. */
    private void row(int y, int moved, float[][] to) {
        System.arraycopy(brightness, y * w + 1 + moved, to[0], 1, w - 2);
        System.arraycopy(redness, y * w + 1 + moved, to[1], 1, w - 2);
        System.arraycopy(blueness, y * w + 1 + moved, to[2], 1, w - 2);
    }

    private void smallestSteps(int y, int d) {
        int step = STEPS[d][1] * w + STEPS[d][0];
        row(y, 0, own);
        row(y, step, next);
        row(y, -step, last);
        float[] b0 = own[0];
        float[] b1 = next[0];
        float[] b2 = last[0];
        float[] s = scratch;
        System.arraycopy(brightnessStep, y * w, s, 0, w);
        for (int x = 0; x < b0.length; x++) {
            s[x] = Math.min(s[x], Math.max(Math.abs(b0[x] - b1[x]), Math.abs(b0[x] - b2[x])));
        }
        System.arraycopy(s, 0, brightnessStep, y * w, w);
        float[] r0 = own[1];
        float[] r1 = next[1];
        float[] r2 = last[1];
        float[] l0 = own[2];
        float[] l1 = next[2];
        float[] l2 = last[2];
        System.arraycopy(colourStep, y * w, s, 0, w);
        for (int x = 0; x < r0.length; x++) {
            float forward = (r0[x] - r1[x]) * (r0[x] - r1[x]) + (l0[x] - l1[x]) * (l0[x] - l1[x]);
            float back = (r0[x] - r2[x]) * (r0[x] - r2[x]) + (l0[x] - l2[x]) * (l0[x] - l2[x]);
            s[x] = Math.min(s[x], Math.max(forward, back));
        }
        System.arraycopy(s, 0, colourStep, y * w, w);
    }

    private void addLikeness(int y) {
        row(y, 0, own);
        float[] perBrightness = last[0];
        float[] perColour = last[1];
        System.arraycopy(brightnessStep, y * w, perBrightness, 0, w);
        System.arraycopy(colourStep, y * w, perColour, 0, w);
        float[] sum = scratch;
        Arrays.fill(sum, 0);
        float[] b0 = own[0];
        float[] r0 = own[1];
        float[] l0 = own[2];
        float[] b1 = next[0];
        float[] r1 = next[1];
        float[] l1 = next[2];
        for (int e = 0; e < 2 * STEPS.length; e++) {
            int[] d = STEPS[e / 2];
            row(y, (e & 1) == 0 ? d[1] * w + d[0] : -d[1] * w - d[0], next);
            for (int x = 0; x < b0.length; x++) {
                float inBrightness = Math.abs(b0[x] - b1[x]) * perBrightness[x];
                float inColour = ((r0[x] - r1[x]) * (r0[x] - r1[x]) + (l0[x] - l1[x]) * (l0[x] - l1[x])) * perColour[x];
                sum[x] += Math.min(1, Math.max(0, 2 - Math.max(inBrightness, inColour)));
            }
        }
        System.arraycopy(sum, 0, likeness, y * w, w);
    }

    private void window(int rows, float[] out) {
        float[] in = likeness;
        float[] sum = scratch;
        for (int y = 1 + WINDOW; y < rows + 1 + WINDOW; y++) {
            Arrays.fill(sum, 0);
            for (int dy = -WINDOW; dy <= WINDOW; dy++) {
                System.arraycopy(in, (y + dy) * w, own[0], 0, w);
                float[] row = own[0];
                for (int x = 0; x < row.length; x++) {
                    sum[x] += row[x];
                }
            }
            for (int x = WINDOW; x < w - WINDOW; x++) {
                out[y * w + x] = sum[x - 2] + sum[x - 1] + sum[x] + sum[x + 1] + sum[x + 2];
            }
        }
    }
}
