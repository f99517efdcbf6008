package org.rainsieve.sharpen;

/**
 * Two-dimensional Fourier transform of a square of {@value #SIZE}² values. Every butterfly works on whole rows, which
 * vectorises; columns are done by turning the square over, so that a spectrum lies transposed: [kx][ky].
 */
final class Fourier {
    static final int SIZE = 512;

    private static final float[] COS = new float[SIZE];
    private static final float[] SIN = new float[SIZE];
    private static final int[] REVERSED = new int[SIZE];

    static {
        for (int i = 0; i < SIZE; i++) {
            COS[i] = (float) Math.cos(2 * Math.PI * i / SIZE);
            SIN[i] = (float) -Math.sin(2 * Math.PI * i / SIZE);
            REVERSED[i] = Integer.reverse(i) >>> 32 - Integer.numberOfTrailingZeros(SIZE);
        }
    }

    final float[][] re = new float[SIZE][SIZE];
    final float[][] im = new float[SIZE][SIZE];

    /** Values by row to the spectrum, transposed. */
    void forward() {
        rows(1);
        turn(re);
        turn(im);
        rows(1);
    }

    /** The transposed spectrum back to values by row. */
    void inverse() {
        rows(-1);
        turn(re);
        turn(im);
        rows(-1);
        float share = 1f / (SIZE * SIZE);
        for (int y = 0; y < SIZE; y++) {
            scale(re[y], share);
            scale(im[y], share);
        }
    }

    private static void scale(float[] row, float by) {
        for (int x = 0; x < SIZE; x++) {
            row[x] *= by;
        }
    }

    /** Cooley, Tukey 1965, radix 2 with decimation in time, down all columns at once. */
    private void rows(int direction) {
        for (int y = 0; y < SIZE; y++) {
            int other = REVERSED[y];
            if (other > y) {
                float[] swap = re[y];
                re[y] = re[other];
                re[other] = swap;
                swap = im[y];
                im[y] = im[other];
                im[other] = swap;
            }
        }
        for (int half = 1; half < SIZE; half *= 2) {
            int stride = SIZE / (2 * half);
            for (int k = 0; k < half; k++) {
                float wr = COS[k * stride];
                float wi = direction * SIN[k * stride];
                for (int y = k; y < SIZE; y += 2 * half) {
                    butterfly(re[y], im[y], re[y + half], im[y + half], wr, wi);
                }
            }
        }
    }

    private static void butterfly(float[] ar, float[] ai, float[] br, float[] bi, float wr, float wi) {
        for (int x = 0; x < SIZE; x++) {
            float tr = wr * br[x] - wi * bi[x];
            float ti = wr * bi[x] + wi * br[x];
            float ur = ar[x];
            float ui = ai[x];
            ar[x] = ur + tr;
            ai[x] = ui + ti;
            br[x] = ur - tr;
            bi[x] = ui - ti;
        }
    }

    private static void turn(float[][] square) {
        int block = 16;
        for (int y0 = 0; y0 < SIZE; y0 += block) {
            for (int x0 = 0; x0 <= y0; x0 += block) {
                for (int y = y0; y < y0 + block; y++) {
                    int end = Math.min(x0 + block, y);
                    for (int x = x0; x < end; x++) {
                        float swap = square[y][x];
                        square[y][x] = square[x][y];
                        square[x][y] = swap;
                    }
                }
            }
        }
    }
}
