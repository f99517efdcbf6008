package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.StabilisingTransform;

/**
 * A picture in full colour made stable in its noise and rotated into luminance and two colour differences; and how large
 * its noise is there, scale by scale, read on its smoothest parts.
 */
final class StabilisedPicture {
    private static final int PATCH = 96;
    private static final int MOST_PATCHES = 240;
    /** Share of the patches that counts as smooth. (Common practice.) */
    private static final double SMOOTH = 0.2;

    private static final double GREY = 0.18;

    /** Of a grey: less than rounding to 8 bits makes, so that edges and texture are all there is to go by. */
    private static final double NO_NOISE = 1e-7;

    private static final float ROOT_2 = (float) Math.sqrt(2);
    private static final float ROOT_3 = (float) Math.sqrt(3);
    private static final float ROOT_6 = (float) Math.sqrt(6);

    private final StabilisingTransform[] transforms = new StabilisingTransform[3];
    private final BrightnessCurve[] curves = new BrightnessCurve[3];

    /** @param law of the picture's noise, pixel by pixel */
    StabilisedPicture(NoiseModel law) {
        for (int c = 0; c < 3; c++) {
            transforms[c] = new StabilisingTransform(law.a().get(c), law.b().get(c), StabilisedCells.LARGEST);
        }
    }

    /** The same, with what brightness does to the noise of this picture beyond the law. */
    StabilisedPicture(Picture picture, NoiseModel law) {
        this(law);
        for (int c = 0; c < 3 && law.variance(1, GREY) > NO_NOISE; c++) {
            curves[c] = BrightnessCurve.of(picture, c, transforms[c]);
        }
    }

    private float stable(int c, float value) {
        float t = transforms[c].forward(value);
        return curves[c] == null ? t : curves[c].forward(t);
    }

    private float linear(int c, float value) {
        return transforms[c].inverse(curves[c] == null ? value : curves[c].inverse(value));
    }

    /** Luminance, red against blue, green against both: orthonormal. */
    float[][] forward(Planes noisy) {
        float[][] planes = new float[3][noisy.channel(0).length];
        for (int i = 0; i < planes[0].length; i++) {
            float r = stable(0, noisy.channel(0)[i]);
            float g = stable(1, noisy.channel(1)[i]);
            float b = stable(2, noisy.channel(2)[i]);
            planes[0][i] = (r + g + b) / ROOT_3;
            planes[1][i] = (r - b) / ROOT_2;
            planes[2][i] = (2 * g - r - b) / ROOT_6;
        }
        return planes;
    }

    Planes inverse(float[][] planes, Region r) {
        Planes out = new Planes(r, 3);
        for (int i = 0; i < planes[0].length; i++) {
            float light = planes[0][i] / ROOT_3;
            float redBlue = planes[1][i] / ROOT_2;
            float green = planes[2][i] / ROOT_6;
            out.channel(0)[i] = linear(0, light + redBlue - green);
            out.channel(1)[i] = linear(1, light + 2 * green);
            out.channel(2)[i] = linear(2, light - redBlue - green);
        }
        return out;
    }

    /** Variances of the finest diagonal details at each level, of each plane. */
    float[][] scales(Picture picture, int levels) {
        int across = Math.max(1, picture.width() / PATCH);
        int down = Math.max(1, picture.height() / PATCH);
        int stride = Math.max(1, (int) Math.ceil(Math.sqrt((double) across * down / MOST_PATCHES)));
        int patches = ((across + stride - 1) / stride) * ((down + stride - 1) / stride);
        float[][][] found = new float[3][levels][patches];
        int n = 0;
        for (int y = 0; y < down; y += stride) {
            for (int x = 0; x < across; x += stride) {
                Planes patch = new Planes(new Region(x * PATCH, y * PATCH, PATCH, PATCH), 3);
                picture.fill(patch);
                float[][] planes = forward(patch);
                for (int p = 0; p < 3; p++) {
                    float[] variances = Shrinkage.detailVariances(planes[p], PATCH, PATCH, levels);
                    for (int j = 0; j < levels; j++) {
                        found[p][j][n] = variances[j];
                    }
                }
                n++;
            }
        }
        float[][] out = new float[3][levels];
        for (int p = 0; p < 3; p++) {
            for (int j = 0; j < levels; j++) {
                float[] sorted = found[p][j];
                // Patches that are clipped or empty throughout have no noise at all and tell nothing.
                Arrays.sort(sorted, 0, n);
                int first = 0;
                while (first < n - 1 && sorted[first] < 1e-6f) {
                    first++;
                }
                out[p][j] = Math.max(1e-6f, sorted[first + (int) (SMOOTH * (n - first))]);
            }
        }
        return out;
    }
}
