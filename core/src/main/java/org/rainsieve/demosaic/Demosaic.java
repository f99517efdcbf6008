package org.rainsieve.demosaic;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.RootScale;

/**
 * Directional demosaicing in two parts: which neighbours are to be trusted is decided on one mosaic and may be applied to
 * another. Given the decision, everything is linear in the mosaic (in its brightness scale).
 */
public interface Demosaic {
    /** Pixels around a region that the decision and the interpolation together look at. */
    int margin();

    /** The trusted directions of each pixel of the mosaic's region; exact inside the region less {@link #margin()}. */
    byte[] decide(Planes mosaic);

    /**
     * Interpolates all three colours.
     *
     * @param mosaic one channel over the out region grown by at least {@link #margin()}
     * @param decision over the mosaic's region, by this object or another for the same pattern
     */
    void interpolate(Planes mosaic, byte[] decision, Planes out);

    /**
     * The demosaic for a pattern.
     *
     * @param gains white-balance gains of red, green, blue: colour differences are smooth only where grey is grey, so
     *     the work is done on balanced values and given back unbalanced
     * @param scale brightness scale in which to work, or null for linear light. A scale suits clean mosaics (on
     *     photographs it gains 2 to 5 dB as shown, because dark colours beside light ones do not overshoot); linear light
     *     suits noisy ones and differences, whose mean must not move
     */
    static Demosaic of(CfaPattern pattern, double[] gains, RootScale scale) {
        return pattern.isBayer()
                ? new MenonDemosaic(pattern, gains, scale)
                : new SixBySixDemosaic(pattern, gains, scale);
    }
}
