package org.rainsieve.learn;

import java.util.SplittableRandom;

/** Where training examples come from. */
interface Examples {
    /** @return how much this example's error counts: little noise leaves little error, which must be learnt too */
    float next(SplittableRandom random, float[] input, float[] target);
}
