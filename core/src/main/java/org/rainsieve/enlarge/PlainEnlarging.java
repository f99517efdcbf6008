package org.rainsieve.enlarge;

import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.primitives.Border;
import org.rainsieve.primitives.BoxMean;

/**
 * Enlarges linear pictures: interpolation in a root scale, then rounds of back-projection (Irani, Peleg 1991), so that the
 * large picture reduced again is the small one, and a limit that keeps edges from ringing: nothing leaves the range of the
 * pixels around it but for what a line or a dot needs. <em>Drawn</em> edges are smoothed along their direction in each
 * round (structure tensor; Weickert 1999).
 */
final class PlainEnlarging implements Enlarging {
    /** Rounds of back-projection. Drawn edges are steered in the first rounds only: the last ones bring the picture back. */
    private static final int ROUNDS = 3;

    /**
     * How far the rounds of natural edges go. Spreading passes between half and all of a correction on, by its fineness: so
     * chosen, three rounds leave 2 % of either, as five whole ones would (a Chebyshev iteration; Varga 1962, ch. 5).
     */
    private static final float[] STRIDES = {1.8f, 1.2f, 1};

    /** Of what something else made larger, see {@link #hold}. */
    private static final int HOLDING_ROUNDS = 2;

    private static final int DRAWN_ROUNDS = 12;
    private static final int STEERED_ROUNDS = 6;
    private static final int BLOCK_PX = 8;

    /** Share of the local range by which any edge may go beyond it. */
    private static final float RINGING = 0.01f;

    /** How far a line or a dot may be brighter than its mean over one pixel, as a share of how far it stands out. */
    private static final float PEAK = 0.6f;

    /** The same of what something else made larger, which brings some of it along; it has no ringing, for it may come twice. */
    private static final float HELD_PEAK = 0.3f;

    private final EnlargeSettings settings;
    private final int width;
    private final int height;
    private final int outWidth;
    private final int outHeight;
    private final double factorX;
    private final double factorY;

    PlainEnlarging(EnlargeSettings settings, int width, int height) {
        this(settings, width, height, settings.size(width, height));
    }

    PlainEnlarging(EnlargeSettings settings, int width, int height, EnlargeSettings.Size size) {
        this.settings = settings;
        this.width = width;
        this.height = height;
        outWidth = size.width();
        outHeight = size.height();
        factorX = (double) outWidth / width;
        factorY = (double) outHeight / height;
    }

    @Override
    public int width() {
        return outWidth;
    }

    @Override
    public int height() {
        return outHeight;
    }

    private boolean drawn() {
        return settings.edges() == EnlargeSettings.Edges.DRAWN;
    }

    private int rounds() {
        return drawn() ? DRAWN_ROUNDS : ROUNDS;
    }

    /** Pixels of the small picture that a place depends on, on each side. */
    private int margin() {
        return 4 + 2 * rounds() + (drawn() ? 3 * STEERED_ROUNDS : 0) + (settings.blockEdges() ? BLOCK_PX : 0);
    }

    @Override
    public Region inputRegion(Region out) {
        int margin = margin();
        int x0 = (int) Math.floor(out.x() / factorX) - margin;
        int y0 = (int) Math.floor(out.y() / factorY) - margin;
        int x1 = (int) Math.ceil(out.right() / factorX) + margin;
        int y1 = (int) Math.ceil(out.bottom() / factorY) + margin;
        return new Region(x0, y0, x1 - x0, y1 - y0).intersect(new Region(0, 0, width, height));
    }

    @Override
    public void fill(Planes small, Planes out) {
        Region from = small.region();
        int x0 = (int) Math.floor(from.x() * factorX);
        int y0 = (int) Math.floor(from.y() * factorY);
        int x1 = Math.min(outWidth, (int) Math.ceil(from.right() * factorX - 1e-9));
        int y1 = Math.min(outHeight, (int) Math.ceil(from.bottom() * factorY - 1e-9));
        Region large = new Region(x0, y0, x1 - x0, y1 - y0);
        Axes axes = new Axes(from, large);
        int channels = small.channels();
        float[][] values = new float[channels][];
        float[][] low = new float[channels][];
        float[][] high = new float[channels][];
        float[][] roots = new float[channels][];
        for (int c = 0; c < channels; c++) {
            float[] source = small.channel(c);
            roots[c] = new float[source.length];
            SCALE.forward(source, roots[c]);
        }
        if (settings.blockEdges() && channels == 3) {
            BlockEdges.remove(roots, from.width(), from.height(), from.x(), from.y(), settings.jpegQuality());
        }
        for (int c = 0; c < channels; c++) {
            values[c] = Resampling.apply(roots[c], from, axes.largerX, axes.largerY);
            float[][] range = range(roots[c], from, RINGING, PEAK);
            low[c] = range[0];
            high[c] = range[1];
        }
        float[] light = new float[values[0].length];
        for (int round = 0; round < rounds(); round++) {
            if (drawn() && round < STEERED_ROUNDS) {
                DrawnEdges.steer(values, large.width(), large.height(), (float) Math.max(factorX, factorY));
            }
            for (int c = 0; c < channels; c++) {
                project(roots[c], from, values[c], large, axes, drawn() ? 1 : STRIDES[round], light);
                limit(values[c], large, low[c], high[c], from);
            }
        }
        if (settings.outputBitePercent() > 0) {
            for (int c = 0; c < channels; c++) {
                bite(values[c], large, settings.outputBitePercent());
                limit(values[c], large, low[c], high[c], from);
            }
        }
        for (int c = 0; c < channels; c++) {
            write(values[c], large, light, out, c);
        }
    }

    /**
     * One colour back in light.
     *
     * @param large what {@code values} lie over
     * @param light as many values, to work in
     */
    private static void write(float[] values, Region large, float[] light, Planes out, int colour) {
        Region r = out.region().intersect(large);
        SCALE.inverse(values, light);
        for (int y = r.y(); y < r.bottom(); y++) {
            int at = (y - large.y()) * large.width() + r.x() - large.x();
            System.arraycopy(light, at, out.channel(colour), out.index(r.x(), y), r.width());
        }
    }

    /**
     * Holds a picture that something else made larger to what natural edges are held to.
     *
     * @param small over no less than what the large one was made from
     * @param large by this factor
     * @param back whether the large one, reduced, is to be the small one
     * @param bitePercent output sharpening
     * @param out a part of the large one
     */
    void hold(Planes small, Planes large, boolean back, double bitePercent, Planes out) {
        Region r = large.region();
        int x0 = (int) Math.ceil(r.x() / factorX);
        int y0 = (int) Math.ceil(r.y() / factorY);
        int x1 = Math.min(width, (int) Math.floor(r.right() / factorX));
        int y1 = Math.min(height, (int) Math.floor(r.bottom() / factorY));
        Region from = new Region(x0, y0, x1 - x0, y1 - y0);
        Axes axes = new Axes(from, r);
        Planes same = new Planes(from, small.channels());
        same.copyFrom(small);
        float[] light = new float[(int) r.area()];
        for (int c = 0; c < small.channels(); c++) {
            float[] roots = new float[same.channel(c).length];
            SCALE.forward(same.channel(c), roots);
            float[] values = new float[light.length];
            SCALE.forward(large.channel(c), values);
            float[][] range = range(roots, from, 0, HELD_PEAK);
            for (int round = 0; back && round < HOLDING_ROUNDS; round++) {
                project(roots, from, values, r, axes, STRIDES[round], light);
                limit(values, r, range[0], range[1], from);
            }
            if (!back) {
                limit(values, r, range[0], range[1], from);
            }
            if (bitePercent > 0) {
                bite(values, r, bitePercent);
                limit(values, r, range[0], range[1], from);
            }
            write(values, r, light, out, c);
        }
    }

    /** What paper or screen will take from the finest detail, put on beforehand; within the same limit as all else. */
    private void bite(float[] values, Region large, double percent) {
        float[] soft = values.clone();
        int radius = Math.max(1, (int) Math.round(0.35 * Math.max(factorX, factorY)));
        BoxMean.repeatBorder(soft, large.width(), large.height(), radius);
        BoxMean.repeatBorder(soft, large.width(), large.height(), radius);
        float share = (float) percent / 100;
        for (int i = 0; i < values.length; i++) {
            values[i] += share * (values[i] - soft[i]);
        }
    }

    private final class Axes {
        final Resampling largerX;
        final Resampling largerY;
        final Resampling spreadX;
        final Resampling spreadY;
        final Resampling smallerX;
        final Resampling smallerY;

        Axes(Region from, Region large) {
            largerX = Resampling.larger(large.x(), large.width(), factorX);
            largerY = Resampling.larger(large.y(), large.height(), factorY);
            spreadX = Resampling.spread(large.x(), large.width(), factorX);
            spreadY = Resampling.spread(large.y(), large.height(), factorY);
            smallerX = Resampling.smaller(from.x(), from.width(), factorX);
            smallerY = Resampling.smaller(from.y(), from.height(), factorY);
        }
    }

    /** Adds what the large picture, reduced in linear light as a sensor would, is off by. */
    private static void project(
            float[] roots, Region from, float[] values, Region large, Axes axes, float stride, float[] light) {
        SCALE.inverse(values, light);
        float[] back = Resampling.apply(light, large, axes.smallerX, axes.smallerY);
        SCALE.forward(back, back);
        for (int i = 0; i < back.length; i++) {
            back[i] = stride * (roots[i] - back[i]);
        }
        float[] correction = Resampling.apply(back, from, axes.spreadX, axes.spreadY);
        for (int i = 0; i < values.length; i++) {
            values[i] += correction[i];
        }
    }

    /**
     * The least and the most that each pixel of the small picture and its neighbours allow.
     *
     * @param ringing share of the range that is allowed beyond it
     * @param peak share of how far a line or a dot stands out, likewise
     */
    private static float[][] range(float[] small, Region r, float ringing, float peak) {
        int w = r.width();
        int h = r.height();
        float[] low = small.clone();
        float[] high = small.clone();
        // Copies of rows, shifted: loops over one index in several arrays are what the compiler vectorises.
        float[] above = new float[Math.max(0, w - 2)];
        float[] below = new float[above.length];
        for (int y = 1; y < h - 1 && w > 2; y++) {
            int i = y * w + 1;
            float[] here = java.util.Arrays.copyOfRange(small, i, i + above.length);
            java.util.Arrays.fill(above, 0);
            java.util.Arrays.fill(below, 0);
            for (int step : new int[] {1, w, w + 1, w - 1}) {
                float[] before = java.util.Arrays.copyOfRange(small, i - step, i - step + above.length);
                float[] after = java.util.Arrays.copyOfRange(small, i + step, i + step + above.length);
                standOut(here, before, after, above, below);
            }
            for (int x = 0; x < above.length; x++) {
                high[i + x] += peak * above[x];
                low[i + x] -= peak * below[x];
            }
        }
        float[] lowest = widest(low, w, h, -1);
        float[] highest = widest(high, w, h, 1);
        for (int i = 0; i < small.length; i++) {
            float room = ringing * (highest[i] - lowest[i]);
            lowest[i] -= room;
            highest[i] += room;
        }
        return new float[][] {lowest, highest};
    }

    /** By how much pixels are above, or below, both of their neighbours on a line; the most of any line so far. */
    private static void standOut(float[] here, float[] before, float[] after, float[] above, float[] below) {
        for (int x = 0; x < here.length; x++) {
            float most = Math.max(before[x], after[x]);
            float least = Math.min(before[x], after[x]);
            above[x] = Math.max(above[x], here[x] - most);
            below[x] = Math.max(below[x], least - here[x]);
        }
    }

    /** The largest (or, with sign −1, smallest) value of the 3 × 3 around each pixel. */
    private static float[] widest(float[] values, int w, int h, float sign) {
        float[] across = new float[values.length];
        for (int y = 0; y < h; y++) {
            for (int x = 0; x < w; x++) {
                float most = sign * values[y * w + x];
                most = Math.max(most, sign * values[y * w + Math.max(0, x - 1)]);
                across[y * w + x] = Math.max(most, sign * values[y * w + Math.min(w - 1, x + 1)]);
            }
        }
        float[] out = new float[values.length];
        for (int y = 0; y < h; y++) {
            int above = Math.max(0, y - 1) * w;
            int below = Math.min(h - 1, y + 1) * w;
            for (int x = 0; x < w; x++) {
                out[y * w + x] = sign * Math.max(across[y * w + x], Math.max(across[above + x], across[below + x]));
            }
        }
        return out;
    }

    private void limit(float[] values, Region large, float[] low, float[] high, Region from) {
        int[] column = new int[large.width()];
        for (int x = 0; x < column.length; x++) {
            column[x] = Border.repeat((int) Math.floor((large.x() + x + 0.5) / factorX) - from.x(), from.width());
        }
        float[] lowest = new float[column.length];
        float[] highest = new float[column.length];
        float[] line = new float[column.length];
        int spread = -1;
        for (int y = 0; y < large.height(); y++) {
            int row = Border.repeat((int) Math.floor((large.y() + y + 0.5) / factorY) - from.y(), from.height());
            if (row != spread) {
                for (int x = 0; x < column.length; x++) {
                    lowest[x] = low[row * from.width() + column[x]];
                    highest[x] = high[row * from.width() + column[x]];
                }
                spread = row;
            }
            System.arraycopy(values, y * large.width(), line, 0, line.length);
            clamp(line, lowest, highest);
            System.arraycopy(line, 0, values, y * large.width(), line.length);
        }
    }

    private static void clamp(float[] line, float[] lowest, float[] highest) {
        for (int x = 0; x < line.length; x++) {
            line[x] = Math.max(lowest[x], Math.min(highest[x], line[x]));
        }
    }
}
