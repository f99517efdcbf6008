package org.rainsieve.enlarge;

/**
 * Takes away what JPEG compression left: the edges of 8×8 blocks and the ripples inside them. Cosine transforms of blocks at
 * every second place are cut at a share of the compression's own steps and averaged (translation-invariant thresholding,
 * Coifman, Donoho 1995; for JPEG: Nosratinia 2001 in spirit). Of luminance only: cutting colours, which
 * were coded at half size, cost more than it brought.
 */
final class BlockEdges {
    private static final int SIDE = 8;
    private static final int APART = 2;

    /** Coefficients below this share of a quantisation step are mostly error (best of 0.3, 0.45, 0.75 on two photographs). */
    private static final double CUT = 0.3;

    /** ITU-T T.81, annex K.1, row by row. */
    private static final int[] LUMINANCE = {
        16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55, 14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29,
        51, 87, 80, 62, 18, 22, 37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92, 49, 64, 78, 87, 103, 121,
        120, 101, 72, 92, 95, 98, 112, 100, 103, 99
    };

    private static final float[][] COSINE = new float[SIDE][SIDE];

    static {
        for (int u = 0; u < SIDE; u++) {
            for (int x = 0; x < SIDE; x++) {
                COSINE[u][x] = (float) ((u == 0 ? Math.sqrt(1.0 / SIDE) : Math.sqrt(2.0 / SIDE))
                        * Math.cos((2 * x + 1) * u * Math.PI / (2 * SIDE)));
            }
        }
    }

    private BlockEdges() {}

    /**
     * @param roots three channels in a root scale, changed in place
     * @param x0 place of the first column in the picture, so that every region is cut at the same places
     * @param quality of the compression as IJG's library counts it, 1 to 100
     */
    static void remove(float[][] roots, int w, int h, int x0, int y0, int quality) {
        double scale = quality < 50 ? 50.0 / quality : 2 - quality / 50.0;
        float[] cut = new float[SIDE * SIDE];
        for (int k = 1; k < cut.length; k++) {
            cut[k] = (float) (CUT * scale * LUMINANCE[k] / 255);
        }
        float[] light = new float[w * h];
        for (int i = 0; i < light.length; i++) {
            light[i] = 0.299f * roots[0][i] + 0.587f * roots[1][i] + 0.114f * roots[2][i]; // ITU-R BT.601
        }
        float[] smooth = smoothed(light, w, h, x0, y0, cut);
        for (float[] root : roots) {
            for (int i = 0; i < light.length; i++) {
                root[i] += smooth[i] - light[i];
            }
        }
    }

    private static float[] smoothed(float[] v, int w, int h, int x0, int y0, float[] cut) {
        float[] sum = new float[v.length];
        float[] weight = new float[v.length];
        float[] block = new float[SIDE * SIDE];
        float[] half = new float[SIDE * SIDE];
        int startX = Math.floorMod(-x0, APART);
        int startY = Math.floorMod(-y0, APART);
        for (int by = startY - SIDE; by < h; by += APART) {
            for (int bx = startX - SIDE; bx < w; bx += APART) {
                for (int i = 0; i < SIDE; i++) {
                    int row = Math.max(0, Math.min(h - 1, by + i)) * w;
                    for (int j = 0; j < SIDE; j++) {
                        block[i * SIDE + j] = v[row + Math.max(0, Math.min(w - 1, bx + j))];
                    }
                }
                transform(block, half, false);
                transform(half, block, false);
                int kept = 1;
                for (int k = 1; k < block.length; k++) {
                    if (Math.abs(block[k]) < cut[k]) {
                        block[k] = 0;
                    } else {
                        kept++;
                    }
                }
                transform(block, half, true);
                transform(half, block, true);
                float share = 1f / kept; // smooth blocks know better
                for (int i = Math.max(0, -by); i < SIDE && by + i < h; i++) {
                    for (int j = Math.max(0, -bx); j < SIDE && bx + j < w; j++) {
                        int at = (by + i) * w + bx + j;
                        sum[at] += share * block[i * SIDE + j];
                        weight[at] += share;
                    }
                }
            }
        }
        for (int i = 0; i < sum.length; i++) {
            sum[i] /= weight[i];
        }
        return sum;
    }

    /** One axis; rows come out as columns, so that two calls do both. */
    private static void transform(float[] from, float[] to, boolean inverse) {
        for (int row = 0; row < SIDE; row++) {
            for (int u = 0; u < SIDE; u++) {
                float sum = 0;
                for (int x = 0; x < SIDE; x++) {
                    sum += (inverse ? COSINE[x][u] : COSINE[u][x]) * from[row * SIDE + x];
                }
                to[u * SIDE + row] = sum;
            }
        }
    }
}
