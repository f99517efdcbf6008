package org.rainsieve.primitives;

import java.util.Arrays;

/** Means over squares of (2·radius + 1)², by how their borders are. */
public final class BoxMean {
    private BoxMean() {}

    /** The border is repeated. Changes the plane in place. */
    public static void repeatBorder(float[] v, int w, int h, int radius) {
        float[] high = down(v, w, h, radius);
        float[] both = down(Rows.transpose(high, w, h), h, w, radius);
        System.arraycopy(Rows.transpose(both, h, w), 0, v, 0, v.length);
    }

    private static float[] down(float[] v, int w, int h, int radius) {
        float[] out = new float[v.length];
        float[] line = new float[w];
        float[] row = new float[w];
        float share = 1f / (2 * radius + 1);
        for (int y = 0; y < h; y++) {
            Arrays.fill(line, 0);
            for (int k = -radius; k <= radius; k++) {
                System.arraycopy(v, Border.repeat(y + k, h) * w, row, 0, w);
                Rows.add(line, row, share);
            }
            System.arraycopy(line, 0, out, y * w, w);
        }
        return out;
    }

    /** At the border over what there is. Summed anew for each pixel, so that overlapping tiles agree bit for bit. */
    public static float[] cutOffAnew(float[] in, int w, int h, int radius) {
        float[] across = new float[w * h];
        float[] out = new float[w * h];
        float[] row = new float[w];
        for (int y = 0; y < h; y++) {
            for (int x = 0; x < w; x++) {
                int from = Math.max(0, x - radius);
                int to = Math.min(w - 1, x + radius);
                float sum = 0;
                for (int k = from; k <= to; k++) {
                    sum += in[y * w + k];
                }
                across[y * w + x] = sum / (to - from + 1);
            }
        }
        for (int y = 0; y < h; y++) {
            int from = Math.max(0, y - radius);
            int to = Math.min(h - 1, y + radius);
            Arrays.fill(row, 0);
            for (int k = from; k <= to; k++) {
                for (int x = 0; x < w; x++) {
                    row[x] += across[k * w + x];
                }
            }
            for (int x = 0; x < w; x++) {
                out[y * w + x] = row[x] / (to - from + 1);
            }
        }
        return out;
    }

    /** At the border over what there is. By running sums, in double precision. */
    public static double[] cutOff(double[] in, int w, int h, int radius) {
        double[] across = new double[w * h];
        for (int y = 0; y < h; y++) {
            double sum = 0;
            for (int x = 0; x < Math.min(w, radius); x++) {
                sum += in[y * w + x];
            }
            for (int x = 0; x < w; x++) {
                if (x + radius < w) {
                    sum += in[y * w + x + radius];
                }
                if (x - radius - 1 >= 0) {
                    sum -= in[y * w + x - radius - 1];
                }
                across[y * w + x] = sum / (Math.min(w - 1, x + radius) - Math.max(0, x - radius) + 1);
            }
        }
        double[] sums = new double[w];
        double[] out = new double[w * h];
        for (int y = 0; y < Math.min(h, radius); y++) {
            add(sums, across, y * w, 1);
        }
        for (int y = 0; y < h; y++) {
            if (y + radius < h) {
                add(sums, across, (y + radius) * w, 1);
            }
            if (y - radius - 1 >= 0) {
                add(sums, across, (y - radius - 1) * w, -1);
            }
            double rows = Math.min(h - 1, y + radius) - Math.max(0, y - radius) + 1.0;
            for (int x = 0; x < w; x++) {
                out[y * w + x] = sums[x] / rows;
            }
        }
        return out;
    }

    private static void add(double[] sums, double[] rows, int from, double sign) {
        for (int x = 0; x < sums.length; x++) {
            sums[x] += sign * rows[from + x];
        }
    }
}
