package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.SensorNoise;
import org.rainsieve.noise.StabilisingTransform;

/**
 * A mosaic as one plane in which grey has the same value in all colours: stabilised by the noise law, each root multiplied by
 * the root of its white-balance gain. The whole is scaled so that noise has sd 1 on average.
 */
final class BalancedMosaic {
    private final StabilisingTransform[] transforms;
    private final float[] balance = new float[3];
    /** Of each photosite. */
    final byte[] colours;

    BalancedMosaic(Region region, CfaPattern pattern, SensorNoise noise, double[] gains) {
        double mean = 0;
        for (int y = 0; y < pattern.height(); y++) {
            for (int x = 0; x < pattern.width(); x++) {
                mean += gains[pattern.colourAt(x, y)] / (pattern.width() * pattern.height());
            }
        }
        transforms = StabilisingTransform.ofColours(noise);
        for (int c = 0; c < 3; c++) {
            balance[c] = (float) Math.sqrt(gains[c] / mean);
        }
        colours = new byte[region.width() * region.height()];
        for (int y = 0; y < region.height(); y++) {
            for (int x = 0; x < region.width(); x++) {
                colours[y * region.width() + x] = (byte) pattern.colourAt(region.x() + x, region.y() + y);
            }
        }
    }

    /** Sd of the noise of a colour. */
    float sd(int colour) {
        return balance[colour];
    }

    float[] of(Planes mosaic) {
        float[] m = mosaic.channel(0);
        float[] plane = new float[m.length];
        for (int i = 0; i < m.length; i++) {
            plane[i] = transforms[colours[i]].forward(m[i]) * balance[colours[i]];
        }
        return plane;
    }

    /** The same of an estimate, which holds no noise: what noisy values at its places would average to. */
    float[] ofEstimate(Planes mosaic) {
        float[] m = mosaic.channel(0);
        float[] plane = new float[m.length];
        for (int i = 0; i < m.length; i++) {
            plane[i] = transforms[colours[i]].expected(m[i]) * balance[colours[i]];
        }
        return plane;
    }

    /** A value of that colour as it was before. */
    float inverse(int colour, float value) {
        return transforms[colour].inverse(value / balance[colour]);
    }
}
