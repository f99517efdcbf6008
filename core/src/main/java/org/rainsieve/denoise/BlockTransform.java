package org.rainsieve.denoise;

/**
 * A separable transform of 8×8 blocks, one block at every pixel of a row of blocks at once: vectors run over the blocks, not
 * over the coefficients, and a block shares its columns with its neighbours.
 */
final class BlockTransform {
    static final int SIDE = 8;
    static final int AREA = SIDE * SIDE;

    private final float[][] forward;
    private final float[][] inverse;

    private BlockTransform(double[][] rows) {
        forward = new float[SIDE][SIDE];
        inverse = new float[SIDE][SIDE];
        double[][] inverted = inverted(rows);
        for (int i = 0; i < SIDE; i++) {
            for (int k = 0; k < SIDE; k++) {
                forward[i][k] = (float) rows[i][k];
                inverse[i][k] = (float) inverted[i][k];
            }
        }
    }

    /** Discrete cosine transform, orthonormal. */
    static BlockTransform cosine() {
        double[][] rows = new double[SIDE][SIDE];
        for (int u = 0; u < SIDE; u++) {
            for (int x = 0; x < SIDE; x++) {
                rows[u][x] = (u == 0 ? Math.sqrt(1.0 / SIDE) : Math.sqrt(2.0 / SIDE))
                        * Math.cos((2 * x + 1) * u * Math.PI / (2 * SIDE));
            }
        }
        return new BlockTransform(rows);
    }

    /**
     * The biorthogonal spline wavelets 1.5 (Cohen, Daubechies, Feauveau 1992) over three levels, periodic, each row brought to
     * unit length so that unit noise stays unit noise.
     */
    static BlockTransform biorthogonal() {
        double[] low = {
            0.01657281518405971,
            -0.01657281518405971,
            -0.12153397801643787,
            0.12153397801643787,
            0.7071067811865476,
            0.7071067811865476,
            0.12153397801643787,
            -0.12153397801643787,
            -0.01657281518405971,
            0.01657281518405971
        };
        double[][] rows = new double[SIDE][SIDE];
        for (int k = 0; k < SIDE; k++) {
            double[] v = new double[SIDE];
            v[k] = 1;
            for (int n = SIDE; n > 1; n /= 2) {
                double[] next = v.clone();
                for (int i = 0; i < n / 2; i++) {
                    double smooth = 0;
                    for (int j = 0; j < low.length; j++) {
                        smooth += low[j] * v[Math.floorMod(2 * i + j - 4, n)];
                    }
                    next[i] = smooth;
                    next[n / 2 + i] = (v[2 * i] - v[2 * i + 1]) * Math.sqrt(0.5);
                }
                v = next;
            }
            for (int u = 0; u < SIDE; u++) {
                rows[u][k] = v[u];
            }
        }
        for (double[] row : rows) {
            double length = 0;
            for (double value : row) {
                length += value * value;
            }
            for (int k = 0; k < SIDE; k++) {
                row[k] /= Math.sqrt(length);
            }
        }
        return new BlockTransform(rows);
    }

    /** By Gauss and Jordan with pivots. */
    private static double[][] inverted(double[][] matrix) {
        double[][] m = new double[SIDE][2 * SIDE];
        for (int i = 0; i < SIDE; i++) {
            System.arraycopy(matrix[i], 0, m[i], 0, SIDE);
            m[i][SIDE + i] = 1;
        }
        for (int i = 0; i < SIDE; i++) {
            int pivot = i;
            for (int r = i + 1; r < SIDE; r++) {
                pivot = Math.abs(m[r][i]) > Math.abs(m[pivot][i]) ? r : pivot;
            }
            double[] swap = m[i];
            m[i] = m[pivot];
            m[pivot] = swap;
            double scale = m[i][i];
            for (int c = 0; c < 2 * SIDE; c++) {
                m[i][c] /= scale;
            }
            for (int r = 0; r < SIDE; r++) {
                double share = m[r][i];
                for (int c = 0; c < 2 * SIDE && r != i; c++) {
                    m[r][c] -= share * m[i][c];
                }
            }
        }
        double[][] out = new double[SIDE][SIDE];
        for (int i = 0; i < SIDE; i++) {
            System.arraycopy(m[i], SIDE, out[i], 0, SIDE);
        }
        return out;
    }

    /** Room for one row of blocks, used again and again. */
    static final class Scratch {
        private final float[][] columns = new float[SIDE][];
        private final float[] sum;
        private final float[] shifted;
        private final float[][] planes = new float[SIDE][];

        Scratch(int width) {
            sum = new float[width];
            shifted = new float[width];
            for (int i = 0; i < SIDE; i++) {
                columns[i] = new float[width];
                planes[i] = new float[width];
            }
        }
    }

    /**
     * Transforms the blocks whose upper row is {@code y}.
     *
     * @param image rows of pixels
     * @param out receives {@value #AREA} coefficients for each block, from {@code at} on
     * @param blocks how many blocks: the width less 7
     */
    void forward(float[][] image, int y, int blocks, float[] out, int at, Scratch scratch) {
        int width = blocks + SIDE - 1;
        for (int u = 0; u < SIDE; u++) {
            float[] column = scratch.columns[u];
            float[] first = image[y];
            float factor = forward[u][0];
            for (int x = 0; x < width; x++) {
                column[x] = factor * first[x];
            }
            for (int k = 1; k < SIDE; k++) {
                float[] row = image[y + k];
                float f = forward[u][k];
                for (int x = 0; x < width; x++) {
                    column[x] += f * row[x];
                }
            }
        }
        for (int u = 0; u < SIDE; u++) {
            for (int v = 0; v < SIDE; v++) {
                java.util.Arrays.fill(scratch.planes[v], 0, blocks, 0);
            }
            for (int k = 0; k < SIDE; k++) {
                System.arraycopy(scratch.columns[u], k, scratch.shifted, 0, blocks);
                float[] shifted = scratch.shifted;
                for (int v = 0; v < SIDE; v++) {
                    float f = forward[v][k];
                    float[] plane = scratch.planes[v];
                    for (int x = 0; x < blocks; x++) {
                        plane[x] += f * shifted[x];
                    }
                }
            }
            for (int v = 0; v < SIDE; v++) {
                float[] plane = scratch.planes[v];
                int to = at + u * SIDE + v;
                for (int x = 0; x < blocks; x++, to += AREA) {
                    out[to] = plane[x];
                }
            }
        }
    }

    /**
     * Transforms back and adds what comes out to the picture under a window.
     *
     * @param window weight of each row and column of a block
     */
    void addInverse(float[] coefficients, int at, int blocks, float[] window, float[][] image, int y, Scratch scratch) {
        int width = blocks + SIDE - 1;
        for (int u = 0; u < SIDE; u++) {
            float[] column = scratch.columns[u];
            java.util.Arrays.fill(column, 0, width, 0);
            for (int v = 0; v < SIDE; v++) {
                float[] plane = scratch.planes[v];
                int from = at + u * SIDE + v;
                for (int x = 0; x < blocks; x++, from += AREA) {
                    plane[x] = coefficients[from];
                }
            }
            for (int j = 0; j < SIDE; j++) {
                float[] sum = scratch.sum;
                java.util.Arrays.fill(sum, 0, blocks, 0);
                for (int v = 0; v < SIDE; v++) {
                    float f = window[j] * inverse[j][v];
                    float[] plane = scratch.planes[v];
                    for (int x = 0; x < blocks; x++) {
                        sum[x] += f * plane[x];
                    }
                }
                for (int x = 0; x < blocks; x++) {
                    column[x + j] += sum[x];
                }
            }
        }
        for (int i = 0; i < SIDE; i++) {
            float[] row = image[y + i];
            for (int u = 0; u < SIDE; u++) {
                float f = window[i] * inverse[i][u];
                float[] column = scratch.columns[u];
                for (int x = 0; x < width; x++) {
                    row[x] += f * column[x];
                }
            }
        }
    }
}
