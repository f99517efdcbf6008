package org.rainsieve.denoise;

import java.util.Arrays;

/**
 * For blocks of a picture the places of the blocks around them that look most alike, by the mean square difference. One
 * row of references at a time, whose surroundings stay in the cache, and in it one displacement at a time, so that the sums of
 * neighbouring blocks are shared and vectors run along rows.
 */
final class BlockMatching {
    private static final int SIDE = BlockTransform.SIDE;

    private final int width;
    private final int height;
    private final int most;
    /** Columns and rows at which blocks are looked for. */
    final int[] columns;

    final int[] rows;
    /** For each reference, row by row, the places y · width + x of its matches, best first, itself the first of all. */
    final int[] places;

    final int[] counts;

    /**
     * @param originX where the picture lies in the sensor's grid, so that references lie alike in every tile
     * @param most largest number of matches, a power of two
     */
    BlockMatching(int width, int height, int originX, int originY, int step, int most) {
        this.width = width;
        this.height = height;
        this.most = most;
        columns = references(width, originX, step);
        rows = references(height, originY, step);
        int references = columns.length * rows.length;
        places = new int[references * most];
        counts = new int[references];
    }

    private static int[] references(int size, int origin, int step) {
        int last = size - SIDE;
        int[] found = new int[last / step + 3];
        int n = 0;
        if (Math.floorMod(origin, step) != 0) {
            found[n++] = 0;
        }
        for (int at = Math.floorMod(-origin, step); at <= last; at += step) {
            found[n++] = at;
        }
        if (found[n - 1] != last) {
            found[n++] = last;
        }
        return Arrays.copyOf(found, n);
    }

    /**
     * @param image rows of pixels
     * @param stride of the displacements that are tried
     * @param largest mean square difference up to which blocks are alike
     */
    void find(float[][] image, int radius, int stride, float largest) {
        float limit = largest * BlockTransform.AREA;
        int across = 2 * (radius / stride) + 1;
        // What one row of references can reach, once for each displacement to the side: vectors begin at the same place
        // of both.
        int held = 2 * radius + SIDE;
        float[][][] shifted = new float[across][Math.min(held, height)][width];
        long[][] found = new long[columns.length][across * across];
        int[] n = new int[columns.length];
        float[] sums = new float[width];
        int copied = 0;
        for (int r = 0; r < rows.length; r++) {
            int top = rows[r];
            int reached = Math.min(height, top + radius + SIDE);
            Arrays.fill(n, 0);
            for (int s = 0; s < across; s++) {
                int dx = s * stride - radius;
                int from = Math.max(0, -dx);
                int to = Math.min(width, width - dx);
                for (int y = copied; y < reached && from < to; y++) {
                    System.arraycopy(image[y], from + dx, shifted[s][y % shifted[s].length], from, to - from);
                }
                for (int dy = -radius; dy <= radius; dy += stride) {
                    if (top + dy >= 0 && top + dy + SIDE <= height && (dx != 0 || dy != 0)) {
                        differences(image, top, shifted[s], top + dy, sums, from, to);
                        note(sums, from, to, limit, (top + dy) * width + dx, found, n);
                    }
                }
            }
            copied = reached;
            for (int c = 0; c < columns.length; c++) {
                keep(r * columns.length + c, top * width + columns[c], found[c], n[c]);
            }
        }
    }

    /** For each column the squared differences of eight rows. */
    private static void differences(
            float[][] image, int top, float[][] shifted, int at, float[] out, int from, int to) {
        Arrays.fill(out, 0);
        for (int y = 0; y < SIDE; y += 4) {
            float[] a0 = image[top + y];
            float[] a1 = image[top + y + 1];
            float[] a2 = image[top + y + 2];
            float[] a3 = image[top + y + 3];
            float[] b0 = shifted[(at + y) % shifted.length];
            float[] b1 = shifted[(at + y + 1) % shifted.length];
            float[] b2 = shifted[(at + y + 2) % shifted.length];
            float[] b3 = shifted[(at + y + 3) % shifted.length];
            for (int x = from; x < to; x++) {
                float d0 = a0[x] - b0[x];
                float d1 = a1[x] - b1[x];
                float d2 = a2[x] - b2[x];
                float d3 = a3[x] - b3[x];
                out[x] += d0 * d0 + d1 * d1 + d2 * d2 + d3 * d3;
            }
        }
    }

    /** Blocks that are alike, each as its distance above its place, so that sorting numbers brings the nearest to the front. */
    private void note(float[] sums, int from, int to, float limit, int displacement, long[][] found, int[] n) {
        for (int c = 0; c < columns.length; c++) {
            int x = columns[c];
            if (x < from || x + SIDE > to) {
                continue;
            }
            float distance = sums[x]
                    + sums[x + 1]
                    + sums[x + 2]
                    + sums[x + 3]
                    + sums[x + 4]
                    + sums[x + 5]
                    + sums[x + 6]
                    + sums[x + 7];
            if (distance < limit) {
                // Positive floats are in the order of their bits.
                found[c][n[c]++] = (long) Float.floatToRawIntBits(distance) << 32 | displacement + x;
            }
        }
    }

    private void keep(int reference, int place, long[] found, int n) {
        Arrays.sort(found, 0, n);
        int kept = Math.min(n, most - 1);
        int base = reference * most;
        places[base] = place;
        for (int i = 0; i < kept; i++) {
            places[base + 1 + i] = (int) found[i];
        }
        counts[reference] = kept + 1;
    }
}
