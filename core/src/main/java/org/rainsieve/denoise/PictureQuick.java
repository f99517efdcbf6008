package org.rainsieve.denoise;

import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/**
 * {@link Quick} for pictures in full colour. Their noise is no longer independent from pixel to pixel and colour to colour
 * (demosaicing, a camera's own processing, compression), so after stabilising and rotating into luminance and two colour
 * differences its size is measured scale by scale on the smoothest parts of the picture, once for the whole picture.
 */
final class PictureQuick implements PictureMethod {
    private static final int LEVELS = 5;

    private final StabilisedPicture stabilised;
    private final float[][] noise;

    /** @param law of the picture's noise, pixel by pixel */
    PictureQuick(Picture picture, NoiseModel law) {
        stabilised = new StabilisedPicture(picture, law);
        noise = stabilised.scales(picture, LEVELS);
    }

    @Override
    public int margin() {
        return Shrinkage.reach(LEVELS);
    }

    @Override
    public Planes estimate(Planes noisy) {
        float[][] planes = stabilised.forward(noisy);
        shrink(planes, noisy.region());
        return stabilised.inverse(planes, noisy.region());
    }

    /** Denoises stabilised planes in place. */
    void shrink(float[][] planes, Region r) {
        for (int p = 0; p < 3; p++) {
            new Shrinkage(r.width(), r.height(), noise[p]).apply(planes[p]);
        }
    }

    StabilisedPicture stabilised() {
        return stabilised;
    }

    /** Variance of the noise of each stabilised plane, scale by scale. */
    float[][] noise() {
        return noise;
    }
}
