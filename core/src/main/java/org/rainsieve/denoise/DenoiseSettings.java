package org.rainsieve.denoise;

/**
 * The amounts of the denoise step.
 *
 * @param method name of the method, as in {@link Methods}
 * @param grainKeptPercent share of luminance noise left in
 * @param colourNoiseKeptPercent the same for colour
 */
public record DenoiseSettings(boolean on, String method, double grainKeptPercent, double colourNoiseKeptPercent) {
    public DenoiseSettings {
        Methods.check(method);
        if (!(grainKeptPercent >= 0 && grainKeptPercent <= 100)) {
            throw new IllegalArgumentException("Grain kept must be 0 to 100 %, not " + grainKeptPercent);
        }
        if (!(colourNoiseKeptPercent >= 0 && colourNoiseKeptPercent <= 100)) {
            throw new IllegalArgumentException("Colour noise kept must be 0 to 100 %, not " + colourNoiseKeptPercent);
        }
    }

    /** The same with another amount of grain. */
    public DenoiseSettings withGrainKept(double percent) {
        return new DenoiseSettings(on, method, Math.max(0, Math.min(100, percent)), colourNoiseKeptPercent);
    }
}
