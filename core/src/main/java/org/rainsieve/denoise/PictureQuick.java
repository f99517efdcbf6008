package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.StabilisingTransform;

/**
 * {@link Quick} for pictures in full colour. Their noise is no longer independent from pixel to pixel and colour to colour
 * (demosaicing, a camera's own processing, compression), so after stabilising and rotating into luminance and two colour
 * differences its size is measured scale by scale on the smoothest parts of the picture, once for the whole picture.
 */
public final class PictureQuick {
    private static final int LEVELS = 5;
    /** On every side, for all levels of the shrinkage. */
    public static final int MARGIN = Shrinkage.reach(LEVELS);

    private static final int PATCH = 96;
    private static final int MOST_PATCHES = 240;
    /** Share of the patches that counts as smooth. (Common practice.) */
    private static final double SMOOTH = 0.2;

    private final StabilisingTransform[] transforms = new StabilisingTransform[3];
    private final float[][] noise;

    /** @param law of the picture's noise, pixel by pixel */
    public PictureQuick(Picture picture, NoiseModel law) {
        for (int c = 0; c < 3; c++) {
            transforms[c] = new StabilisingTransform(law.a().get(c), law.b().get(c), StabilisedCells.LARGEST);
        }
        noise = measured(picture);
    }

    /** @return the estimate over the region of {@code noisy}, exact inside the margin */
    public Planes estimate(Planes noisy) {
        Region r = noisy.region();
        float[][] planes = stabilised(noisy);
        for (int p = 0; p < 3; p++) {
            new Shrinkage(r.width(), r.height(), noise[p]).apply(planes[p]);
        }
        Planes out = new Planes(r, 3);
        for (int i = 0; i < planes[0].length; i++) {
            float light = planes[0][i] / ROOT_3;
            float redBlue = planes[1][i] / ROOT_2;
            float green = planes[2][i] / ROOT_6;
            out.channel(0)[i] = transforms[0].inverse(light + redBlue - green);
            out.channel(1)[i] = transforms[1].inverse(light + 2 * green);
            out.channel(2)[i] = transforms[2].inverse(light - redBlue - green);
        }
        return out;
    }

    private static final float ROOT_2 = (float) Math.sqrt(2);
    private static final float ROOT_3 = (float) Math.sqrt(3);
    private static final float ROOT_6 = (float) Math.sqrt(6);

    /** Luminance, red against blue, green against both: orthonormal. */
    private float[][] stabilised(Planes noisy) {
        float[][] planes = new float[3][noisy.channel(0).length];
        for (int i = 0; i < planes[0].length; i++) {
            float r = transforms[0].forward(noisy.channel(0)[i]);
            float g = transforms[1].forward(noisy.channel(1)[i]);
            float b = transforms[2].forward(noisy.channel(2)[i]);
            planes[0][i] = (r + g + b) / ROOT_3;
            planes[1][i] = (r - b) / ROOT_2;
            planes[2][i] = (2 * g - r - b) / ROOT_6;
        }
        return planes;
    }

    /** Variances of the finest diagonal details at each level, of each plane. */
    private float[][] measured(Picture picture) {
        int across = Math.max(1, picture.width() / PATCH);
        int down = Math.max(1, picture.height() / PATCH);
        int stride = Math.max(1, (int) Math.ceil(Math.sqrt((double) across * down / MOST_PATCHES)));
        int patches = ((across + stride - 1) / stride) * ((down + stride - 1) / stride);
        float[][][] found = new float[3][LEVELS][patches];
        int n = 0;
        for (int y = 0; y < down; y += stride) {
            for (int x = 0; x < across; x += stride) {
                Planes patch = new Planes(new Region(x * PATCH, y * PATCH, PATCH, PATCH), 3);
                picture.fill(patch);
                float[][] planes = stabilised(patch);
                for (int p = 0; p < 3; p++) {
                    float[] variances = Shrinkage.detailVariances(planes[p], PATCH, PATCH, LEVELS);
                    for (int j = 0; j < LEVELS; j++) {
                        found[p][j][n] = variances[j];
                    }
                }
                n++;
            }
        }
        float[][] out = new float[3][LEVELS];
        for (int p = 0; p < 3; p++) {
            for (int j = 0; j < LEVELS; j++) {
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
