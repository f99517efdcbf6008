package org.rainsieve.demosaic;

import java.util.Arrays;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.RootScale;

/**
 * Demosaicing of 6×6 mosaics: each missing colour is guessed along four directions by {@link DirectionalFilters}, and at
 * each pixel the directions that make the most homogeneous picture are averaged, see {@link Homogeneity}. A decision is a
 * set of directions, one bit each.
 */
final class SixBySixDemosaic implements Demosaic {
    private static final int DIRECTIONS = DirectionalFilters.DIRECTIONS.length;
    private static final int PERIOD = 6;

    private static final int WINDOW = Homogeneity.WINDOW;
    private static final int MARGIN = DirectionalFilters.REACH + 1 + WINDOW;
    private static final int BAND = 24;

    /** Filters depend on the pattern alone; they are made once. */
    private static final Map<CfaPattern, DirectionalFilters.Filter[]> MADE = new ConcurrentHashMap<>();

    private final CfaPattern pattern;
    private final DirectionalFilters.Filter[] filters;
    private final float[] gains;
    private final RootScale scale;

    SixBySixDemosaic(CfaPattern pattern, double[] gains, RootScale scale) {
        if (!pattern.isSixBySix()) {
            throw new IllegalArgumentException("This demosaic is for 6×6 mosaics, not " + pattern);
        }
        this.pattern = pattern;
        this.scale = scale;
        this.gains = new float[] {(float) gains[0], (float) gains[1], (float) gains[2]};
        this.filters = MADE.computeIfAbsent(pattern, SixBySixDemosaic::filters);
    }

    private static DirectionalFilters.Filter[] filters(CfaPattern pattern) {
        DirectionalFilters.Filter[] all = new DirectionalFilters.Filter[PERIOD * PERIOD * DIRECTIONS * 3];
        for (int phase = 0; phase < PERIOD * PERIOD; phase++) {
            for (int d = 0; d < DIRECTIONS; d++) {
                for (int c = 0; c < 3; c++) {
                    if (pattern.colourAt(phase % PERIOD, phase / PERIOD) != c) {
                        all[(phase * DIRECTIONS + d) * 3 + c] =
                                DirectionalFilters.filter(pattern, phase % PERIOD, phase / PERIOD, d, c);
                    }
                }
            }
        }
        return all;
    }

    @Override
    public int margin() {
        return MARGIN;
    }

    @Override
    public byte[] decide(Planes mosaic) {
        Region r = mosaic.region();
        Columns columns = new Columns(mosaic);
        byte[] decision = new byte[(int) r.area()];
        Guesses guesses = new Guesses(r.width(), BAND + 2 * (1 + WINDOW));
        Homogeneity homogeneity = new Homogeneity(r.width(), BAND);
        for (int y = MARGIN; y < r.height() - MARGIN; y += BAND) {
            int rows = Math.min(BAND, r.height() - MARGIN - y);
            guesses.fill(columns, y - 1 - WINDOW, rows + 2 * (1 + WINDOW));
            homogeneity.choose(guesses.planes, rows, decision, y * r.width());
        }
        return decision;
    }

    @Override
    public void interpolate(Planes mosaic, byte[] decision, Planes out) {
        Region r = mosaic.region();
        Region to = out.region();
        if (!r.contains(to.grow(MARGIN))) {
            throw new IllegalArgumentException("The mosaic does not reach far enough around " + to);
        }
        Columns columns = new Columns(mosaic);
        Guesses guesses = new Guesses(r.width(), BAND);
        int left = to.x() - r.x();
        for (int y = to.y(); y < to.bottom(); y += BAND) {
            int rows = Math.min(BAND, to.bottom() - y);
            guesses.fill(columns, y - r.y(), rows);
            for (int row = 0; row < rows; row++) {
                int from = row * r.width() + left;
                int chosen = (y + row - r.y()) * r.width() + left;
                int at = out.index(to.x(), y + row);
                for (int c = 0; c < 3; c++) {
                    float unbalance = 1 / gains[c];
                    float[] result = out.channel(c);
                    for (int x = 0; x < to.width(); x++) {
                        float value = average(guesses, c, from + x, decision[chosen + x]);
                        result[at + x] = (scale == null ? value : scale.inverse(value)) * unbalance;
                    }
                }
            }
        }
    }

    private static float average(Guesses guesses, int colour, int i, int directions) {
        float sum = 0;
        int count = 0;
        for (int d = 0; d < DIRECTIONS; d++) {
            if ((directions >> d & 1) == 1) {
                sum += guesses.of(d, colour)[i];
                count++;
            }
        }
        return sum / count;
    }

    /**
     * A mosaic, balanced and in the brightness scale, each row parted into six arrays by phase, so that the filters run
     * along plain arrays. Each is kept three times, moved by one place either way: loops over arrays that all use one and
     * the same index are the ones that the compiler turns into vector instructions.
     */
    private final class Columns {
        final int count;
        final int width;
        final Region region;
        /** How far the region's first column lies behind a multiple of the period. */
        final int offset;

        private final float[][] here;
        private final float[][] before;
        private final float[][] after;

        Columns(Planes mosaic) {
            region = mosaic.region();
            width = region.width();
            offset = Math.floorMod(region.x(), PERIOD);
            count = (offset + width + PERIOD - 1) / PERIOD;
            here = new float[region.height() * PERIOD][count];
            before = new float[here.length][count];
            after = new float[here.length][count];
            float[] m = mosaic.channel(0);
            for (int y = 0; y < region.height(); y++) {
                for (int phase = 0; phase < PERIOD; phase++) {
                    float gain = gains[pattern.colourAt(phase, region.y() + y)];
                    float[] values = here[y * PERIOD + phase];
                    int to = phase < offset ? 1 : 0;
                    int x = phase - offset + to * PERIOD;
                    for (int i = y * width + x; i < (y + 1) * width; i += PERIOD) {
                        float value = m[i] * gain;
                        values[to++] = scale == null ? value : scale.forward(value);
                    }
                    System.arraycopy(values, 0, before[y * PERIOD + phase], 1, count - 1);
                    System.arraycopy(values, 1, after[y * PERIOD + phase], 0, count - 1);
                }
            }
        }

        /** The pixels of row y that lie at column phase + dx of each period. */
        float[] row(int y, int x) {
            float[][] moved = x < 0 ? before : x < PERIOD ? here : after;
            return moved[y * PERIOD + Math.floorMod(x, PERIOD)];
        }
    }

    /** All three colours of some rows as guessed along each direction. */
    private final class Guesses {
        final int width;
        private final float[][] planes;

        Guesses(int width, int rows) {
            this.width = width;
            planes = new float[DIRECTIONS * 3][width * rows];
        }

        float[] of(int direction, int colour) {
            return planes[direction * 3 + colour];
        }

        void fill(Columns in, int firstRow, int rows) {
            float[] sum = new float[in.count];
            for (int row = 0; row < rows; row++) {
                int y = firstRow + row;
                int phaseY = Math.floorMod(in.region.y() + y, PERIOD);
                for (int phase = 0; phase < PERIOD; phase++) {
                    int own = pattern.colourAt(phase, phaseY);
                    for (int plane = 0; plane < planes.length; plane++) {
                        DirectionalFilters.Filter filter = filters[(phaseY * PERIOD + phase) * DIRECTIONS * 3 + plane];
                        if (plane % 3 == own) {
                            System.arraycopy(in.row(y, phase), 0, sum, 0, in.count);
                        } else {
                            apply(filter, in, y, phase, sum);
                        }
                        scatter(sum, planes[plane], row * width, phase, in);
                    }
                }
            }
        }

        private void scatter(float[] sum, float[] plane, int row, int phase, Columns in) {
            int k = phase < in.offset ? 1 : 0;
            for (int x = phase - in.offset + k * PERIOD; x < width; x += PERIOD) {
                plane[row + x] = sum[k++];
            }
        }
    }

    private static void apply(DirectionalFilters.Filter filter, Columns in, int y, int phase, float[] sum) {
        Arrays.fill(sum, 0);
        int n = filter.weight().length;
        int t = 0;
        for (; t + 3 < n; t += 4) {
            float[] a = tap(filter, t, in, y, phase);
            float[] b = tap(filter, t + 1, in, y, phase);
            float[] c = tap(filter, t + 2, in, y, phase);
            float[] d = tap(filter, t + 3, in, y, phase);
            float wa = filter.weight()[t];
            float wb = filter.weight()[t + 1];
            float wc = filter.weight()[t + 2];
            float wd = filter.weight()[t + 3];
            for (int k = 0; k < sum.length; k++) {
                sum[k] += wa * a[k] + wb * b[k] + wc * c[k] + wd * d[k];
            }
        }
        for (; t < n; t++) {
            float[] a = tap(filter, t, in, y, phase);
            float wa = filter.weight()[t];
            for (int k = 0; k < sum.length; k++) {
                sum[k] += wa * a[k];
            }
        }
    }

    private static float[] tap(DirectionalFilters.Filter filter, int t, Columns in, int y, int phase) {
        return in.row(y + filter.dy()[t], phase + filter.dx()[t]);
    }
}
