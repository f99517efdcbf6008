package org.rainsieve.noise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Repairs single photosites of a 2×2 mosaic that answer far too bright or not at all. Stars are told from them by their
 * neighbours of other colours: a lens spreads a star over more than a pixel and over all colours, a defect stands alone.
 * Everything looked at lies within {@value #MARGIN} pixels.
 */
public final class HotPixels {
    public static final int MARGIN = 4;

    /** Defects stand this many sd away from the median of their neighbours of the same colour… */
    private static final double FROM_MIDDLE_SD = 8;

    /** …and this many beyond the furthest of the nearest four. */
    private static final double FROM_NEAREST_SD = 4;

    /**
     * Share of a photosite's own excess that its four direct neighbours show on average if it is light: a Gaussian star
     * of FWHM 1.8 pixels centred on a photosite shows 0.42 there; a third of that is asked, for tint and noise.
     */
    private static final double LIGHT_SHARE = 0.13;

    private final CfaPattern pattern;
    private final NoiseModel noise;
    private final double[] gains;

    /** @param gains white-balance gains, which make the excess of different colours comparable */
    public HotPixels(CfaPattern pattern, NoiseModel noise, double[] gains) {
        this.pattern = pattern;
        this.noise = noise;
        this.gains = gains.clone();
    }

    /**
     * Repairs in place, all decisions being taken on the mosaic as it was.
     *
     * @return how many photosites were repaired
     */
    public int repair(Planes mosaic) {
        Region r = mosaic.region();
        int w = r.width();
        float[] out = mosaic.channel(0);
        float[] m = out.clone();
        int repaired = 0;
        // The sd is never less than at black.
        double darkest = noise.b().stream().mapToDouble(b -> b).min().orElse(0);
        float least = (float) (0.999 * FROM_NEAREST_SD * Math.sqrt(darkest));
        for (int y = MARGIN; y < r.height() - MARGIN; y++) {
            for (int i = y * w + MARGIN; i < y * w + w - MARGIN; i++) {
                float v = m[i];
                float high = Math.max(Math.max(m[i - 2], m[i + 2]), Math.max(m[i - 2 * w], m[i + 2 * w]));
                float low = Math.min(Math.min(m[i - 2], m[i + 2]), Math.min(m[i - 2 * w], m[i + 2 * w]));
                if (v <= high + least && v >= low - least) {
                    continue; // as nearly all are, without a look at the rest
                }
                int colour = pattern.colourAt(r.x() + i - y * w, r.y() + y);
                float middle = middle(m, i, w);
                double sd = Math.sqrt(noise.variance(colour, middle));
                boolean hot = v > middle + FROM_MIDDLE_SD * sd && v > high + FROM_NEAREST_SD * sd;
                boolean dead = v < middle - FROM_MIDDLE_SD * sd && v < low - FROM_NEAREST_SD * sd && v < 0.5 * middle;
                if ((hot || dead) && standsAlone(m, i, w, r, y, v - middle, colour)) {
                    out[i] = middle;
                    repaired++;
                }
            }
        }
        return repaired;
    }

    /** The neighbours' excess after white balance, each weighted by how little noise its balanced value has. */
    private boolean standsAlone(float[] m, int i, int w, Region r, int y, double excess, int colour) {
        double sum = 0;
        double weights = 0;
        int[] steps = {-1, 1, -w, w};
        for (int k = 0; k < 4; k++) {
            int x = r.x() + i - y * w + (k == 0 ? -1 : k == 1 ? 1 : 0);
            int row = r.y() + y + (k == 2 ? -1 : k == 3 ? 1 : 0);
            double gain = gains[pattern.colourAt(x, row)];
            double weight = 1 / (gain * gain);
            sum += weight * gain * (m[i + steps[k]] - middle(m, i + steps[k], w));
            weights += weight;
        }
        return sum / weights * Math.signum(excess) < LIGHT_SHARE * Math.abs(excess) * gains[colour];
    }

    /** The median of the eight nearest of the same colour, as the mean of the middle two. */
    private static float middle(float[] m, int i, int w) {
        float[] near = {
            m[i - 2],
            m[i + 2],
            m[i - 2 * w],
            m[i + 2 * w],
            m[i - 2 * w - 2],
            m[i - 2 * w + 2],
            m[i + 2 * w - 2],
            m[i + 2 * w + 2]
        };
        java.util.Arrays.sort(near);
        return (near[3] + near[4]) / 2;
    }
}
