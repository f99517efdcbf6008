package org.rainsieve.book;

import java.util.List;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.noise.NoiseLaw;

/** What a new camera begins with, by stated rules; marked as suggested until its owner has looked at it. */
public final class Suggestion {
    private static final String SUGGESTED = "suggested";

    private Suggestion() {}

    /**
     * From readings: what the first starter leaves at the camera's noise. Without readings, amounts that suit most cameras:
     * less grain is left where there is more of it, and colour noise goes.
     *
     * @param law the camera's law, or null without readings
     * @param method usually {@link org.rainsieve.denoise.Methods#best}
     */
    public static Page page(String camera, NoiseLaw law, String method) {
        if (law == null) {
            return new Page(
                    camera,
                    List.of(unread(100, method, 40, 10), unread(1600, method, 30, 0), unread(25_600, method, 15, 0)));
        }
        return new Page(camera, Starter.shipped().get(0).rungs(law, method, SUGGESTED, false));
    }

    private static Rung unread(int ei, String method, double grain, double colour) {
        String why = "no frame of this camera was read yet: what suits most cameras";
        return new Rung(ei, new DenoiseSettings(true, method, grain, colour), new Origin(SUGGESTED, why, why, false));
    }

    /** For a frame that was denoised already: Denoise off. */
    public static DenoiseSettings denoisedBefore(DenoiseSettings inForce) {
        return new DenoiseSettings(
                false, inForce.method(), inForce.grainKeptPercent(), inForce.colourNoiseKeptPercent());
    }
}
