package org.rainsieve.pipeline;

import org.rainsieve.crop.CropSettings;
import org.rainsieve.enlarge.Lanczos;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.optics.LensMap;
import org.rainsieve.optics.OpticsSettings;

/**
 * Optics, straightening and cropping in one resampling (Lanczos 3), and dark corners taken back. The picture comes out at the
 * size of its crop.
 */
public final class GeometryStep implements PixelSource {
    static final String WORK = "geometry";
    private static final int TAPS = Lanczos.TAPS;
    private static final int PHASES = 2048;
    private static final int CELL = 16;
    private static final int VALUES = 7;
    private static final float[][] WEIGHTS = weights();

    private final PixelSource before;
    private final LensMap lens;
    private final boolean shades;
    private final boolean moves;
    private final int width;
    private final int height;
    private final double left;
    private final double top;
    private final double cos;
    private final double sin;

    /** @param crop already fitted to the frame; one that is off leaves it whole */
    public GeometryStep(PixelSource before, OpticsSettings optics, CropSettings crop) {
        this.before = before;
        boolean corrected = !optics.idle();
        lens = corrected ? new LensMap(optics, before.width(), before.height(), true) : null;
        shades = corrected && optics.shades();
        moves = crop.turns() || corrected && (optics.bends() || optics.fringes());
        int w = before.width();
        int h = before.height();
        if (!crop.idle()) {
            width = crop.widthPx(w);
            height = crop.heightPx(h);
            // Whole pixels: a crop that is not turned moves nothing.
            left = Math.floor((crop.left() + crop.width() / 2) * w - width / 2.0 + 1e-6);
            top = Math.floor((crop.top() + crop.height() / 2) * h - height / 2.0 + 1e-6);
        } else {
            width = w;
            height = h;
            left = 0;
            top = 0;
        }
        double angle = crop.turns() ? Math.toRadians(crop.turnDegrees()) : 0;
        cos = Math.cos(angle);
        sin = Math.sin(angle);
    }

    PixelSource before() {
        return before;
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
        return 3;
    }

    /** Where a pixel of this picture lies in the one before, in one colour. */
    public void map(double x, double y, int colour, double[] to) {
        double dx = x + left - (before.width() - 1) / 2.0;
        double dy = y + top - (before.height() - 1) / 2.0;
        double sx = dx * cos + dy * sin + (before.width() - 1) / 2.0;
        double sy = -dx * sin + dy * cos + (before.height() - 1) / 2.0;
        if (lens == null) {
            to[0] = sx;
            to[1] = sy;
        } else {
            lens.map(sx, sy, colour, to);
        }
    }

    @Override
    public Region inputRegion(Region out) {
        if (!moves) {
            return new Region(out.x() + (int) left, out.y() + (int) top, out.width(), out.height());
        }
        double[] at = new double[2];
        double x0 = Double.MAX_VALUE;
        double y0 = Double.MAX_VALUE;
        double x1 = -Double.MAX_VALUE;
        double y1 = -Double.MAX_VALUE;
        // What a lens bends is smooth: a few places on the rim and inside tell the extent.
        for (int i = 0; i <= 8; i++) {
            for (int j = 0; j <= 8; j++) {
                for (int colour = 0; colour < 3; colour++) {
                    map(out.x() + out.width() * i / 8.0, out.y() + out.height() * j / 8.0, colour, at);
                    x0 = Math.min(x0, at[0]);
                    x1 = Math.max(x1, at[0]);
                    y0 = Math.min(y0, at[1]);
                    y1 = Math.max(y1, at[1]);
                }
            }
        }
        int margin = TAPS / 2 + 2;
        int fromX = (int) Math.floor(x0) - margin;
        int fromY = (int) Math.floor(y0) - margin;
        return new Region(fromX, fromY, (int) Math.ceil(x1) + margin - fromX, (int) Math.ceil(y1) + margin - fromY)
                .intersect(before.bounds());
    }

    @Override
    public void fill(Planes out) {
        Planes from = new Planes(inputRegion(out.region()), 3);
        before.fill(from);
        long begun = System.nanoTime();
        if (moves) {
            resample(from, out);
        } else {
            correctVignetting(from);
            for (int c = 0; c < 3; c++) {
                System.arraycopy(from.channel(c), 0, out.channel(c), 0, out.channel(c).length);
            }
        }
        Pace.note(WORK, System.nanoTime() - begun, out.region().area());
    }

    private void correctVignetting(Planes out) {
        Region r = out.region();
        for (int y = r.y(); shades && y < r.bottom(); y++) {
            for (int x = r.x(); x < r.right(); x++) {
                correctVignetting(out, out.index(x, y), (float) lens.gainAt(x, y));
            }
        }
    }

    /** Where a colour was clipped before it is at white still: it is only ever lightened. */
    private static void correctVignetting(Planes out, int i, float gain) {
        for (int c = 0; c < 3; c++) {
            out.channel(c)[i] *= gain;
        }
    }

    /**
     * Lenses bend smoothly: places are worked out at the corners of cells of {@value #CELL} px, counted from the result's
     * (0, 0), and lie on straight lines between them, which is off by less than 0.01 px.
     */
    private void resample(Planes from, Planes out) {
        Region r = out.region();
        double[] at = new double[2];
        // Of each colour x and y, then the gain; at the cell's corners, then along its sides, then across.
        double[][] corners = new double[4][VALUES];
        double[] left = new double[VALUES];
        double[] right = new double[VALUES];
        double[] here = new double[VALUES];
        for (int y0 = Math.floorDiv(r.y(), CELL) * CELL; y0 < r.bottom(); y0 += CELL) {
            for (int x0 = Math.floorDiv(r.x(), CELL) * CELL; x0 < r.right(); x0 += CELL) {
                for (int k = 0; k < 4; k++) {
                    places(x0 + k % 2 * CELL, y0 + k / 2 * CELL, at, corners[k]);
                }
                int xEnd = Math.min(r.right(), x0 + CELL);
                int yEnd = Math.min(r.bottom(), y0 + CELL);
                for (int y = Math.max(r.y(), y0); y < yEnd; y++) {
                    lerp(corners[0], corners[2], (double) (y - y0) / CELL, left);
                    lerp(corners[1], corners[3], (double) (y - y0) / CELL, right);
                    for (int x = Math.max(r.x(), x0); x < xEnd; x++) {
                        lerp(left, right, (double) (x - x0) / CELL, here);
                        int i = out.index(x, y);
                        for (int c = 0; c < 3; c++) {
                            out.channel(c)[i] = sample(from, c, here[2 * c], here[2 * c + 1]);
                        }
                        if (shades) {
                            correctVignetting(out, i, (float) here[VALUES - 1]);
                        }
                    }
                }
            }
        }
    }

    private void places(int x, int y, double[] at, double[] values) {
        for (int c = 0; c < 3; c++) {
            map(x, y, c, at);
            values[2 * c] = at[0];
            values[2 * c + 1] = at[1];
            if (c == 1 && shades) {
                values[VALUES - 1] = lens.gainAt(at[0], at[1]);
            }
        }
    }

    private static void lerp(double[] from, double[] to, double share, double[] out) {
        for (int i = 0; i < VALUES; i++) {
            out[i] = from[i] + share * (to[i] - from[i]);
        }
    }

    private static float sample(Planes from, int channel, double x, double y) {
        int x0 = (int) Math.floor(x);
        int y0 = (int) Math.floor(y);
        float[] across = WEIGHTS[(int) ((x - x0) * PHASES + 0.5)];
        float[] down = WEIGHTS[(int) ((y - y0) * PHASES + 0.5)];
        Region r = from.region();
        float[] plane = from.channel(channel);
        int left = x0 - TAPS / 2 + 1 - r.x();
        int top = y0 - TAPS / 2 + 1 - r.y();
        float sum = 0;
        if (left >= 0 && top >= 0 && left + TAPS <= r.width() && top + TAPS <= r.height()) {
            for (int j = 0; j < TAPS; j++) {
                int row = (top + j) * r.width() + left;
                sum += down[j]
                        * (across[0] * plane[row]
                                + across[1] * plane[row + 1]
                                + across[2] * plane[row + 2]
                                + across[3] * plane[row + 3]
                                + across[4] * plane[row + 4]
                                + across[5] * plane[row + 5]);
            }
            return sum;
        }
        for (int j = 0; j < TAPS; j++) {
            int row = Math.max(0, Math.min(r.height() - 1, top + j)) * r.width();
            float line = 0;
            for (int i = 0; i < TAPS; i++) {
                line += across[i] * plane[row + Math.max(0, Math.min(r.width() - 1, left + i))];
            }
            sum += down[j] * line;
        }
        return sum;
    }

    private static float[][] weights() {
        float[][] table = new float[PHASES + 1][TAPS];
        for (int phase = 0; phase <= PHASES; phase++) {
            double sum = 0;
            double[] exact = new double[TAPS];
            for (int k = 0; k < TAPS; k++) {
                exact[k] = Lanczos.weight(k - (TAPS / 2 - 1) - (double) phase / PHASES);
                sum += exact[k];
            }
            for (int k = 0; k < TAPS; k++) {
                table[phase][k] = (float) (exact[k] / sum);
            }
        }
        return table;
    }
}
