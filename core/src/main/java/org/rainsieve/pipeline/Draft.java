package org.rainsieve.pipeline;

import org.rainsieve.demosaic.MalvarDemosaic;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** A reduced rendering of a mosaic as it is, for thumbnails and overviews: fast, not denoised. */
public final class Draft {
    private static final int BAND = 128;

    private Draft() {}

    public static ReducedPicture of(Mosaic mosaic, int longEdgePx) {
        ReducedPicture picture = new ReducedPicture(mosaic.width(), mosaic.height(), longEdgePx);
        MalvarDemosaic demosaic = new MalvarDemosaic(mosaic.pattern());
        int bands = (mosaic.height() + BAND - 1) / BAND;
        for (int i = 0; i < bands; i++) {
            Region band = new Region(0, i * BAND, mosaic.width(), Math.min(BAND, mosaic.height() - i * BAND));
            Planes noisy = new Planes(band.grow(MalvarDemosaic.MARGIN), 1);
            mosaic.fill(noisy);
            Planes rgb = new Planes(band, 3);
            demosaic.interpolate(noisy, rgb);
            picture.add(rgb);
        }
        return picture;
    }
}
