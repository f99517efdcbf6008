package org.rainsieve.mask;

/**
 * What a mask sets where it is at full strength; null leaves an amount as it is. Between, amounts are mixed by the strength.
 *
 * @param bitePercent fine and coarse bite of Sharpen alike
 */
public record MaskAmounts(
        Double grainKeptPercent, Double colourNoiseKeptPercent, Double detailPercent, Double bitePercent) {
    public static final MaskAmounts NONE = new MaskAmounts(null, null, null, null);

    public MaskAmounts {
        check("Grain kept", grainKeptPercent);
        check("Colour noise kept", colourNoiseKeptPercent);
        check("Detail", detailPercent);
        check("Bite", bitePercent);
    }

    private static void check(String what, Double percent) {
        if (percent != null) {
            MaskChecks.within(what, percent, 0, 100, "%");
        }
    }

    public boolean denoises() {
        return grainKeptPercent != null || colourNoiseKeptPercent != null || detailPercent != null;
    }

    public boolean sharpens() {
        return bitePercent != null;
    }
}
