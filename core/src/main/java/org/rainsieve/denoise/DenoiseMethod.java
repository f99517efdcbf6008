package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;

/**
 * A way to estimate the clean mosaic, or the clean picture at once. Given the same pixels it gives the same answer, and it looks no further than its
 * margin, so that tiles fit together without seams.
 */
public interface DenoiseMethod {
    /** Pixels around a region on which the estimate depends; even, so that colours stay in place. */
    int margin(CfaPattern pattern);

    /**
     * @param noisy one channel; its region begins anywhere and is at least twice the margin wide and high
     * @param gains white-balance gains of red, green, blue: what is grey tells which colours belong together
     * @return the estimate over the same region, exact inside the margin: one channel, the mosaic, or all three colours
     * @throws IllegalArgumentException in plain words for a pattern that the method cannot work on
     */
    Planes estimate(Planes noisy, CfaPattern pattern, NoiseModel noise, double[] gains);

    /** Where the sensor clipped there is nothing to estimate, and colour must not bleed in: both mosaics over the same region. */
    static void keepClipped(Planes noisy, Planes clean) {
        float[] from = noisy.channel(0);
        float[] to = clean.channel(0);
        for (int i = 0; i < to.length; i++) {
            if (from[i] >= 1) {
                to[i] = from[i];
            }
        }
    }
}
