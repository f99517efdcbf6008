package org.rainsieve.scene;

import java.util.Arrays;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * A thin lens: what lies at another distance than the focus becomes discs of radius aperturePx · |1 − focus/depth|.
 *
 * @param aperturePx radius of the disc of a point infinitely far away
 */
record Optic(double focusMetres, double aperturePx) {

    double radiusPx(double depth) {
        return aperturePx * Math.abs(1 - focusMetres / depth);
    }

    /**
     * Blurs a picture whose depth changes smoothly, as ground and background do: slices of like blur, each blurred whole,
     * joined by their blurred weights.
     *
     * @param rgb three channels
     * @param depth one channel
     */
    Planes throughDepth(Planes rgb, Planes depth) {
        Region region = rgb.region();
        int n = rgb.channel(0).length;
        float[] signed = new float[n];
        float least = Float.MAX_VALUE;
        float most = -Float.MAX_VALUE;
        for (int i = 0; i < n; i++) {
            signed[i] = (float) (aperturePx * (1 - focusMetres / depth.channel(0)[i]));
            least = Math.min(least, signed[i]);
            most = Math.max(most, signed[i]);
        }
        double[] centres = centres(least, most);
        Planes sum = new Planes(region, 3);
        float[] weights = new float[n];
        for (int s = 0; s < centres.length; s++) {
            Planes slice = new Planes(region, 4);
            boolean any = false;
            for (int i = 0; i < n; i++) {
                float weight = (float) weight(centres, s, signed[i]);
                if (weight > 0) {
                    any = true;
                    for (int c = 0; c < 3; c++) {
                        slice.channel(c)[i] = rgb.channel(c)[i] * weight;
                    }
                    slice.channel(3)[i] = weight;
                }
            }
            if (!any) {
                continue;
            }
            Planes blurred = DiscBlur.blur(slice, Math.abs(centres[s]));
            for (int i = 0; i < n; i++) {
                for (int c = 0; c < 3; c++) {
                    sum.channel(c)[i] += blurred.channel(c)[i];
                }
                weights[i] += blurred.channel(3)[i];
            }
        }
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < n; i++) {
                sum.channel(c)[i] /= Math.max(1e-6f, weights[i]);
            }
        }
        return sum;
    }

    /** Radii of the slices, dense near sharpness, by ratio further out. */
    private static double[] centres(double least, double most) {
        double[] steps = {0, 1.2, 3, 6, 11, 19, 32, 54, 90, 150};
        return Arrays.stream(steps)
                .flatMap(r -> r == 0 ? Arrays.stream(new double[] {0}) : Arrays.stream(new double[] {-r, r}))
                .filter(r -> r >= least * 1.7 - 3 && r <= most * 1.7 + 3)
                .sorted()
                .toArray();
    }

    private static double weight(double[] centres, int s, double value) {
        double here = centres[s];
        if (value < here) {
            if (s == 0) {
                return 1;
            }
            return Math.max(0, (value - centres[s - 1]) / (here - centres[s - 1]));
        }
        if (s == centres.length - 1) {
            return 1;
        }
        return Math.max(0, (centres[s + 1] - value) / (centres[s + 1] - here));
    }
}
