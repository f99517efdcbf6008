package org.rainsieve.denoise;

/**
 * The amounts of the denoise step.
 *
 * @param method name of the method, as in {@link Methods}
 * @param grainKeptPercent share of luminance noise left in
 * @param colourNoiseKeptPercent the same for colour
 * @param detailPercent share of the structured part of what was taken out that is put back; 0 in settings of before
 */
public record DenoiseSettings(
        boolean on, String method, double grainKeptPercent, double colourNoiseKeptPercent, Double detailPercent) {
    public DenoiseSettings {
        detailPercent = detailPercent == null ? Double.valueOf(0) : detailPercent;
        Methods.check(method);
        if (!(grainKeptPercent >= 0 && grainKeptPercent <= 100)) {
            throw new IllegalArgumentException("Grain kept must be 0 to 100 %, not " + grainKeptPercent);
        }
        if (!(colourNoiseKeptPercent >= 0 && colourNoiseKeptPercent <= 100)) {
            throw new IllegalArgumentException("Colour noise kept must be 0 to 100 %, not " + colourNoiseKeptPercent);
        }
        if (!(detailPercent >= 0 && detailPercent <= 100)) {
            throw new IllegalArgumentException("Detail must be 0 to 100 %, not " + detailPercent);
        }
    }

    /** Without detail put back. */
    public DenoiseSettings(boolean on, String method, double grainKeptPercent, double colourNoiseKeptPercent) {
        this(on, method, grainKeptPercent, colourNoiseKeptPercent, 0.0);
    }

    public DenoiseSettings withDetail(double percent) {
        return new DenoiseSettings(on, method, grainKeptPercent, colourNoiseKeptPercent, percent);
    }

    public DenoiseSettings withMethod(String other) {
        return new DenoiseSettings(on, other, grainKeptPercent, colourNoiseKeptPercent, detailPercent);
    }

    /** The same with another amount of grain. */
    public DenoiseSettings withGrainKept(double percent) {
        return new DenoiseSettings(
                on, method, Math.max(0, Math.min(100, percent)), colourNoiseKeptPercent, detailPercent);
    }
}
