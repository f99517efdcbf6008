package org.rainsieve.learn;

import java.util.SplittableRandom;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.RootScale;

/**
 * One training example: a clean patch, exposed on a simulated sensor with an RGGB mosaic, in the network's own scale.
 *
 * <p>The network works on white-balanced values y = gain·x through {@link RootScale}, packed into half-size planes:
 * four of the mosaic (R, G1, G2, B) and six that tell the noise: per colour its sd in the scale far above black
 * (√a′/2) and at black (√b′/(2√o)). Its answer is twelve half-size planes, four positions for each of R, G, B.
 */
final class SimulatedPatch {
    static final int INPUTS = 10;
    static final int OUTPUTS = 12;

    private SimulatedPatch() {}

    /**
     * @param clean planar linear RGB of size², white-balanced, any exposure
     * @param gain white-balance gains of R, G, B
     * @param input receives INPUTS · (size/2)² values
     * @param target receives OUTPUTS · (size/2)² values
     */
    static void expose(
            float[] clean,
            int size,
            double a,
            double b,
            float[] gain,
            SplittableRandom random,
            float[] input,
            float[] target) {
        int half = size / 2;
        int cells = half * half;
        float largest = Math.max(gain[0], Math.max(gain[1], gain[2]));
        RootScale scale = RootScale.of(a, b, largest);
        for (int cy = 0; cy < half; cy++) {
            for (int cx = 0; cx < half; cx++) {
                int cell = cy * half + cx;
                for (int k = 0; k < 4; k++) {
                    int pixel = (2 * cy + (k >> 1)) * size + 2 * cx + (k & 1);
                    for (int c = 0; c < 3; c++) {
                        float truth = Math.min(clean[c * size * size + pixel], gain[c]);
                        target[(c * 4 + k) * cells + cell] = scale.forward(truth);
                    }
                    int c = k == 0 ? 0 : k == 3 ? 2 : 1;
                    double x = clean[c * size * size + pixel] / gain[c];
                    double seen = Math.min(1, Chance.photons(x / a, random) * a + Math.sqrt(b) * Chance.normal(random));
                    input[k * cells + cell] = scale.forward((float) (seen * gain[c]));
                }
            }
        }
        for (int c = 0; c < 3; c++) {
            java.util.Arrays.fill(input, (4 + c) * cells, (5 + c) * cells, scale.brightSd(a * gain[c]));
            java.util.Arrays.fill(input, (7 + c) * cells, (8 + c) * cells, scale.darkSd(b * gain[c] * gain[c]));
        }
    }
}
