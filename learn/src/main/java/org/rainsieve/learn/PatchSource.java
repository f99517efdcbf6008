package org.rainsieve.learn;

import java.util.SplittableRandom;
import org.rainsieve.noise.RootScale;

/** Draws training examples of mosaics at random: which picture, where, how exposed, which white balance, how noisy. */
final class PatchSource implements Examples {
    /** In half-size pixels. */
    private static final int RIM = 2;

    private final Form form;
    private final CleanPatches patches;
    private final int size;

    PatchSource(Form form, CleanPatches patches, int size) {
        this.form = form;
        this.patches = patches;
        this.size = size;
    }

    @Override
    public float next(SplittableRandom random, float[] input, float[] target, float[] weight) {
        CleanPatches.Clean clean = patches.next(random, form == Form.LITTLE);
        float[] gain = CleanPatches.gains(random);
        double a = form == Form.LITTLE ? CleanPatches.littleShot(random) : CleanPatches.shot(random);
        double b = CleanPatches.read(a, random);
        SimulatedPatch.expose(form, clean.rgb(), size, a, b, gain, random, input, target);
        weigh(target, clean.exposure(), SimulatedPatch.scale(a, b, gain), weight);
        return (float) (0.05 * Math.pow(a, 0.25));
    }

    /**
     * Errors count as they are seen in sRGB with the exposure restored: by the square of the slope between both scales. The
     * rim counts nothing, for in use nothing is taken from there.
     */
    private void weigh(float[] target, double exposure, RootScale scale, float[] weight) {
        int half = size / 2;
        double sum = 0;
        for (int i = 0; i < target.length; i++) {
            int x = i % half;
            int y = i / half % half;
            if (Math.min(Math.min(x, y), half - 1 - Math.max(x, y)) < RIM) {
                weight[i] = 0;
                continue;
            }
            double light = scale.inverse(target[i]);
            double shown = Math.max(0, light / exposure);
            // IEC 61966-2-1 and its slope, carried on beyond white.
            double slope = shown <= 0.0031308 ? 12.92 : 1.055 / 2.4 * Math.pow(shown, 1 / 2.4 - 1);
            double seen = slope / exposure * 2 * Math.sqrt(Math.max(0, light) + scale.offset());
            weight[i] = (float) (seen * seen);
            sum += weight[i];
        }
        float even = (float) (weight.length / Math.max(1e-30, sum));
        for (int i = 0; i < weight.length; i++) {
            weight[i] *= even;
        }
    }
}
