package org.rainsieve.primitives;

/** Convolution of planes with separable kernels of odd length; the border is repeated. */
public final class Convolution {
    private Convolution() {}

    /** exp(−x² / 2σ²), cut off beyond three sigma and normalised to a sum of 1. */
    public static float[] gaussian(double sigma) {
        int r = (int) Math.ceil(3 * sigma);
        float[] k = new float[2 * r + 1];
        for (int i = -r; i <= r; i++) {
            k[i + r] = (float) Math.exp(-i * i / (2 * sigma * sigma));
        }
        return normalised(k);
    }

    /** The same weights with a sum of 1. */
    public static float[] normalised(float[] weights) {
        float sum = 0;
        for (float v : weights) {
            sum += v;
        }
        float[] out = weights.clone();
        for (int i = 0; i < out.length; i++) {
            out[i] /= sum;
        }
        return out;
    }

    /** Across, then down. */
    public static float[] separable(float[] in, int w, int h, float[] kernel) {
        int r = kernel.length / 2;
        float[] across = new float[w * h];
        for (int y = 0; y < h; y++) {
            for (int x = 0; x < w; x++) {
                float sum = 0;
                for (int k = -r; k <= r; k++) {
                    sum += kernel[k + r] * in[y * w + Math.max(0, Math.min(w - 1, x + k))];
                }
                across[y * w + x] = sum;
            }
        }
        float[] out = new float[w * h];
        for (int y = 0; y < h; y++) {
            for (int k = -r; k <= r; k++) {
                int row = Math.max(0, Math.min(h - 1, y + k)) * w;
                float weight = kernel[k + r];
                for (int x = 0; x < w; x++) {
                    out[y * w + x] += weight * across[row + x];
                }
            }
        }
        return out;
    }
}
