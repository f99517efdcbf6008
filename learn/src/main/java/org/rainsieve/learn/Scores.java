package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import java.util.Map;

/** How good a network is on pictures that it never saw. */
interface Scores {
    /** For people: what the scores stand for, in their order. */
    String levels();

    /** In dB, colour PSNR of the picture as it is shown, in sRGB. */
    double[] score(Map<String, NDArray> weights, Network.Fixed fixed);
}
