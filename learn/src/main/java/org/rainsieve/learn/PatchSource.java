package org.rainsieve.learn;

import java.util.SplittableRandom;

/** Draws training examples of mosaics at random: which picture, where, how exposed, which white balance, how noisy. */
final class PatchSource implements Examples {
    private final Form form;
    private final CleanPatches patches;
    private final int size;

    PatchSource(Form form, CleanPatches patches, int size) {
        this.form = form;
        this.patches = patches;
        this.size = size;
    }

    @Override
    public Judged next(SplittableRandom random, float[] input, float[] target) {
        CleanPatches.Clean clean = patches.next(random, form == Form.LITTLE);
        float[] gain = CleanPatches.gains(random);
        double a = form == Form.LITTLE ? CleanPatches.littleShot(random) : CleanPatches.shot(random);
        double b = CleanPatches.read(a, random);
        SimulatedPatch.expose(form, clean.rgb(), size, a, b, gain, random, input, target);
        return new Judged(SimulatedPatch.scale(a, b, gain), clean.exposure(), (float) (0.05 * Math.pow(a, 0.25)));
    }
}
