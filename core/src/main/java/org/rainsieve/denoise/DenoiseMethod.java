package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.SensorNoise;

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
    Planes estimate(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains);
}
