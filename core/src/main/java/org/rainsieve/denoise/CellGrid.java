package org.rainsieve.denoise;

import java.nio.FloatBuffer;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.RootScale;

/**
 * The cells of 2 × 2 pixels that cover a region, as a network works on them: laid alike over the frame in every tile, and as
 * many each way as the network can halve three times. Plane {@code 4·c + k} holds colour c at position k of each cell.
 *
 * @param left of the first cell, in px of the frame
 * @param across cells in a row
 * @param down rows of cells
 */
record CellGrid(int left, int top, int across, int down) {
    /** Four positions of each of three colours. */
    static final int PLANES = 12;

    /** What a network's first layers reduce by. */
    private static final int ALIGNED_PX = 16;

    static CellGrid over(Region r) {
        return from(r, aligned(r.x()), aligned(r.y()));
    }

    /** Of a 2×2 mosaic the first cell begins at a red photosite. */
    static CellGrid overBayer(Region r, CfaPattern pattern) {
        int left = aligned(r.x());
        int top = aligned(r.y());
        left += pattern.colourAt(left, top) == 0 || pattern.colourAt(left, top + 1) == 0 ? 0 : 1;
        top += pattern.colourAt(left, top) == 0 ? 0 : 1;
        return from(r, left, top);
    }

    private static CellGrid from(Region r, int left, int top) {
        return new CellGrid(left, top, cells(r.right() - left), cells(r.bottom() - top));
    }

    private static int aligned(int px) {
        return Math.floorDiv(px, ALIGNED_PX) * ALIGNED_PX;
    }

    private static int cells(int px) {
        return (px + ALIGNED_PX - 1) / ALIGNED_PX * (ALIGNED_PX / 2);
    }

    int count() {
        return across * down;
    }

    /** The nearest place of the same phase of a pattern within [from, to). */
    static int inside(int at, int from, int to, int period) {
        if (at < from) {
            return from + Math.floorMod(at - from, period);
        }
        return at < to ? at : to - period + Math.floorMod(at - to, period);
    }

    /**
     * The region's pixels of what a network answered.
     *
     * @param gains that the values were multiplied by before they were scaled
     */
    Planes picture(FloatBuffer answer, Region r, double[] gains, RootScale scale) {
        Planes out = new Planes(r, 3);
        float[] row = new float[across];
        float[] linear = new float[across];
        for (int p = 0; p < PLANES; p++) {
            int c = p / 4;
            int first = left + (p & 1);
            float unbalance = (float) (1 / gains[c]);
            float[] to = out.channel(c);
            int from = Math.max(0, (r.x() - first + 1) / 2);
            int end = Math.min(across, (r.right() - first + 1) / 2);
            for (int cy = 0; cy < down; cy++) {
                int y = top + 2 * cy + (p >> 1 & 1);
                if (y < r.y() || y >= r.bottom()) {
                    continue;
                }
                answer.get(p * count() + cy * across, row);
                scale.inverse(row, linear);
                int i = out.index(first + 2 * from, y);
                for (int cx = from; cx < end; cx++, i += 2) {
                    to[i] = linear[cx] * unbalance;
                }
            }
        }
        return out;
    }
}
