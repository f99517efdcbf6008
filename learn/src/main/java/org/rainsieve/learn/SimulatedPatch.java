package org.rainsieve.learn;

import java.util.Arrays;
import java.util.SplittableRandom;
import org.rainsieve.denoise.NearColours;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.noise.RootScale;

/**
 * One training example: a clean patch, exposed on a simulated sensor, in the network's own scale.
 *
 * <p>The network works on white-balanced values y = gain·x through {@link RootScale}, packed into half-size planes. 2×2:
 * four of the mosaic (R, G1, G2, B). 6×6: twelve of {@link NearColours}, four positions for each colour, and four that
 * tell whose photosite stands there (red −1, green 0, blue 1). Then six that tell the noise: per colour its sd in the
 * scale far above black (√a′/2) and at black (√b′/(2√o)); and one that tells how near to black the sensor cuts it
 * ({@link org.rainsieve.noise.Censoring}). The answer is twelve half-size planes, four positions for each of R, G, B.
 */
final class SimulatedPatch {
    private SimulatedPatch() {}

    /**
     * @param clean planar linear RGB of size², white-balanced, any exposure
     * @param gain white-balance gains of R, G, B
     * @param input receives form.inputs · (size/2)² values
     * @param target receives 12 · (size/2)² values
     */
    static void expose(
            Form form,
            float[] clean,
            int size,
            SimulatedNoise noise,
            float[] gain,
            SplittableRandom random,
            float[] input,
            float[] target) {
        CfaPattern pattern = form.pattern(form.isBayer() ? 0 : random.nextInt(36));
        int half = size / 2;
        int cells = half * half;
        RootScale scale = noise.scale(gain);
        float[] mosaic = new float[size * size];
        for (int cy = 0; cy < half; cy++) {
            for (int cx = 0; cx < half; cx++) {
                int cell = cy * half + cx;
                for (int k = 0; k < 4; k++) {
                    int pixel = (2 * cy + (k >> 1)) * size + 2 * cx + (k & 1);
                    for (int c = 0; c < 3; c++) {
                        float truth = Math.min(clean[c * size * size + pixel], gain[c]);
                        target[(c * 4 + k) * cells + cell] = scale.forward(truth);
                    }
                    int c = pattern.colourAt(2 * cx + (k & 1), 2 * cy + (k >> 1));
                    double x = clean[c * size * size + pixel] / gain[c];
                    mosaic[pixel] = scale.forward((float) (noise.seen(x, random) * gain[c]));
                }
            }
        }
        pack(form, new NearColours(pattern), mosaic, size, input);
        int first = form.inputs - Form.TOLD;
        for (int c = 0; c < 3; c++) {
            float bright = scale.brightSd(noise.toldA()[c] * gain[c]);
            float dark = scale.darkSd(noise.toldB()[c] * gain[c] * gain[c]);
            Arrays.fill(input, (first + c) * cells, (first + 1 + c) * cells, bright);
            Arrays.fill(input, (first + 3 + c) * cells, (first + 4 + c) * cells, dark);
        }
        Arrays.fill(input, (first + 6) * cells, (first + 7) * cells, noise.nearness());
    }

    private static void pack(Form form, NearColours near, float[] mosaic, int size, float[] input) {
        int half = size / 2;
        int cells = half * half;
        for (int cell = 0; cell < cells; cell++) {
            for (int k = 0; k < 4; k++) {
                int x = cell % half * 2 + (k & 1);
                int y = cell / half * 2 + (k >> 1);
                if (form.isBayer()) {
                    input[k * cells + cell] = mosaic[y * size + x];
                } else {
                    for (int c = 0; c < 3; c++) {
                        input[(c * 4 + k) * cells + cell] = near.at(mosaic, size, size, x, y, c);
                    }
                    input[(12 + k) * cells + cell] = near.colourAt(x, y) - 1;
                }
            }
        }
    }
}
