package org.rainsieve.denoise;

import org.rainsieve.frame.Picture;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.RootScale;

/**
 * What the trained method is told of the noise of a picture in full colour, in the scale that it works in: the noise's
 * standard deviation in each colour in the light and in the dark, then of luminance and of colour at three scales, for
 * such noise is not independent from pixel to pixel.
 */
public final class PictureLevels {
    public static final int COUNT = 12;

    /** The same for all pictures: near to how displays encode, and straight in the deepest shadows. */
    public static final RootScale SCALE = new RootScale(0.004f);

    private static final double LIGHT = 0.4;
    private static final double DARK = 0.01;
    private static final double MIDDLE = 0.18;
    private static final int SCALES = 3;

    private PictureLevels() {}

    public static float[] of(Picture picture, NoiseModel law) {
        float[] levels = new float[COUNT];
        double middle = 0;
        for (int c = 0; c < 3; c++) {
            levels[c] = inScale(law, c, LIGHT);
            levels[3 + c] = inScale(law, c, DARK);
            middle += inScale(law, c, MIDDLE) / 3;
        }
        float[][] variances = new StabilisedPicture(law).scales(picture, SCALES);
        for (int j = 0; j < SCALES; j++) {
            levels[6 + j] = (float) (middle * Math.sqrt(variances[0][j]));
            levels[9 + j] = (float) (middle * Math.sqrt((variances[1][j] + variances[2][j]) / 2));
        }
        return levels;
    }

    private static float inScale(NoiseModel law, int colour, double x) {
        return (float) (Math.sqrt(law.variance(colour, x)) / (2 * Math.sqrt(x + SCALE.offset())));
    }
}
