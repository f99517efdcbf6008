package org.rainsieve.primitives;

/** Planes row by row: loops that vectorise, as long as the rows are arrays of their own. */
public final class Rows {
    private Rows() {}

    /** Adds a weighted row to a line of the same length, in place. */
    public static void add(float[] line, float[] row, float weight) {
        for (int x = 0; x < line.length; x++) {
            line[x] += weight * row[x];
        }
    }

    /** Columns become rows; in squares whose lines do not push each other out of the cache. */
    public static float[] transpose(float[] values, int width, int height) {
        int block = 8;
        float[] out = new float[values.length];
        for (int y0 = 0; y0 < height; y0 += block) {
            int y1 = Math.min(height, y0 + block);
            for (int x0 = 0; x0 < width; x0 += block) {
                int x1 = Math.min(width, x0 + block);
                for (int x = x0; x < x1; x++) {
                    for (int y = y0; y < y1; y++) {
                        out[x * height + y] = values[y * width + x];
                    }
                }
            }
        }
        return out;
    }
}
