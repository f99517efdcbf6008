package org.rainsieve.learn;

import java.util.SplittableRandom;
import org.rainsieve.noise.RootScale;

/** Where training examples come from. */
interface Examples {
    /**
     * How an example's errors are judged.
     *
     * @param scale of the planes in and out
     * @param exposure what light is shown as white
     * @param usual the error (root mean square, as shown) that pictures of this noise leave, roughly
     */
    record Judged(RootScale scale, float exposure, float usual) {}

    Judged next(SplittableRandom random, float[] input, float[] target);
}
