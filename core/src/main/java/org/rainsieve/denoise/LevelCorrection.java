package org.rainsieve.denoise;

import java.util.SplittableRandom;
import java.util.function.UnaryOperator;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.SensorNoise;

/**
 * Keeps the mean of a trained estimator: a network that learned absolute errors answers with medians, which lie below the
 * mean in dark places. Even grey fields of known level are put through it once for each noise law, and what the mean of
 * each colour is off by is taken away by level.
 */
final class LevelCorrection {
    /** Fields in four columns and as many rows, levels from black upwards, side by side with their like. */
    private static final int COLUMNS = 4;

    private static final int FIELDS = 16;
    /** Of the first models, whose returns are to stay as they are. */
    static final int FIELD_PX = 192;
    /** Of 6×6 networks since: only two of nine photosites are red, and as many blue. */
    static final int SIX_FIELD_PX = 288;

    /** A field's edge is left out, as its neighbours are seen there. */
    private static final int EDGE_PX = 24;

    /** Below this level no noise reaches the clipping point. */
    private static final double UNCUT = 0.4;

    private final float[][] level = new float[3][FIELDS];
    private final float[][] excess = new float[3][FIELDS];

    /** Steps of the tables from black to white, of the root of the level, so that the dark is told more finely. */
    private static final int STEPS = 8192;

    private final float[][] tables = new float[3][STEPS + 1];

    private final int fieldPx;

    private LevelCorrection(int fieldPx) {
        this.fieldPx = fieldPx;
    }

    /** @param pattern of the mosaics that the estimator takes */
    static LevelCorrection of(
            SensorNoise noise, CfaPattern pattern, UnaryOperator<Planes> estimator, double[] gains, int fieldPx) {
        LevelCorrection correction = new LevelCorrection(fieldPx);
        Planes mosaic = new Planes(new Region(0, 0, COLUMNS * fieldPx, FIELDS / COLUMNS * fieldPx), 1);
        SplittableRandom random = new SplittableRandom(20_261_125);
        double[][] sums = new double[3][FIELDS];
        double[][] counts = new double[3][FIELDS];
        correction.forEachPixel((x, y, field) -> {
            int c = pattern.colourAt(x, y);
            double clean = grey(field) / gains[c];
            double a = noise.law().a().get(c);
            double light = a > 0 ? a * Chance.photons(clean / a, random) : clean;
            double seen = Math.min(
                    1, Math.max(noise.floor(), light + Math.sqrt(noise.law().b().get(c)) * Chance.normal(random)));
            mosaic.channel(0)[mosaic.index(x, y)] = (float) seen;
            if (correction.inner(x, y)) {
                sums[c][field] += seen;
                counts[c][field]++;
            }
        });
        // The chance of the draw is taken out: what stands against the answers is the level itself.
        correction.forEachPixel((x, y, field) -> {
            int c = pattern.colourAt(x, y);
            if (uncut(noise, field, c, gains)) {
                int i = mosaic.index(x, y);
                mosaic.channel(0)[i] += (float) (grey(field) / gains[c] - sums[c][field] / counts[c][field]);
            }
        });
        Planes out = estimator.apply(mosaic);
        double[][] answers = new double[3][FIELDS];
        double inside = Math.pow(fieldPx - 2 * EDGE_PX, 2);
        correction.forEachPixel((x, y, field) -> {
            if (correction.inner(x, y)) {
                for (int c = 0; c < 3; c++) {
                    answers[c][field] += out.at(c, x, y) / inside;
                }
            }
        });
        for (int c = 0; c < 3; c++) {
            for (int field = 0; field < FIELDS; field++) {
                correction.level[c][field] = (float) answers[c][field];
                // The brightest field stands at the clipping point, where the sensor cuts what lies above.
                double mean = grey(field) < UNCUT ? grey(field) / gains[c] : sums[c][field] / counts[c][field];
                correction.excess[c][field] = field == FIELDS - 1 ? 0 : (float) (answers[c][field] - mean);
            }
        }
        for (int c = 0; c < 3; c++) {
            for (int k = 0; k <= STEPS; k++) {
                float root = (float) k / STEPS;
                correction.tables[c][k] = correction.excessAt(c, root * root);
            }
        }
        return correction;
    }

    /** Whether no noise reaches the floor or the clipping point. */
    private static boolean uncut(SensorNoise noise, int field, int colour, double[] gains) {
        double light = grey(field) / gains[colour];
        return grey(field) < UNCUT
                && light - noise.floor() > 5 * Math.sqrt(noise.law().variance(colour, light));
    }

    /** Levels closer together in the dark; the last is white. */
    private static double grey(int field) {
        double u = field / (FIELDS - 1.0);
        return u * u * u;
    }

    private boolean inner(int x, int y) {
        int fx = x % fieldPx;
        int fy = y % fieldPx;
        return Math.min(fx, fy) >= EDGE_PX && Math.max(fx, fy) < fieldPx - EDGE_PX;
    }

    private interface Pixel {
        void at(int x, int y, int field);
    }

    private void forEachPixel(Pixel action) {
        for (int y = 0; y < FIELDS / COLUMNS * fieldPx; y++) {
            int row = y / fieldPx;
            for (int x = 0; x < COLUMNS * fieldPx; x++) {
                int column = row % 2 == 0 ? x / fieldPx : COLUMNS - 1 - x / fieldPx;
                action.at(x, y, row * COLUMNS + column);
            }
        }
    }

    void apply(Planes rgb) {
        int width = rgb.region().width();
        float[] row = new float[width];
        int[] steps = new int[width];
        for (int c = 0; c < 3; c++) {
            float[] values = rgb.channel(c);
            float[] table = tables[c];
            for (int from = 0; from < values.length; from += width) {
                System.arraycopy(values, from, row, 0, width);
                steps(row, steps);
                for (int x = 0; x < width; x++) {
                    values[from + x] -= table[steps[x]];
                }
            }
        }
    }

    /** Apart from looking them up, so that it vectorises. */
    private static void steps(float[] values, int[] steps) {
        for (int x = 0; x < values.length; x++) {
            float root = (float) Math.sqrt(Math.min(1, Math.max(0, values[x])));
            steps[x] = (int) (root * STEPS + 0.5f);
        }
    }

    private float excessAt(int c, float value) {
        float[] at = level[c];
        if (value <= at[0]) {
            return excess[c][0];
        }
        int k = 1;
        while (k < FIELDS - 1 && at[k] < value) {
            k++;
        }
        float span = at[k] - at[k - 1];
        float share = span > 0 ? Math.min(1, (value - at[k - 1]) / span) : 0;
        return excess[c][k - 1] + share * (excess[c][k] - excess[c][k - 1]);
    }
}
