package org.rainsieve.enlarge;

import org.rainsieve.frame.Region;
import org.rainsieve.primitives.Rows;

/**
 * One axis of a change of size: for each place of a range of the new axis, which places of the old one count and how much.
 * Pixel n covers n to n + 1 on both axes; beyond the picture its last pixel is repeated.
 */
final class Resampling {
    /** So few pixels are gathered one by one. */
    private static final int FEW = 4;

    private static final int ROWS = 4;

    private final int[] first;
    private final float[][] weights;

    private Resampling(int count) {
        first = new int[count];
        weights = new float[count][];
    }

    /** {@link Lanczos}, for enlarging by {@code factor}. */
    static Resampling larger(int from, int count, double factor) {
        Resampling axis = new Resampling(count);
        for (int i = 0; i < count; i++) {
            double at = (from + i + 0.5) / factor - 0.5;
            int start = (int) Math.floor(at) - 2;
            float[] w = new float[Lanczos.TAPS];
            double sum = 0;
            for (int k = 0; k < Lanczos.TAPS; k++) {
                sum += Lanczos.weight(at - start - k);
            }
            for (int k = 0; k < Lanczos.TAPS; k++) {
                w[k] = (float) (Lanczos.weight(at - start - k) / sum);
            }
            axis.first[i] = start;
            axis.weights[i] = w;
        }
        return axis;
    }

    /** Straight lines between pixels, for spreading corrections. */
    static Resampling spread(int from, int count, double factor) {
        Resampling axis = new Resampling(count);
        for (int i = 0; i < count; i++) {
            double at = (from + i + 0.5) / factor - 0.5;
            int start = (int) Math.floor(at);
            axis.first[i] = start;
            axis.weights[i] = new float[] {(float) (1 - (at - start)), (float) (at - start)};
        }
        return axis;
    }

    /** The mean over what a pixel of the small picture covers of the large one. */
    static Resampling smaller(int from, int count, double factor) {
        Resampling axis = new Resampling(count);
        for (int i = 0; i < count; i++) {
            double begin = (from + i) * factor;
            double end = (from + i + 1) * factor;
            int start = (int) Math.floor(begin + 1e-9);
            int stop = (int) Math.ceil(end - 1e-9);
            float[] w = new float[stop - start];
            for (int k = 0; k < w.length; k++) {
                w[k] = (float) ((Math.min(end, start + k + 1) - Math.max(begin, start + k)) / factor);
            }
            axis.first[i] = start;
            axis.weights[i] = w;
        }
        return axis;
    }

    /**
     * Applies one axis across and one down, the one that makes the picture smaller first. Values outside {@code from} are
     * those at its edge. Where many pixels count, the axis across is worked on as sums of whole rows, too, with the picture
     * turned over in between, because that is what processors add fastest.
     */
    static float[] apply(float[] values, Region from, Resampling across, Resampling down) {
        int h = down.first.length;
        int w = across.first.length;
        boolean few = across.taps() <= FEW;
        if (few && w < from.width()) {
            float[] narrow = resampleRows(values, from.width(), from.height(), from.x(), across);
            return resampleColumns(narrow, w, from.height(), from.y(), down);
        }
        float[] high = resampleColumns(values, from.width(), from.height(), from.y(), down);
        if (few) {
            return resampleRows(high, from.width(), h, from.x(), across);
        }
        float[] turned = resampleColumns(Rows.transpose(high, from.width(), h), h, from.width(), from.x(), across);
        return Rows.transpose(turned, h, w);
    }

    private int taps() {
        int most = 0;
        for (float[] w : weights) {
            most = Math.max(most, w.length);
        }
        return most;
    }

    private static float[] resampleRows(float[] values, int width, int height, int start, Resampling axis) {
        int count = axis.first.length;
        float[] out = new float[count * height];
        int[] at = new int[axis.taps() * count];
        float[] weight = new float[axis.taps() * count];
        int taps = axis.taps();
        for (int x = 0; x < count; x++) {
            for (int k = 0; k < axis.weights[x].length; k++) {
                at[taps * x + k] = Math.max(0, Math.min(width - 1, axis.first[x] - start + k));
                weight[taps * x + k] = axis.weights[x][k];
            }
        }
        // Rows in fours, so that places and weights are looked up once for all of them.
        float[][] rows = new float[ROWS][width];
        float[][] lines = new float[ROWS][count];
        for (int y = 0; y < height; y += ROWS) {
            int some = Math.min(ROWS, height - y);
            for (int r = 0; r < some; r++) {
                System.arraycopy(values, (y + r) * width, rows[r], 0, width);
            }
            if (taps == 2) {
                two(rows[0], rows[1], rows[2], rows[3], at, weight, lines[0], lines[1], lines[2], lines[3]);
            } else {
                for (int r = 0; r < some; r++) {
                    gather(rows[r], at, weight, taps, lines[r]);
                }
            }
            for (int r = 0; r < some; r++) {
                System.arraycopy(lines[r], 0, out, (y + r) * count, count);
            }
        }
        return out;
    }

    private static void two(
            float[] a,
            float[] b,
            float[] c,
            float[] d,
            int[] at,
            float[] weight,
            float[] toA,
            float[] toB,
            float[] toC,
            float[] toD) {
        for (int x = 0; x < toA.length; x++) {
            int i = at[2 * x];
            int j = at[2 * x + 1];
            float v = weight[2 * x];
            float w = weight[2 * x + 1];
            toA[x] = v * a[i] + w * a[j];
            toB[x] = v * b[i] + w * b[j];
            toC[x] = v * c[i] + w * c[j];
            toD[x] = v * d[i] + w * d[j];
        }
    }

    private static void gather(float[] row, int[] at, float[] weight, int taps, float[] line) {
        for (int x = 0, i = 0; x < line.length; x++) {
            float sum = 0;
            for (int k = 0; k < taps; k++, i++) {
                sum += weight[i] * row[at[i]];
            }
            line[x] = sum;
        }
    }

    private static float[] resampleColumns(float[] values, int width, int height, int start, Resampling axis) {
        float[] out = new float[axis.first.length * width];
        float[] line = new float[width];
        float[] row = new float[width];
        for (int y = 0; y < axis.first.length; y++) {
            java.util.Arrays.fill(line, 0);
            float[] weight = axis.weights[y];
            for (int k = 0; k < weight.length; k++) {
                int at = Math.max(0, Math.min(height - 1, axis.first[y] - start + k));
                System.arraycopy(values, at * width, row, 0, width);
                Rows.add(line, row, weight[k]);
            }
            System.arraycopy(line, 0, out, y * width, width);
        }
        return out;
    }
}
