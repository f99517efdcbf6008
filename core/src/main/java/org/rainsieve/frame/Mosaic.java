package org.rainsieve.frame;

import java.util.function.IntPredicate;
import java.util.stream.IntStream;
import org.rainsieve.primitives.Border;

/**
 * A decoded sensor mosaic, two bytes a pixel, held whole. Values are handed out linear, black-subtracted and scaled so
 * that 1.0 is the clipping point. Outside the picture it is mirrored about the outermost row and column about which its
 * colours are mirror images: for 2×2 patterns the very last, for 6×6 at most two pixels further in.
 */
public final class Mosaic implements Capture {
    /** The least value is a heap if it is so many times as frequent as the most frequent of the next ones. */
    private static final int HEAPED = 4;

    private static final int HEAP_WIDTH = 3;
    private static final double LEAST_HEAP = 1e-3;

    private final int width;
    private final int height;
    private final short[] samples;
    private final CfaPattern pattern;
    private final float[] black;
    private final float[] scale;
    private final int white;
    private final int blackWidth;
    private final int blackHeight;
    private final int firstColumn;
    private final int lastColumn;
    private final int firstRow;
    private final int lastRow;
    private final float[] columnBlack;
    private final float[] rowBlack;
    /** Whether any row or column has a black level of its own. */
    private final boolean ownLevels;

    private final GainField gains;

    /** Found at the first question; -1 until then. */
    private int floorSample = -1;

    /**
     * @param samples width · height unsigned samples
     * @param black black levels as a repeating block, row by row
     * @param white the sample value at which the sensor clips
     */
    public Mosaic(
            int width,
            int height,
            short[] samples,
            CfaPattern pattern,
            float[] black,
            int blackWidth,
            int blackHeight,
            int white) {
        this(width, height, samples, pattern, black, blackWidth, blackHeight, white, null, null, null);
    }

    /**
     * @param columnBlack added to the black level column by column; null for none
     * @param rowBlack the same row by row
     * @param gains by which the colours are to be multiplied after denoising; null for none
     */
    public Mosaic(
            int width,
            int height,
            short[] samples,
            CfaPattern pattern,
            float[] black,
            int blackWidth,
            int blackHeight,
            int white,
            float[] columnBlack,
            float[] rowBlack,
            GainField gains) {
        if (width < 2 || height < 2 || samples.length != width * height) {
            throw new IllegalArgumentException("The samples do not fill " + width + " x " + height + " pixels");
        }
        this.width = width;
        this.height = height;
        this.samples = samples;
        this.pattern = pattern;
        this.white = white;
        this.blackWidth = blackWidth;
        this.blackHeight = blackHeight;
        this.firstColumn = axis(0, 1, width, pattern::mirrorsAboutColumn);
        this.lastColumn = axis(width - 1, -1, width, pattern::mirrorsAboutColumn);
        this.firstRow = axis(0, 1, height, pattern::mirrorsAboutRow);
        this.lastRow = axis(height - 1, -1, height, pattern::mirrorsAboutRow);
        this.black = black.clone();
        this.columnBlack = columnBlack == null ? new float[width] : columnBlack.clone();
        this.rowBlack = rowBlack == null ? new float[height] : rowBlack.clone();
        this.ownLevels = anyBut0(this.columnBlack) || anyBut0(this.rowBlack);
        this.gains = gains;
        this.scale = new float[black.length];
        for (int i = 0; i < black.length; i++) {
            if (!(black[i] < white)) {
                throw new IllegalArgumentException("The black level " + black[i] + " is not below white " + white);
            }
            scale[i] = scale(white, black[i]);
        }
    }

    private static boolean anyBut0(float[] levels) {
        for (float level : levels) {
            if (level != 0) {
                return true;
            }
        }
        return false;
    }

    /** So that the clipping point is 1 at least, however single precision rounds. */
    private static float scale(int white, float black) {
        float scale = 1 / (white - black);
        while ((white - black) * scale < 1) {
            scale = Math.nextUp(scale);
        }
        return scale;
    }

    /** The same mosaic with other samples and gains. */
    public Mosaic with(short[] other, GainField field) {
        return new Mosaic(
                width, height, other, pattern, black, blackWidth, blackHeight, white, columnBlack, rowBlack, field);
    }

    /**
     * The same mosaic less what was added to its rows and columns.
     *
     * @param other samples; null for the same
     * @param columns what was added to each column, 1.0 = clipping; empty for nothing
     * @param rows the same for each row
     */
    public Mosaic with(short[] other, float[] columns, float[] rows) {
        return new Mosaic(
                width,
                height,
                other == null ? samples : other,
                pattern,
                black,
                blackWidth,
                blackHeight,
                white,
                added(columnBlack, columns),
                added(rowBlack, rows),
                gains);
    }

    private float[] added(float[] levels, float[] more) {
        float[] sum = levels.clone();
        for (int i = 0; i < more.length; i++) {
            sum[i] += more[i] / scale[0];
        }
        return sum;
    }

    /** A copy of the samples as they were stored, row by row. */
    public short[] samples() {
        return samples.clone();
    }

    @Override
    public int width() {
        return width;
    }

    @Override
    public int height() {
        return height;
    }

    @Override
    public int channels() {
        return 1;
    }

    @Override
    public CfaPattern pattern() {
        return pattern;
    }

    public int white() {
        return white;
    }

    /** Whether the file asks for gains that differ from place to place. */
    public boolean hasGains() {
        return gains != null;
    }

    /** Multiplies colour planes of this picture by what the file asks for; nothing is changed where it asks for nothing. */
    @Override
    public void applyGains(Planes colours) {
        if (gains != null) {
            gains.apply(colours);
        }
    }

    /**
     * The lowest sample that the sensor, or what wrote the file, writes: 0, or the least there is where values are heaped up on it,
     * as they are when what lies below black is cut.
     */
    public int floorSample() {
        int found = floorSample;
        if (found < 0) {
            found = findFloor();
            floorSample = found;
        }
        return found;
    }

    private int findFloor() {
        int[] counts = new int[1 << 16];
        for (short sample : samples) {
            counts[sample & 0xffff]++;
        }
        int least = 0;
        while (counts[least] == 0) {
            least++;
        }
        int above = 0;
        for (int i = least + 1; i <= Math.min(0xffff, least + HEAP_WIDTH); i++) {
            above = Math.max(above, counts[i]);
        }
        boolean heaped = counts[least] > HEAPED * above && counts[least] > LEAST_HEAP * samples.length;
        return heaped && least < white ? least : 0;
    }

    /** The signal of the {@link #floorSample}: noise below it was cut. */
    public float floor() {
        double sum = 0;
        for (int i = 0; i < black.length; i++) {
            sum += (floorSample() + 0.5 - black[i]) * scale[i];
        }
        return (float) (sum / black.length);
    }

    /** The signal of one step of the samples. */
    public float step() {
        return scale[0];
    }

    /** The sample as it was stored. */
    public int sample(int x, int y) {
        return samples[y * width + x] & 0xffff;
    }

    public boolean clippedAt(int x, int y) {
        return sample(x, y) >= white;
    }

    public float at(int x, int y) {
        int b = y % blackHeight * blackWidth + x % blackWidth;
        return linear(sample(x, y), black[b] + columnBlack[x] + rowBlack[y], scale[b]);
    }

    /** What is clipped is 1 at least, also where a row or column has a black level of its own. */
    private float linear(int sample, float level, float scale) {
        float value = (sample - level) * scale;
        return sample >= white ? Math.max(1, value) : value;
    }

    private static int axis(int from, int step, int size, IntPredicate mirrors) {
        for (int i = from; i >= 0 && i < size; i += step) {
            if (mirrors.test(i)) {
                return i;
            }
        }
        throw new IllegalArgumentException("The picture is smaller than its colour pattern");
    }

    /** The column whose pixels stand for those of column x, which may lie outside. */
    public int column(int x) {
        return x >= 0 && x < width ? x : mirror(x, firstColumn, lastColumn);
    }

    /** The row whose pixels stand for those of row y, which may lie outside. */
    public int row(int y) {
        return y >= 0 && y < height ? y : mirror(y, firstRow, lastRow);
    }

    private static int mirror(int index, int first, int last) {
        return first + Border.mirrorAboutPixel(index - first, last - first + 1);
    }

    /** Fills a one-channel region; positions outside the picture are mirrored. */
    @Override
    public void fill(Planes out) {
        Region r = out.region();
        float[] to = out.channel(0);
        int[] columns = IntStream.range(r.x(), r.right()).map(this::column).toArray();
        int left = Math.min(columns.length, Math.max(0, -r.x()));
        int right = Math.max(left, Math.min(columns.length, width - r.x()));
        float[][] levels = new float[blackHeight][];
        float[][] scales = new float[blackHeight][];
        for (int y = r.y(); y < r.bottom(); y++) {
            int sy = row(y);
            int phase = sy % blackHeight;
            if (levels[phase] == null) {
                levels[phase] = new float[columns.length];
                scales[phase] = new float[columns.length];
                for (int i = 0; i < columns.length; i++) {
                    int b = phase * blackWidth + columns[i] % blackWidth;
                    levels[phase][i] = black[b] + columnBlack[columns[i]];
                    scales[phase][i] = scale[b];
                }
            }
            int from = (y - r.y()) * r.width();
            fillRow(sy * width + r.x(), left, right, levels[phase], rowBlack[sy], scales[phase], to, from);
            for (int i = left > 0 ? 0 : right; i < columns.length; i = i + 1 == left ? right : i + 1) {
                float level = levels[phase][i] + rowBlack[sy];
                to[from + i] = linear(samples[sy * width + columns[i]] & 0xffff, level, scales[phase][i]);
            }
        }
    }

    /** Neighbouring samples, which the compiler takes several at a time. */
    private void fillRow(
            int first, int left, int right, float[] levels, float rowLevel, float[] scales, float[] to, int from) {
        if (ownLevels) {
            for (int i = left; i < right; i++) {
                to[from + i] = linear(samples[first + i] & 0xffff, levels[i] + rowLevel, scales[i]);
            }
            return;
        }
        for (int i = left; i < right; i++) {
            to[from + i] = ((samples[first + i] & 0xffff) - levels[i]) * scales[i];
        }
    }
}
