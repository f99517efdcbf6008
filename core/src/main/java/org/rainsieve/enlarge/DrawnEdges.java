package org.rainsieve.enlarge;

import org.rainsieve.primitives.BoxMean;

/**
 * Smooths along edges where a picture has one clear direction, so that slanted strokes come out without steps: the
 * direction from the structure tensor (Weickert 1999), of all colours together.
 */
final class DrawnEdges {
    private DrawnEdges() {}

    /** @param factor pixels of the large picture per pixel of the small one */
    static void steer(float[][] values, int w, int h, float factor) {
        float[] xx = new float[w * h];
        float[] xy = new float[w * h];
        float[] yy = new float[w * h];
        for (float[] v : values) {
            for (int y = 1; y < h - 1; y++) {
                for (int x = 1; x < w - 1; x++) {
                    int i = y * w + x;
                    float gx = v[i + 1] - v[i - 1];
                    float gy = v[i + w] - v[i - w];
                    xx[i] += gx * gx;
                    xy[i] += gx * gy;
                    yy[i] += gy * gy;
                }
            }
        }
        int radius = Math.max(1, Math.round(0.7f * factor));
        for (float[] tensor : new float[][] {xx, xy, yy}) {
            BoxMean.repeatBorder(tensor, w, h, radius);
            BoxMean.repeatBorder(tensor, w, h, radius);
        }
        float reach = 0.5f * factor;
        for (int c = 0; c < values.length; c++) {
            float[] v = values[c];
            float[] out = v.clone();
            for (int y = 0; y < h; y++) {
                for (int x = 0; x < w; x++) {
                    int i = y * w + x;
                    float difference = xx[i] - yy[i];
                    float across = (float) Math.sqrt(difference * difference + 4 * xy[i] * xy[i]);
                    float clear = across / (xx[i] + yy[i] + 1e-9f);
                    if (clear < 0.5f) {
                        continue;
                    }
                    // Along the edge, at right angles to the tensor's main direction: by the formulas of the half
                    // angle.
                    float cos = difference / across;
                    float sine = (float) Math.sqrt(Math.max(0, (1 + cos) / 2));
                    float cosine = (float) Math.sqrt(Math.max(0, (1 - cos) / 2));
                    float dx = (xy[i] > 0 ? -cosine : cosine) * reach;
                    float dy = sine * reach;
                    float mean = (2 * v[i]
                                    + at(v, w, h, x + dx, y + dy)
                                    + at(v, w, h, x - dx, y - dy)
                                    + 0.5f * at(v, w, h, x + 2 * dx, y + 2 * dy)
                                    + 0.5f * at(v, w, h, x - 2 * dx, y - 2 * dy))
                            / 5;
                    float share = (clear - 0.5f) * 2;
                    out[i] = v[i] + share * (mean - v[i]);
                }
            }
            values[c] = out;
        }
    }

    private static float at(float[] v, int w, int h, float x, float y) {
        float cx = Math.max(0, Math.min(w - 1.001f, x));
        float cy = Math.max(0, Math.min(h - 1.001f, y));
        int x0 = (int) cx;
        int y0 = (int) cy;
        float fx = cx - x0;
        float fy = cy - y0;
        int i = y0 * w + x0;
        int right = Math.min(1, w - 1 - x0);
        int below = y0 < h - 1 ? w : 0;
        return (1 - fy) * ((1 - fx) * v[i] + fx * v[i + right])
                + fy * ((1 - fx) * v[i + below] + fx * v[i + below + right]);
    }
}
