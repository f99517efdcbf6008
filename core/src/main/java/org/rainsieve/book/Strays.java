package org.rainsieve.book;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.reading.Reading;

/** Tells which frames their rung does not fit, and why, in words. */
public final class Strays {
    /** Noise off by half a stop of ISO moves its sd by 19 % (where light's own noise rules) to 41 %. */
    private static final double NOISE_OFF = Math.log(1.12);

    /** Share of clipped photosites beyond which a frame is burnt out rather than lit by lamps. (Common practice.) */
    private static final double CLIPPED_HARD_PERCENT = 10;

    private Strays() {}

    /**
     * @param law the pooled law of the frame's body at its ISO
     * @return the reasons, most important first; empty for a frame that fits
     */
    public static List<String> reasons(Reading reading, NoiseModel law) {
        List<String> reasons = new ArrayList<>();
        if (reading.denoisedBefore()) {
            reasons.add("noise was taken out of this file before: neighbouring photosites share what is left");
        } else if (reading.noise() != null && !reading.noise().uncertain()) {
            double off = noiseOff(reading, law);
            if (Math.abs(Math.log(off)) > NOISE_OFF) {
                reasons.add(String.format(
                        Locale.ROOT,
                        "noise %.0f %% %s the book's for this ISO",
                        100 * Math.abs(off - 1),
                        off > 1 ? "above" : "below"));
            }
        }
        if (reading.clippedPercent() > CLIPPED_HARD_PERCENT) {
            reasons.add(String.format(Locale.ROOT, "%.0f %% of it is clipped", reading.clippedPercent()));
        }
        return reasons;
    }

    /** The noise's sd at the frame's own brightness as read, against the book's. NaN when it could not be read. */
    public static double noiseOff(Reading reading, NoiseModel law) {
        if (reading.noise() == null) {
            return Double.NaN;
        }
        double middle = 0.18 * Math.pow(2, Math.min(0, reading.middleStops()));
        return Math.sqrt(reading.noise().law().variance(1, middle) / law.variance(1, middle));
    }
}
