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
        SimulatedNoise noise = SimulatedNoise.of(a, CleanPatches.read(a, random), random);
        SimulatedPatch.expose(form, clean.rgb(), size, noise, gain, random, input, target);
        return new Judged(noise.scale(gain), clean.exposure(), (float) (clean.structure() * 0.05 * Math.pow(a, 0.25)));
    }
}
