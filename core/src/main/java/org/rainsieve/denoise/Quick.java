package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.SensorNoise;

/**
 * The fast method: undecimated wavelet shrinkage of the four half-size colour planes of a 2×2 mosaic, stabilised and
 * rotated into one luminance and three colour differences. Thresholds after BayesShrink (Chang, Yu, Vetterli, IEEE TIP
 * 9(9), 2000) with the noise law's sd (1 after stabilising) and the signal's variance from a fixed window around each
 * coefficient, never from the whole frame. For 6×6 mosaics see {@link QuickSixBySix}.
 */
public final class Quick implements DenoiseMethod {
    private static final int LEVELS = 4;
    private static final int MARGIN = 2 * Shrinkage.reach(LEVELS);

    @Override
    public int margin(CfaPattern pattern) {
        return pattern.isBayer() ? MARGIN : QuickSixBySix.MARGIN;
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        if (!pattern.isBayer()) {
            return new QuickSixBySix(noisy.region(), pattern, noise, gains).estimate(noisy);
        }
        StabilisedCells cells = new StabilisedCells(noisy.region(), pattern, noise);
        float[][] planes = cells.split(noisy);
        Shrinkage shrinkage = new Shrinkage(cells.width, cells.height, LEVELS);
        for (float[] plane : planes) {
            shrinkage.apply(plane);
        }
        return cells.join(planes);
    }
}
