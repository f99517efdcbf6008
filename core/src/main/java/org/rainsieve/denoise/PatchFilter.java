package org.rainsieve.denoise;

import java.util.Arrays;

/**
 * Block matching and filtering in three dimensions (Dabov, Foi, Katkovnik, Egiazarian, IEEE TIP 16(8), 2007) of a plane of
 * unit white noise: like blocks are stacked, transformed together and thresholded; a second time, with the first result to
 * tell signal from noise, they are weighted after Wiener. In a mosaic only blocks are alike that have the same colours at the
 * same places (Danielyan, Vehviläinen, Foi, Katkovnik, Egiazarian, 2009).
 *
 * <p>Blocks are summed in the transform domain, and come back once for each place: rows of blocks are kept in a ring as long
 * as a reference can still reach them.
 */
final class PatchFilter {
    private static final int SIDE = BlockTransform.SIDE;
    private static final int AREA = BlockTransform.AREA;

    private static final int MOST = 32;
    private static final int MOST_FIRST = 16;

    /** The paper's thresholds at noise sd 25 (2,500 and 400), in units of the noise's variance. */
    private static final float ALIKE_PLAIN = 4f;

    private static final float ALIKE_SECOND = 0.64f;

    /** In an estimate, where little noise adds to the differences. */
    private static final float ALIKE_IN_PILOT = 2f;

    /** Of the pilot in what tells signal from noise the second time: two estimates that err differently are better together. */
    private static final float PILOT_SHARE = 0.6f;

    private static final float THRESHOLD = 2.7f;
    private static final float[] WINDOW = kaiser(2.0);
    private static final BlockTransform BIORTHOGONAL = BlockTransform.biorthogonal();
    private static final BlockTransform COSINE = BlockTransform.cosine();

    private final int width;
    private final int height;
    private final int blocks;
    private final int originX;
    private final int originY;
    private final int step;
    private final int period;
    private final int radius;
    private final int ring;
    private final BlockTransform.Scratch scratch;

    /**
     * @param originX where the plane begins on the sensor
     * @param step how far reference blocks lie apart; the paper has 3, and 4 takes half the time for 0.05 to 0.1 dB
     * @param period of the colours, 1 without any: matches lie multiples of it away
     */
    PatchFilter(int width, int height, int originX, int originY, int step, int period) {
        if (width < SIDE || height < SIDE) {
            throw new IllegalArgumentException("Planes must be at least 8 pixels wide and high");
        }
        this.width = width;
        this.height = height;
        this.blocks = width - SIDE + 1;
        this.originX = originX;
        this.originY = originY;
        this.step = step;
        this.period = period;
        radius = radius(period);
        ring = 2 * radius + 2;
        scratch = new BlockTransform.Scratch(width);
    }

    /** The paper searches ±19; beyond ±12 hardly anything is gained, and tiles need less margin. */
    private static int radius(int period) {
        return period <= 2 ? 12 : 3 * period;
    }

    /** What a pixel depends on, in pixels: block and search, from block to reference to match, twice. */
    static int reach(int period) {
        return 2 * 2 * (radius(period) + SIDE - 1);
    }

    private static float[] kaiser(double beta) {
        float[] window = new float[SIDE];
        for (int i = 0; i < SIDE; i++) {
            double t = 2.0 * i / (SIDE - 1) - 1;
            window[i] = (float) (bessel(beta * Math.sqrt(1 - t * t)) / bessel(beta));
        }
        return window;
    }

    /** Modified Bessel function of order 0. */
    private static double bessel(double x) {
        double term = 1;
        double sum = 1;
        for (int k = 1; k < 25; k++) {
            term *= x * x / (4.0 * k * k);
            sum += term;
        }
        return sum;
    }

    /** The two passes as published, for a plane without another estimate. */
    float[] estimate(float[] plane) {
        float[][] noisy = rows(plane);
        return joined(second(noisy, pass(noisy, null, noisy, ALIKE_PLAIN, MOST_FIRST)));
    }

    /** @param pilot an estimate of the same plane, in which blocks are matched the first time */
    float[] estimate(float[] plane, float[] pilot) {
        float[][] noisy = rows(plane);
        float[][] known = rows(pilot);
        float[][] first = pass(noisy, null, known, ALIKE_IN_PILOT, MOST_FIRST);
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                first[y][x] += PILOT_SHARE * (known[y][x] - first[y][x]);
            }
        }
        return joined(second(noisy, first));
    }

    private float[][] second(float[][] noisy, float[][] first) {
        return pass(noisy, first, first, ALIKE_SECOND, MOST);
    }

    private float[][] rows(float[] plane) {
        float[][] rows = new float[height][];
        for (int y = 0; y < height; y++) {
            rows[y] = Arrays.copyOfRange(plane, y * width, (y + 1) * width);
        }
        return rows;
    }

    private float[] joined(float[][] rows) {
        float[] plane = new float[width * height];
        for (int y = 0; y < height; y++) {
            System.arraycopy(rows[y], 0, plane, y * width, width);
        }
        return plane;
    }

    /** @param basic null for the first pass */
    private float[][] pass(float[][] noisy, float[][] basic, float[][] matched, float alike, int most) {
        BlockMatching matches = new BlockMatching(width, height, originX, originY, step, most);
        matches.find(matched, radius, period, alike);
        return plane(noisy, basic, matches, most);
    }

    private float[][] plane(float[][] noisy, float[][] basic, BlockMatching matches, int most) {
        BlockTransform transform = basic == null ? BIORTHOGONAL : COSINE;
        float[] noisyBlocks = new float[ring * blocks * AREA];
        float[] basicBlocks = basic == null ? null : new float[ring * blocks * AREA];
        float[] sums = new float[ring * blocks * AREA];
        float[] weights = new float[ring * blocks];
        float[][] value = new float[height][width];
        float[][] weight = new float[height][width];
        Group group = new Group(most);
        int made = 0;
        int added = 0;
        int lastRow = height - SIDE;
        for (int r = 0; r < matches.rows.length; r++) {
            int y0 = matches.rows[r];
            for (; added < y0 - radius; added++) {
                add(transform, sums, weights, added, value, weight);
            }
            for (; made <= Math.min(lastRow, y0 + radius); made++) {
                int at = made % ring * blocks * AREA;
                transform.forward(noisy, made, blocks, noisyBlocks, at, scratch);
                if (basic != null) {
                    transform.forward(basic, made, blocks, basicBlocks, at, scratch);
                }
            }
            for (int c = 0; c < matches.columns.length; c++) {
                int reference = r * matches.columns.length + c;
                int n = Integer.highestOneBit(matches.counts[reference]);
                for (int i = 0; i < n; i++) {
                    int place = matches.places[reference * most + i];
                    group.at[i] = place / width % ring * blocks + place % width;
                }
                float share =
                        basic == null ? group.threshold(noisyBlocks, n) : group.wiener(noisyBlocks, basicBlocks, n);
                group.add(n, share, sums, weights);
            }
        }
        for (; added <= lastRow; added++) {
            add(transform, sums, weights, added, value, weight);
        }
        for (int y = 0; y < height; y++) {
            float[] v = value[y];
            float[] w = weight[y];
            for (int x = 0; x < width; x++) {
                v[x] /= w[x];
            }
        }
        return value;
    }

    /** Brings one finished row of blocks back to pixels and empties its place in the ring. */
    private void add(
            BlockTransform transform, float[] sums, float[] weights, int y, float[][] value, float[][] weight) {
        int slot = y % ring * blocks;
        transform.addInverse(sums, slot * AREA, blocks, WINDOW, value, y, scratch);
        float[] spread = new float[width];
        for (int x = 0; x < blocks; x++) {
            float w = weights[slot + x];
            for (int j = 0; j < SIDE; j++) {
                spread[x + j] += w * WINDOW[j];
            }
        }
        for (int i = 0; i < SIDE; i++) {
            float[] row = weight[y + i];
            float f = WINDOW[i];
            for (int x = 0; x < width; x++) {
                row[x] += f * spread[x];
            }
        }
        Arrays.fill(sums, slot * AREA, (slot + blocks) * AREA, 0);
        Arrays.fill(weights, slot, slot + blocks, 0);
    }

    /** A stack of like blocks. */
    private static final class Group {
        final int[] at;
        private float[][] stack;
        private float[][] other;
        private final float[][] pilot;

        Group(int most) {
            at = new int[most];
            stack = new float[most][AREA];
            other = new float[most][AREA];
            pilot = new float[most][AREA];
        }

        private static void fetch(float[] blocks, int[] at, int n, float[][] stack) {
            for (int i = 0; i < n; i++) {
                System.arraycopy(blocks, at[i] * AREA, stack[i], 0, AREA);
            }
        }

        /** Haar transform across the stack, orthonormal, in place: means first. */
        private static void haar(float[][] stack, float[][] spare, int n) {
            float half = (float) Math.sqrt(0.5);
            for (int length = n; length > 1; length /= 2) {
                for (int i = 0; i < length / 2; i++) {
                    float[] a = stack[2 * i];
                    float[] b = stack[2 * i + 1];
                    float[] mean = spare[i];
                    float[] difference = spare[length / 2 + i];
                    for (int k = 0; k < AREA; k++) {
                        mean[k] = (a[k] + b[k]) * half;
                        difference[k] = (a[k] - b[k]) * half;
                    }
                }
                swap(stack, spare, length);
            }
        }

        private static void back(float[][] stack, float[][] spare, int n) {
            float half = (float) Math.sqrt(0.5);
            for (int length = 2; length <= n; length *= 2) {
                for (int i = 0; i < length / 2; i++) {
                    float[] mean = stack[i];
                    float[] difference = stack[length / 2 + i];
                    float[] a = spare[2 * i];
                    float[] b = spare[2 * i + 1];
                    for (int k = 0; k < AREA; k++) {
                        a[k] = (mean[k] + difference[k]) * half;
                        b[k] = (mean[k] - difference[k]) * half;
                    }
                }
                swap(stack, spare, length);
            }
        }

        private static void swap(float[][] a, float[][] b, int n) {
            for (int i = 0; i < n; i++) {
                float[] row = a[i];
                a[i] = b[i];
                b[i] = row;
            }
        }

        /** @return the weight of this group's answer: the fewer coefficients are left, the less noise is in it */
        float threshold(float[] blocks, int n) {
            fetch(blocks, at, n, stack);
            haar(stack, other, n);
            int kept = 0;
            float mean = stack[0][0];
            for (int i = 0; i < n; i++) {
                float[] row = stack[i];
                for (int k = 0; k < AREA; k++) {
                    boolean keep = Math.abs(row[k]) > THRESHOLD;
                    row[k] = keep ? row[k] : 0;
                    kept += keep ? 1 : 0;
                }
            }
            stack[0][0] = mean;
            back(stack, other, n);
            return 1f / Math.max(1, kept);
        }

        float wiener(float[] noisy, float[] basic, int n) {
            fetch(basic, at, n, pilot);
            haar(pilot, other, n);
            fetch(noisy, at, n, stack);
            haar(stack, other, n);
            float sum = 0;
            for (int i = 0; i < n; i++) {
                float[] row = stack[i];
                float[] told = pilot[i];
                for (int k = 0; k < AREA; k++) {
                    float power = told[k] * told[k];
                    float gain = power / (power + 1);
                    row[k] *= gain;
                    told[k] = gain * gain;
                }
                for (int k = 0; k < AREA; k++) {
                    sum += told[k];
                }
            }
            back(stack, other, n);
            return 1f / Math.max(1e-3f, sum);
        }

        void add(int n, float share, float[] sums, float[] weights) {
            for (int i = 0; i < n; i++) {
                float[] row = stack[i];
                int to = at[i] * AREA;
                for (int k = 0; k < AREA; k++) {
                    sums[to + k] += share * row[k];
                }
                weights[at[i]] += share;
            }
        }
    }
}
