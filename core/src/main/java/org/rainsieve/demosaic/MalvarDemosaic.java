package org.rainsieve.demosaic;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Linear 5×5 demosaicing with the published coefficients: Malvar, He, Cutler, ICASSP 2004, figure 2. For drafts and
 * thumbnails.
 */
public final class MalvarDemosaic {
    public static final int MARGIN = 2;

    private final CfaPattern pattern;

    public MalvarDemosaic(CfaPattern pattern) {
        this.pattern = pattern;
    }

    /** @param mosaic one channel over the out region grown by at least {@link #MARGIN} */
    public void interpolate(Planes mosaic, Planes out) {
        Region r = out.region();
        int w = mosaic.region().width();
        float[] m = mosaic.channel(0);
        for (int y = r.y(); y < r.bottom(); y++) {
            for (int x = r.x(); x < r.right(); x++) {
                int i = mosaic.index(x, y);
                int o = out.index(x, y);
                int own = pattern.colourAt(x, y);
                float across = m[i - 1] + m[i + 1];
                float down = m[i - w] + m[i + w];
                float across2 = m[i - 2] + m[i + 2];
                float down2 = m[i - 2 * w] + m[i + 2 * w];
                float corners = m[i - w - 1] + m[i - w + 1] + m[i + w - 1] + m[i + w + 1];
                out.channel(own)[o] = m[i];
                if (own == 1) {
                    int beside = pattern.colourAt(x + 1, y);
                    out.channel(beside)[o] = (5 * m[i] + 4 * across - across2 - corners + down2 / 2) / 8;
                    out.channel(2 - beside)[o] = (5 * m[i] + 4 * down - down2 - corners + across2 / 2) / 8;
                } else {
                    out.channel(1)[o] = (4 * m[i] + 2 * (across + down) - across2 - down2) / 8;
                    out.channel(2 - own)[o] = (6 * m[i] + 2 * corners - 1.5f * (across2 + down2)) / 8;
                }
            }
        }
    }
}
