package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;

/**
 * All three colours at every photosite of a mosaic, roughly: a photosite's own colour as it is, the others as weighted
 * means of the photosites of that colour within two pixels (normalised convolution, Knutsson, Westin 1993). What the
 * learned method of 6×6 sensors starts from; every 5×5 of such a mosaic holds all colours.
 */
public final class NearColours {
    private static final int RADIUS = 2;
    private static final double SIGMA_PX = 1;

    private final int period;
    private final int[] own;
    private final int[][][] dx;
    private final int[][][] dy;
    private final float[][][] weight;

    /** @param pattern colours from the mosaic's first value on */
    public NearColours(CfaPattern pattern) {
        period = pattern.width();
        int phases = period * pattern.height();
        own = new int[phases];
        dx = new int[phases][3][];
        dy = new int[phases][3][];
        weight = new float[phases][3][];
        int side = 2 * RADIUS + 1;
        for (int phase = 0; phase < phases; phase++) {
            int px = phase % period;
            int py = phase / period;
            own[phase] = pattern.colourAt(px, py);
            for (int c = 0; c < 3; c++) {
                int[] atX = new int[side * side];
                int[] atY = new int[side * side];
                float[] share = new float[side * side];
                int n = 0;
                for (int k = 0; k < side * side; k++) {
                    int ox = k % side - RADIUS;
                    int oy = k / side - RADIUS;
                    if (pattern.colourAt(px + ox, py + oy) == c && c != own[phase]) {
                        atX[n] = ox;
                        atY[n] = oy;
                        share[n++] = (float) Math.exp(-(ox * ox + oy * oy) / (2 * SIGMA_PX * SIGMA_PX));
                    }
                }
                dx[phase][c] = java.util.Arrays.copyOf(atX, n);
                dy[phase][c] = java.util.Arrays.copyOf(atY, n);
                weight[phase][c] = java.util.Arrays.copyOf(share, n);
            }
        }
    }

    /** The filter's colour at a place of the mosaic: 0 red, 1 green, 2 blue. */
    public int colourAt(int x, int y) {
        return own[y % period * period + x % period];
    }

    /** @param mosaic width × height values, row by row */
    public float at(float[] mosaic, int width, int height, int x, int y, int c) {
        int phase = y % period * period + x % period;
        if (own[phase] == c) {
            return mosaic[y * width + x];
        }
        int[] ox = dx[phase][c];
        int[] oy = dy[phase][c];
        float[] w = weight[phase][c];
        float sum = 0;
        float total = 0;
        for (int k = 0; k < w.length; k++) {
            int atX = x + ox[k];
            int atY = y + oy[k];
            if (atX >= 0 && atX < width && atY >= 0 && atY < height) {
                sum += w[k] * mosaic[atY * width + atX];
                total += w[k];
            }
        }
        return total > 0 ? sum / total : mosaic[y * width + x];
    }
}
