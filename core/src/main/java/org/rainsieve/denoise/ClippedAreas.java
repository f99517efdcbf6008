package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Clipped areas come out exactly white. A colour is white where all photosites of that colour around are clipped; and at a clipped
 * photosite of its own where half of those around are, or the estimate is next to white, since a single one among darker ones was
 * only lifted there by noise. Whatever an estimate makes of them, colour must not come into highlights.
 */
public final class ClippedAreas {
    /** Within so many pixels lie four of each colour on 2×2, three on 6×6. */
    private static final int RADIUS = 2;

    private static final int RADIUS_SIX = 3;
    private static final float NEARLY_WHITE = 0.99f;

    private ClippedAreas() {}

    /**
     * @param noisy the mosaic after its defects were repaired, with a margin around what is estimated; 1 and above is clipped
     * @param estimate in full colour; set to 1 where it is white
     * @param residual over the same region; set to 0 there
     */
    public static void whiten(Planes noisy, CfaPattern pattern, Planes estimate, Planes residual) {
        Region core = estimate.region();
        forEachNearClipped(noisy, pattern, core, (x, y, colour, sites, white) -> {
            int i = estimate.index(x, y);
            float[] to = estimate.channel(colour);
            boolean own = pattern.colourAt(x, y) == colour && noisy.channel(0)[noisy.index(x, y)] >= 1;
            if (white == sites || own && (2 * white >= sites || to[i] > NEARLY_WHITE)) {
                to[i] = 1;
                residual.channel(colour)[i] = 0;
            }
        });
    }

    /** Keeps clipped photosites of clipped areas at white in an estimate of the mosaic, so that no colour bleeds into them. */
    public static void keep(Planes noisy, CfaPattern pattern, Planes clean) {
        forEachNearClipped(noisy, pattern, clean.region(), (x, y, colour, sites, white) -> {
            if (pattern.colourAt(x, y) == colour && 2 * white >= sites) {
                float value = noisy.channel(0)[noisy.index(x, y)];
                if (value >= 1) {
                    clean.channel(0)[clean.index(x, y)] = value;
                }
            }
        });
    }

    private interface Place {
        /**
         * @param sites photosites of the colour around
         * @param white those of them that are clipped, at least one
         */
        void at(int x, int y, int colour, int sites, int white);
    }

    private static void forEachNearClipped(Planes noisy, CfaPattern pattern, Region core, Place place) {
        int radius = pattern.isBayer() ? RADIUS : RADIUS_SIX;
        Region around = core.grow(radius).intersect(noisy.region());
        if (!anyClipped(noisy, around)) {
            return;
        }
        int stride = around.width() + 1;
        int[] all = new int[stride * (around.height() + 1)];
        int[] clipped = new int[all.length];
        for (int c = 0; c < 3; c++) {
            sums(noisy, pattern, c, around, all, clipped);
            for (int y = core.y(); y < core.bottom(); y++) {
                int top = Math.max(around.y(), y - radius) - around.y();
                int bottom = Math.min(around.bottom(), y + radius + 1) - around.y();
                for (int x = core.x(); x < core.right(); x++) {
                    int left = Math.max(around.x(), x - radius) - around.x();
                    int right = Math.min(around.right(), x + radius + 1) - around.x();
                    int white = within(clipped, stride, left, top, right, bottom);
                    if (white > 0) {
                        place.at(x, y, c, within(all, stride, left, top, right, bottom), white);
                    }
                }
            }
        }
    }

    private static boolean anyClipped(Planes noisy, Region region) {
        float[] values = noisy.channel(0);
        for (int y = region.y(); y < region.bottom(); y++) {
            int from = noisy.index(region.x(), y);
            for (int i = from; i < from + region.width(); i++) {
                if (values[i] >= 1) {
                    return true;
                }
            }
        }
        return false;
    }

    /** Sums from the upper left corner: of the colour's photosites, and of those that are clipped. */
    private static void sums(Planes noisy, CfaPattern pattern, int colour, Region region, int[] all, int[] clipped) {
        int stride = region.width() + 1;
        for (int y = 0; y < region.height(); y++) {
            int sites = 0;
            int white = 0;
            int from = noisy.index(region.x(), region.y() + y);
            for (int x = 0; x < region.width(); x++) {
                if (pattern.colourAt(region.x() + x, region.y() + y) == colour) {
                    sites++;
                    white += noisy.channel(0)[from + x] >= 1 ? 1 : 0;
                }
                int i = (y + 1) * stride + x + 1;
                all[i] = all[i - stride] + sites;
                clipped[i] = clipped[i - stride] + white;
            }
        }
    }

    private static int within(int[] sums, int stride, int left, int top, int right, int bottom) {
        return sums[bottom * stride + right]
                - sums[top * stride + right]
                - sums[bottom * stride + left]
                + sums[top * stride + left];
    }
}
