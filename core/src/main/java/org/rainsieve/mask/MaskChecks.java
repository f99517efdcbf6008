package org.rainsieve.mask;

/** Refuses values that mean nothing, in plain words. */
final class MaskChecks {
    private MaskChecks() {}

    static void within(String what, double value, double least, double most, String unit) {
        if (!(value >= least && value <= most)) {
            throw new IllegalArgumentException(
                    what + " must be " + Math.round(least) + " to " + Math.round(most) + " " + unit + ", not " + value);
        }
    }
}
