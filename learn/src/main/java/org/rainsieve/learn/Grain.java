package org.rainsieve.learn;

import java.util.SplittableRandom;
import org.rainsieve.noise.Chance;

/** What Denoise leaves of a sensor's noise: white, or spread over neighbours as demosaicing does. */
final class Grain {
    private static final double WHITE = 0.4;
    private static final float SOFTEST = 0.3f;

    private Grain() {}

    /** Share that a pixel gives to its neighbours along each axis. */
    static float softness(SplittableRandom random) {
        return random.nextDouble() < WHITE ? 0 : SOFTEST * random.nextFloat();
    }

    /** @return side² values of variance 1 */
    static float[] field(int side, float softness, SplittableRandom random) {
        float[] out = new float[side * side];
        for (int i = 0; i < out.length; i++) {
            out[i] = (float) Chance.normal(random);
        }
        if (softness == 0) {
            return out;
        }
        float middle = 1 - softness;
        float beside = softness / 2;
        for (int pass = 0; pass < 2; pass++) {
            float[] from = out;
            out = new float[from.length];
            int step = pass == 0 ? 1 : side;
            for (int i = 0; i < from.length; i++) {
                float before = from[Math.max(0, i - step)];
                float after = from[Math.min(from.length - 1, i + step)];
                out[i] = middle * from[i] + beside * (before + after);
            }
        }
        // Of variance 1 again: both passes make it smaller by the same.
        float norm = middle * middle + 2 * beside * beside;
        for (int i = 0; i < out.length; i++) {
            out[i] /= norm;
        }
        return out;
    }
}
