package org.rainsieve.denoise;

import java.util.Arrays;

/**
 * The orthonormal discrete cosine transform of 8×8 blocks that lie one or two pixels apart, a row of blocks at once: vectors
 * run over the blocks, not over the coefficients, and a block shares its columns with its neighbours. Even and odd halves
 * of a block are transformed apart, which halves the work.
 */
final class BlockTransform {
    static final int SIDE = 8;
    static final int AREA = SIDE * SIDE;

    private static final int HALF = SIDE / 2;

    /** Blocks that are worked on together, few enough that what is made of them stays in the nearest cache. */
    private static final int CHUNK = 64;

    /** For each frequency the weights of the first four places; the others mirror them, or their negatives where it is odd. */
    private static final float[][] COSINES = cosines();

    private final int width;
    private final int apart;
    private final int blocks;
    private final float[][] columns = new float[SIDE][];
    /** For each frequency down the columns, parted by where they stand between the beginnings of two blocks. */
    private final float[][][] parted;

    private final float[][] sums = new float[HALF][];
    private final float[][] differences = new float[HALF][];
    private final float[][] shifted = new float[SIDE][CHUNK];
    private final float[][] even = new float[HALF][CHUNK];
    private final float[][] odd = new float[HALF][CHUNK];
    private final float[] line = new float[CHUNK];
    private final float[] other = new float[CHUNK];

    /** @param width of the pictures whose blocks are transformed; a multiple of {@code apart} */
    BlockTransform(int width, int apart) {
        this.width = width;
        this.apart = apart;
        blocks = blocksIn(width, apart);
        parted = new float[SIDE][apart][width / apart];
        for (int i = 0; i < SIDE; i++) {
            columns[i] = new float[width];
        }
        for (int i = 0; i < HALF; i++) {
            sums[i] = new float[width];
            differences[i] = new float[width];
        }
    }

    static int blocksIn(int size, int apart) {
        return (size - SIDE) / apart + 1;
    }

    private static float[][] cosines() {
        float[][] rows = new float[SIDE][HALF];
        for (int u = 0; u < SIDE; u++) {
            for (int x = 0; x < HALF; x++) {
                rows[u][x] = (float) ((u == 0 ? Math.sqrt(1.0 / SIDE) : Math.sqrt(2.0 / SIDE))
                        * Math.cos((2 * x + 1) * u * Math.PI / (2 * SIDE)));
            }
        }
        return rows;
    }

    /**
     * Transforms the blocks whose upper row is {@code y}.
     *
     * @param image rows of pixels
     * @param out receives {@value #AREA} coefficients for each block, from {@code at} on
     */
    void forward(float[][] image, int y, float[] out, int at) {
        for (int i = 0; i < HALF; i++) {
            fold(image[y + i], image[y + SIDE - 1 - i], sums[i], differences[i], width);
        }
        for (int u = 0; u < SIDE; u++) {
            weightedSum((u & 1) == 0 ? sums : differences, COSINES[u], columns[u], width);
        }
        for (int u = 0; u < SIDE; u++) {
            for (int part = 0; part < apart; part++) {
                float[] to = parted[u][part];
                float[] from = columns[u];
                for (int i = 0, x = part; i < to.length; i++, x += apart) {
                    to[i] = from[x];
                }
            }
        }
        for (int x0 = 0; x0 < blocks; x0 += CHUNK) {
            int n = Math.min(CHUNK, blocks - x0);
            for (int u = 0; u < SIDE; u++) {
                for (int k = 0; k < SIDE; k++) {
                    System.arraycopy(parted[u][k % apart], x0 + k / apart, shifted[k], 0, n);
                }
                for (int i = 0; i < HALF; i++) {
                    fold(shifted[i], shifted[SIDE - 1 - i], even[i], odd[i], n);
                }
                for (int v = 0; v < SIDE; v++) {
                    weightedSum((v & 1) == 0 ? even : odd, COSINES[v], line, n);
                    int to = at + x0 * AREA + u * SIDE + v;
                    for (int x = 0; x < n; x++, to += AREA) {
                        out[to] = line[x];
                    }
                }
            }
        }
    }

    /**
     * Transforms back and adds what comes out to the picture under a window.
     *
     * @param window weight of each row and column of a block
     */
    void addInverse(float[] coefficients, int at, float[] window, float[][] image, int y) {
        for (float[][] row : parted) {
            for (float[] part : row) {
                Arrays.fill(part, 0);
            }
        }
        for (int x0 = 0; x0 < blocks; x0 += CHUNK) {
            int n = Math.min(CHUNK, blocks - x0);
            for (int u = 0; u < SIDE; u++) {
                for (int v = 0; v < SIDE; v++) {
                    float[] to = shifted[v];
                    int from = at + x0 * AREA + u * SIDE + v;
                    for (int x = 0; x < n; x++, from += AREA) {
                        to[x] = coefficients[from];
                    }
                }
                for (int i = 0; i < HALF; i++) {
                    unweigh(shifted, i, line, other, n);
                    int j = SIDE - 1 - i;
                    add(line, other, window[i], parted[u][i % apart], x0 + i / apart, n);
                    subtract(line, other, window[j], parted[u][j % apart], x0 + j / apart, n);
                }
            }
        }
        for (int u = 0; u < SIDE; u++) {
            for (int part = 0; part < apart; part++) {
                float[] from = parted[u][part];
                float[] to = columns[u];
                for (int i = 0, x = part; i < from.length; i++, x += apart) {
                    to[x] = from[i];
                }
            }
        }
        for (int i = 0; i < HALF; i++) {
            unweigh(columns, i, sums[0], differences[0], width);
            add(sums[0], differences[0], window[i], image[y + i], 0, width);
            subtract(sums[0], differences[0], window[SIDE - 1 - i], image[y + SIDE - 1 - i], 0, width);
        }
    }

    private static void fold(float[] a, float[] b, float[] sum, float[] difference, int n) {
        for (int x = 0; x < n; x++) {
            sum[x] = a[x] + b[x];
            difference[x] = a[x] - b[x];
        }
    }

    private static void weightedSum(float[][] of, float[] weights, float[] out, int n) {
        float[] a = of[0];
        float[] b = of[1];
        float[] c = of[2];
        float[] d = of[3];
        float wa = weights[0];
        float wb = weights[1];
        float wc = weights[2];
        float wd = weights[3];
        for (int x = 0; x < n; x++) {
            out[x] = wa * a[x] + wb * b[x] + wc * c[x] + wd * d[x];
        }
    }

    /** What even and odd frequencies bring to one place. */
    private static void unweigh(float[][] of, int place, float[] even, float[] odd, int n) {
        for (int k = 0; k < 2; k++) {
            float[] out = k == 0 ? even : odd;
            float[] a = of[k];
            float[] b = of[k + 2];
            float[] c = of[k + 4];
            float[] d = of[k + 6];
            float wa = COSINES[k][place];
            float wb = COSINES[k + 2][place];
            float wc = COSINES[k + 4][place];
            float wd = COSINES[k + 6][place];
            for (int x = 0; x < n; x++) {
                out[x] = wa * a[x] + wb * b[x] + wc * c[x] + wd * d[x];
            }
        }
    }

    private static void add(float[] even, float[] odd, float weight, float[] to, int at, int n) {
        for (int x = 0; x < n; x++) {
            to[at + x] += weight * (even[x] + odd[x]);
        }
    }

    private static void subtract(float[] even, float[] odd, float weight, float[] to, int at, int n) {
        for (int x = 0; x < n; x++) {
            to[at + x] += weight * (even[x] - odd[x]);
        }
    }
}
