package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.SensorNoise;

/**
 * The fast method for 6×6 mosaics, whose colours lie too far apart to be denoised one by one. The stabilised and balanced
 * mosaic is a brightness at full resolution plus a colour that changes slowly: colours are averaged in 3×3 cells (each
 * holds all three) and shrunk there; what is left after taking them away is one grey plane, shrunk at full resolution.
 * Twice, so that the second time brightness is known when colours are averaged.
 */
final class QuickSixBySix {
    private static final int CELL = 3;
    private static final int[] COLOUR_LEVELS = {2, 3};
    private static final int[] GREY_LEVELS = {3, 4};

    static final int MARGIN = 2
            + CELL * (Shrinkage.reach(COLOUR_LEVELS[0]) + Shrinkage.reach(COLOUR_LEVELS[1]) + 4)
            + Shrinkage.reach(GREY_LEVELS[0])
            + Shrinkage.reach(GREY_LEVELS[1]);

    private final Region region;
    private final int w;
    private final int h;
    /** The first column and row that begin a cell of the grid counted from sensor (0, 0), and the number of cells. */
    private final int left;

    private final int top;
    private final int across;
    private final int down;
    private final BalancedMosaic balanced;
    private final byte[] colours;

    QuickSixBySix(Region region, CfaPattern pattern, SensorNoise noise, double[] gains) {
        this.region = region;
        w = region.width();
        h = region.height();
        left = Math.floorMod(-region.x(), CELL);
        top = Math.floorMod(-region.y(), CELL);
        across = (w - left) / CELL;
        down = (h - top) / CELL;
        balanced = new BalancedMosaic(region, pattern, noise, gains);
        colours = balanced.colours;
    }

    Planes estimate(Planes noisy) {
        float[] stabilised = balanced.of(noisy);
        float[] grey = smoothed(stabilised);
        float[] colour = new float[stabilised.length];
        for (int pass = 0; pass < 2; pass++) {
            colourOf(stabilised, grey, COLOUR_LEVELS[pass], colour);
            for (int i = 0; i < stabilised.length; i++) {
                grey[i] = stabilised[i] - colour[i];
            }
            new Shrinkage(w, h, GREY_LEVELS[pass]).apply(grey);
        }
        Planes out = new Planes(region, 1);
        float[] to = out.channel(0);
        for (int i = 0; i < stabilised.length; i++) {
            to[i] = balanced.inverse(colours[i], grey[i] + colour[i]);
        }
        return out;
    }

    /** Averages over 3×3 twice, in which the colours have nearly the shares of the whole pattern. */
    private float[] smoothed(float[] in) {
        float[] once = in.clone();
        for (int pass = 0; pass < 2; pass++) {
            float[] rows = once.clone();
            for (int i = 1; i < once.length - 1; i++) {
                rows[i] = (once[i - 1] + once[i] + once[i + 1]) / 3;
            }
            for (int i = w; i < once.length - w; i++) {
                once[i] = (rows[i - w] + rows[i] + rows[i + w]) / 3;
            }
        }
        return once;
    }

    /** How far each photosite's colour lies from grey, averaged in cells, shrunk and spread over the pixels again. */
    private void colourOf(float[] stabilised, float[] grey, int levels, float[] out) {
        float[][] cells = new float[3][across * down];
        float[] counts = new float[3];
        for (int cy = 0; cy < down; cy++) {
            for (int cx = 0; cx < across; cx++) {
                java.util.Arrays.fill(counts, 0);
                int cell = cy * across + cx;
                for (int k = 0; k < CELL * CELL; k++) {
                    int i = (top + cy * CELL + k / CELL) * w + left + cx * CELL + k % CELL;
                    cells[colours[i]][cell] += stabilised[i] - grey[i];
                    counts[colours[i]]++;
                }
                for (int c = 0; c < 3; c++) {
                    // To unit noise.
                    cells[c][cell] /= (float) Math.sqrt(counts[c]) * balanced.sd(c);
                }
            }
        }
        Shrinkage shrinkage = new Shrinkage(across, down, levels);
        for (int c = 0; c < 3; c++) {
            shrinkage.apply(cells[c]);
            float back = balanced.sd(c) / (float) Math.sqrt(counts[c]);
            for (int i = 0; i < cells[c].length; i++) {
                cells[c][i] *= back;
            }
        }
        spread(cells, out);
    }

    /** Straight lines between the cells' centres. */
    private void spread(float[][] cells, float[] out) {
        for (int y = 0; y < h; y++) {
            int cy = Math.min(Math.max(Math.floorDiv(y - top - 1, CELL), 0), down - 2);
            float fy = Math.min(Math.max((y - top - 1 - cy * CELL) / (float) CELL, 0), 1);
            for (int x = 0; x < w; x++) {
                int cx = Math.min(Math.max(Math.floorDiv(x - left - 1, CELL), 0), across - 2);
                float fx = Math.min(Math.max((x - left - 1 - cx * CELL) / (float) CELL, 0), 1);
                float[] own = cells[colours[y * w + x]];
                int i = cy * across + cx;
                float upper = own[i] + fx * (own[i + 1] - own[i]);
                float lower = own[i + across] + fx * (own[i + across + 1] - own[i + across]);
                out[y * w + x] = upper + fy * (lower - upper);
            }
        }
    }
}
