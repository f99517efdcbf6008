package org.rainsieve.enlarge;

/** Means over squares. */
final class BoxMean {
    private BoxMean() {}

    /** Mean over 2·radius + 1 in both directions; beyond the picture its edge is repeated. */
    static void smooth(float[] v, int w, int h, int radius) {
        float[] high = down(v, w, h, radius);
        float[] both = down(Resampling.turned(high, w, h), h, w, radius);
        System.arraycopy(Resampling.turned(both, h, w), 0, v, 0, v.length);
    }

    private static float[] down(float[] v, int w, int h, int radius) {
        float[] out = new float[v.length];
        float[] line = new float[w];
        float[] row = new float[w];
        float share = 1f / (2 * radius + 1);
        for (int y = 0; y < h; y++) {
            java.util.Arrays.fill(line, 0);
            for (int k = -radius; k <= radius; k++) {
                System.arraycopy(v, Math.max(0, Math.min(h - 1, y + k)) * w, row, 0, w);
                Resampling.add(line, row, share);
            }
            System.arraycopy(line, 0, out, y * w, w);
        }
        return out;
    }
}
