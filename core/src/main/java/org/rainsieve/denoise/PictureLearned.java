package org.rainsieve.denoise;

import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;

/**
 * {@link Learned} for one picture in full colour, by the network trained for those. Where there is next to no noise its own
 * error is the larger one: there {@link PictureQuick} takes over, by degrees.
 */
final class PictureLearned implements PictureMethod {
    /** Fine luminance noise in {@link PictureLevels#SCALE} up to which the network has no say, and from which it alone has. */
    private static final float NONE = 0.003f;

    private static final float ALL = 0.009f;
    private static final int FINE = 7;

    private final Learned network;
    private final float[] levels;
    private final float share;
    private final PictureQuick quick;

    PictureLearned(Picture picture, NoiseModel law, Learned network) {
        this.network = network;
        this.levels = PictureLevels.of(picture, law);
        float at = Math.max(0, Math.min(1, (levels[FINE] - NONE) / (ALL - NONE)));
        this.share = at * at * (3 - 2 * at);
        this.quick = share < 1 ? new PictureQuick(picture, law) : null;
    }

    @Override
    public int margin() {
        return quick == null ? Learned.MARGIN : Math.max(Learned.MARGIN, quick.margin());
    }

    @Override
    public Planes estimate(Planes noisy) {
        if (share == 0) {
            return quick.estimate(noisy);
        }
        Planes learned = network.estimate(noisy, levels);
        if (share == 1) {
            return learned;
        }
        Planes plain = quick.estimate(noisy);
        for (int c = 0; c < 3; c++) {
            float[] to = learned.channel(c);
            float[] from = plain.channel(c);
            for (int i = 0; i < to.length; i++) {
                to[i] = from[i] + share * (to[i] - from[i]);
            }
        }
        return learned;
    }
}
