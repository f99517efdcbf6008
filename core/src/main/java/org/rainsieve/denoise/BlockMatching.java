package org.rainsieve.denoise;

import java.util.Arrays;

/**
 * For blocks of a picture the places of the blocks around them that look most alike, by the mean square difference. One
 * displacement at a time for the whole picture, so that the sums of neighbouring blocks are shared and vectors run along
 * rows.
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

    private final float[] distances;
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
        distances = new float[references * most];
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
        for (int i = 0; i < counts.length; i++) {
            counts[i] = 1;
            places[i * most] = rows[i / columns.length] * width + columns[i % columns.length];
            distances[i * most] = -1;
        }
        float[][] shifted = new float[height][width];
        float[][] squares = new float[SIDE][width];
        float[] sums = new float[width];
        for (int dx = -radius; dx <= radius; dx += stride) {
            int from = Math.max(0, -dx);
            int to = Math.min(width, width - dx);
            for (int y = 0; y < height; y++) {
                System.arraycopy(image[y], from + dx, shifted[y], from, to - from);
            }
            for (int dy = -radius; dy <= radius; dy += stride) {
                if (dx != 0 || dy != 0) {
                    displaced(image, shifted, squares, sums, dx, dy, from, to, limit);
                }
            }
        }
    }

    private void displaced(
            float[][] image,
            float[][] shifted,
            float[][] squares,
            float[] sums,
            int dx,
            int dy,
            int from,
            int to,
            float limit) {
        int made = 0;
        for (int r = 0; r < rows.length; r++) {
            int y0 = rows[r];
            if (y0 + dy < 0 || y0 + dy + SIDE > height) {
                made = 0;
                continue;
            }
            // Rows that the one before did not need yet; after a gap all eight.
            for (int y = Math.max(made, y0); y < y0 + SIDE; y++) {
                square(image[y], shifted[y + dy], squares[y % SIDE], from, to);
            }
            made = y0 + SIDE;
            sum(squares, sums, from, to);
            for (int c = 0; c < columns.length; c++) {
                int x0 = columns[c];
                if (x0 < from || x0 + SIDE > to) {
                    continue;
                }
                float distance = sums[x0]
                        + sums[x0 + 1]
                        + sums[x0 + 2]
                        + sums[x0 + 3]
                        + sums[x0 + 4]
                        + sums[x0 + 5]
                        + sums[x0 + 6]
                        + sums[x0 + 7];
                if (distance < limit) {
                    insert(r * columns.length + c, distance, (y0 + dy) * width + x0 + dx);
                }
            }
        }
    }

    private static void square(float[] a, float[] b, float[] out, int from, int to) {
        for (int x = from; x < to; x++) {
            float d = a[x] - b[x];
            out[x] = d * d;
        }
    }

    private static void sum(float[][] s, float[] out, int from, int to) {
        float[] s0 = s[0];
        float[] s1 = s[1];
        float[] s2 = s[2];
        float[] s3 = s[3];
        float[] s4 = s[4];
        float[] s5 = s[5];
        float[] s6 = s[6];
        float[] s7 = s[7];
        for (int x = from; x < to; x++) {
            out[x] = s0[x] + s1[x] + s2[x] + s3[x] + s4[x] + s5[x] + s6[x] + s7[x];
        }
    }

    private void insert(int reference, float distance, int place) {
        int base = reference * most;
        int n = counts[reference];
        if (n == most && distance >= distances[base + n - 1]) {
            return;
        }
        int from = base + 1;
        int to = base + n;
        while (from < to) {
            int middle = (from + to) >>> 1;
            if (distances[middle] > distance) {
                to = middle;
            } else {
                from = middle + 1;
            }
        }
        int i = from - base;
        int moved = Math.min(n, most - 1) - i;
        System.arraycopy(distances, from, distances, from + 1, moved);
        System.arraycopy(places, from, places, from + 1, moved);
        distances[base + i] = distance;
        places[base + i] = place;
        counts[reference] = Math.min(most, n + 1);
    }
}
