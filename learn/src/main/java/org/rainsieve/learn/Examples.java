package org.rainsieve.learn;

import java.util.SplittableRandom;

/** Where training examples come from. */
interface Examples {
    /**
     * @param weight receives what each value's squared error counts, 1 in the mean
     * @return the error (root mean square) that pictures of this noise usually leave in the network's scale, roughly
     */
    float next(SplittableRandom random, float[] input, float[] target, float[] weight);
}
