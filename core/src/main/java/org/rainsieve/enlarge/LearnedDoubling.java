package org.rainsieve.enlarge;

import java.nio.FloatBuffer;
import java.util.Arrays;
import java.util.List;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.network.Network;
import org.rainsieve.network.ReleasedModels;
import org.rainsieve.primitives.Border;

/**
 * Makes a picture twice as large by what a network adds to natural edges, told the grain and the compression left in the small
 * one (see docs/learned.md). It works on neutral colours. What it adds is held to the same as natural edges are: reduced again it is the
 * small picture, and nothing leaves the range around it.
 *
 * <p>Planes in, each of the small picture's size: four positions of R, G, B enlarged, in {@link #SCALE}; R, G, B of the small
 * picture; the sd of its grain; one minus the quality of its compression. Planes out: the twelve of the large picture.
 */
final class LearnedDoubling implements Enlarging {
    /** What the network halves its planes by. */
    private static final int ALIGNED_PX = 2;

    /** Its reach in px of the small picture: eleven convolutions, four of them at half size. */
    private static final int REACH_PX = 16;

    private static final int PLANES = 12;

    /** The most grain it was shown, in {@link #SCALE}; of more it is told so much. */
    private static final float MOST_GRAIN = 0.05f;

    static final ReleasedModels MODELS = new ReleasedModels(List.of("enlarge-1"), "natural edges");

    private final PlainEnlarging natural;
    private final NoiseLeft left;
    private final float compression;
    private final double bitePercent;
    private final Network network;
    private final int width;
    private final int height;

    LearnedDoubling(int width, int height, EnlargeSettings settings, NoiseLeft left) {
        this.width = width;
        this.height = height;
        this.left = left;
        natural = new PlainEnlarging(EnlargeSettings.factor(2), width, height);
        compression = settings.blockEdges() ? 1 - settings.jpegQuality() / 100f : 0;
        bitePercent = settings.outputBitePercent();
        network = MODELS.network(settings.model());
    }

    @Override
    public int width() {
        return natural.width();
    }

    @Override
    public int height() {
        return natural.height();
    }

    /** The small picture's pixels that a network's cells are made for. */
    private Region worked(Region out) {
        int x0 = down(out.x() - 2 * REACH_PX);
        int y0 = down(out.y() - 2 * REACH_PX);
        int x1 = -down(-out.right() - 2 * REACH_PX);
        int y1 = -down(-out.bottom() - 2 * REACH_PX);
        return new Region(x0, y0, x1 - x0, y1 - y0);
    }

    /** From px of the large picture to px of the small one that lie in the network's grid. */
    private static int down(int large) {
        return Math.floorDiv(large, 2 * ALIGNED_PX) * ALIGNED_PX;
    }

    private static Region doubled(Region r) {
        return new Region(2 * r.x(), 2 * r.y(), 2 * r.width(), 2 * r.height());
    }

    @Override
    public Region inputRegion(Region out) {
        Region inside = worked(out).intersect(new Region(0, 0, width, height));
        return natural.inputRegion(doubled(inside));
    }

    @Override
    public void fill(Planes small, Planes out) {
        Planes balanced = new Planes(small.region(), 3);
        for (int c = 0; c < 3; c++) {
            scaled(small.channel(c), left.balance(c), balanced.channel(c));
        }
        Region cells = worked(out.region());
        Planes base = new Planes(doubled(cells.intersect(new Region(0, 0, width, height))), 3);
        natural.fill(balanced, base);
        network.run(
                cells.width(),
                cells.height(),
                input -> write(balanced, base, cells, input),
                PLANES,
                answer -> read(answer, cells, base));
        // A compressed picture's own errors are no matter to come back to.
        natural.hold(balanced, base, compression == 0, bitePercent, out);
        for (int c = 0; c < 3; c++) {
            scaled(out.channel(c), 1 / left.balance(c), out.channel(c));
        }
    }

    private static void scaled(float[] values, float factor, float[] to) {
        for (int i = 0; i < values.length; i++) {
            to[i] = factor * values[i];
        }
    }

    private void write(Planes small, Planes base, Region cells, FloatBuffer input) {
        int count = (int) cells.area();
        float[] row = new float[cells.width()];
        float[] scaled = new float[cells.width()];
        for (int p = 0; p < PLANES; p++) {
            int[] columns = columns(base.region().x(), 2 * cells.x() + (p & 1), 2, row.length, 2 * width);
            float[] from = base.channel(p / 4);
            for (int y = 0; y < cells.height(); y++) {
                int line = base.index(base.region().x(), Border.repeat(2 * (cells.y() + y) + (p >> 1 & 1), 2 * height));
                for (int x = 0; x < row.length; x++) {
                    row[x] = from[line + columns[x]];
                }
                SCALE.forward(row, scaled);
                input.put(p * count + y * row.length, scaled);
            }
        }
        int[] columns = columns(small.region().x(), cells.x(), 1, row.length, width);
        float[] grain = new float[row.length];
        for (int y = 0; y < cells.height(); y++) {
            int line = small.index(small.region().x(), Border.repeat(cells.y() + y, height));
            Arrays.fill(grain, 0);
            for (int c = 0; c < 3; c++) {
                float[] from = small.channel(c);
                for (int x = 0; x < row.length; x++) {
                    row[x] = from[line + columns[x]];
                }
                addGrain(row, left.slope(c), left.atBlack(c), grain);
                SCALE.forward(row, scaled);
                input.put((PLANES + c) * count + y * row.length, scaled);
            }
            input.put((PLANES + 3) * count + y * row.length, grain);
        }
        float[] told = new float[count];
        Arrays.fill(told, compression);
        input.put((PLANES + 4) * count, told);
    }

    /** A third of the sd, in {@link #SCALE}, of noise of the variance slope · x + black. */
    private static void addGrain(float[] values, float slope, float black, float[] to) {
        for (int x = 0; x < values.length; x++) {
            float value = Math.max(0, values[x]);
            float sd = (float) Math.sqrt((slope * value + black) / (value + SCALE.offset())) / 2;
            to[x] += Math.min(MOST_GRAIN, sd) / 3;
        }
    }

    /** Where the values of a row lie from the row's begin, repeated at the picture's edges. */
    private static int[] columns(int begin, int first, int step, int count, int size) {
        int[] columns = new int[count];
        for (int x = 0; x < count; x++) {
            columns[x] = Border.repeat(first + step * x, size) - begin;
        }
        return columns;
    }

    private static void read(FloatBuffer answer, Region cells, Planes base) {
        int count = (int) cells.area();
        Region r = base.region();
        float[] row = new float[cells.width()];
        float[] light = new float[cells.width()];
        // The grid's cells begin at even places, and so does what of it lies in the picture.
        int first = (r.x() - 2 * cells.x()) / 2;
        for (int p = 0; p < PLANES; p++) {
            float[] to = base.channel(p / 4);
            for (int y = 0; y < cells.height(); y++) {
                int atY = 2 * (cells.y() + y) + (p >> 1 & 1);
                if (atY < r.y() || atY >= r.bottom()) {
                    continue;
                }
                answer.get(p * count + y * row.length, row);
                SCALE.inverse(row, light);
                int at = base.index(r.x(), atY) + (p & 1);
                for (int x = 0; x < r.width() / 2; x++) {
                    to[at + 2 * x] = light[first + x];
                }
            }
        }
    }
}
