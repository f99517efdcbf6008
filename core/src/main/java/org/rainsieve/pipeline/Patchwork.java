package org.rainsieve.pipeline;

import java.util.function.Function;
import org.rainsieve.frame.Region;

/** One value a pixel for any region, put together from canonical tiles. */
final class Patchwork {
    private Patchwork() {}

    /**
     * @param bounds of the frame; what lies outside is 0
     * @param sizePx of the tiles
     * @param tile the values of one of them, cut to the frame, row by row
     */
    static float[] of(Region region, Region bounds, int sizePx, Function<Region, float[]> tile) {
        float[] out = new float[Math.toIntExact(region.area())];
        Region inside = region.intersect(bounds);
        for (int ty = inside.y() / sizePx; ty <= (inside.bottom() - 1) / sizePx; ty++) {
            for (int tx = inside.x() / sizePx; tx <= (inside.right() - 1) / sizePx; tx++) {
                Region whole = new Region(tx * sizePx, ty * sizePx, sizePx, sizePx).intersect(bounds);
                float[] values = tile.apply(whole);
                Region shared = whole.intersect(region);
                for (int y = shared.y(); y < shared.bottom(); y++) {
                    System.arraycopy(
                            values,
                            (y - whole.y()) * whole.width() + shared.x() - whole.x(),
                            out,
                            (y - region.y()) * region.width() + shared.x() - region.x(),
                            shared.width());
                }
            }
        }
        return out;
    }
}
