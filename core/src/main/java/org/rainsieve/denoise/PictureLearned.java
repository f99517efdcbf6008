package org.rainsieve.denoise;

import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;

/** {@link Learned} for one picture in full colour, by the network trained for those. */
final class PictureLearned implements PictureMethod {
    private final Learned network;
    private final float[] levels;

    PictureLearned(Picture picture, NoiseModel law, Learned network) {
        this.network = network;
        this.levels = PictureLevels.of(picture, law);
    }

    @Override
    public int margin() {
        return Learned.MARGIN;
    }

    @Override
    public Planes estimate(Planes noisy) {
        return network.estimate(noisy, levels);
    }
}
