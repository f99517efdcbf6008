package org.rainsieve.mask;

/**
 * The guided filter: He, Sun, Tang, *Guided Image Filtering*, IEEE TPAMI 35(6), 2013, with a grey guide. What it gives for a
 * pixel rests on what lies within {@code 2·radius} of it.
 */
final class GuidedFilter {
    private GuidedFilter() {}

    /**
     * @param strength what is filtered, w × h
     * @param guide the same size
     * @param epsilon variance of the guide below which there is no edge
     */
    static float[] filter(float[] strength, float[] guide, int w, int h, int radiusPx, double epsilon) {
        int n = w * h;
        double[] plane = new double[n];
        for (int i = 0; i < n; i++) {
            plane[i] = guide[i];
        }
        double[] meanGuide = means(plane, w, h, radiusPx);
        for (int i = 0; i < n; i++) {
            plane[i] = strength[i];
        }
        double[] meanStrength = means(plane, w, h, radiusPx);
        for (int i = 0; i < n; i++) {
            plane[i] = (double) guide[i] * guide[i];
        }
        double[] squares = means(plane, w, h, radiusPx);
        for (int i = 0; i < n; i++) {
            plane[i] = (double) guide[i] * strength[i];
        }
        double[] products = means(plane, w, h, radiusPx);
        double[] slope = squares;
        double[] base = products;
        for (int i = 0; i < n; i++) {
            double variance = squares[i] - meanGuide[i] * meanGuide[i];
            double covariance = products[i] - meanGuide[i] * meanStrength[i];
            slope[i] = covariance / (Math.max(0, variance) + epsilon);
            base[i] = meanStrength[i] - slope[i] * meanGuide[i];
        }
        double[] meanSlope = means(slope, w, h, radiusPx);
        double[] meanBase = means(base, w, h, radiusPx);
        float[] out = new float[n];
        for (int i = 0; i < n; i++) {
            out[i] = (float) Math.max(0, Math.min(1, meanSlope[i] * guide[i] + meanBase[i]));
        }
        return out;
    }

    /** Means over squares of (2·radius + 1)², cut off at the rim. */
    private static double[] means(double[] in, int w, int h, int radius) {
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
