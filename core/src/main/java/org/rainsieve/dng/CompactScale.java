package org.rainsieve.dng;

import org.rainsieve.noise.NoiseModel;

/**
 * Fewer levels for samples that are noisy anyway: steps as wide as the noise that is left allows, so that rounding adds an
 * error of at most a quarter of it (a step of √12/4 of its sd; uniform rounding has an error of step/√12). What is stored
 * are numbers of levels; the file's linearisation table tells every reader where they lie.
 */
public final class CompactScale {
    /** Below what rounding may do, for the law is an estimate, and demosaicing leaves less noise between photosites. */
    private static final double STEP_PER_SD = 0.65 * Math.sqrt(12) / 4;
    /** Luminance noise's part of one colour's sd, as measured on what demosaicing makes of even fields. */
    private static final double LUMINANCE_PART = 0.55;
    /** What counts as kept where nothing is: denoising itself leaves a little. */
    private static final double LEAST_KEPT = 0.08;

    private final short[] table;
    private final short[] codes = new short[LinearDngWriter.WHITE + 1];

    /**
     * @param noise of the frame before denoising
     * @param grainKept and
     * @param colourNoiseKept what the denoiser leaves of it, as shares
     */
    public CompactScale(NoiseModel noise, double grainKept, double colourNoiseKept) {
        double grain = Math.max(LEAST_KEPT, grainKept) * LUMINANCE_PART;
        double colour = colourNoiseKept * Math.sqrt(1 - LUMINANCE_PART * LUMINANCE_PART);
        double kept = Math.sqrt(grain * grain + colour * colour);
        double scale = LinearDngWriter.WHITE - LinearDngWriter.BLACK;
        short[] levels = new short[LinearDngWriter.WHITE + 1];
        int count = 0;
        int level = 0;
        while (true) {
            levels[count++] = (short) level;
            if (level >= LinearDngWriter.WHITE) {
                break;
            }
            double x = (level - LinearDngWriter.BLACK) / scale;
            double variance = Math.min(noise.variance(0, x), Math.min(noise.variance(1, x), noise.variance(2, x)));
            double step = STEP_PER_SD * kept * Math.sqrt(variance) * scale;
            level = Math.min(LinearDngWriter.WHITE, level + Math.max(1, (int) step));
        }
        table = java.util.Arrays.copyOf(levels, count);
        for (int value = 0, code = 0; value < codes.length; value++) {
            while (code + 1 < count && nearer(code + 1, code, value)) {
                code++;
            }
            codes[value] = (short) code;
        }
    }

    private boolean nearer(int next, int now, int value) {
        return Math.abs((table[next] & 0xffff) - value) < Math.abs((table[now] & 0xffff) - value);
    }

    /** Sample values of the levels. */
    short[] table() {
        return table.clone();
    }

    /** Numbers of levels for samples. */
    short[] codes(short[] samples) {
        short[] out = new short[samples.length];
        for (int i = 0; i < samples.length; i++) {
            out[i] = codes[samples[i] & 0xffff];
        }
        return out;
    }
}
