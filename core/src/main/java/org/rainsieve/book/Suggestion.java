package org.rainsieve.book;

import java.util.List;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.reading.Blur;
import org.rainsieve.reading.Reading;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

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

    /**
     * The blur that was read, with the restrained amounts; null where it could not be told. A blur below half a pixel is the
     * sensor's own and needs nothing.
     */
    public static SharpenSettings sharpen(Reading reading) {
        Blur blur = reading == null ? null : reading.blur();
        if (blur == null || blur.sigmaPx() < 0.5 && !blur.moved() && blur.discPx() == 0) {
            return null;
        }
        double corners = Double.isNaN(blur.cornersPx()) ? 0 : Math.max(0, Math.min(2, blur.cornersPx()));
        SharpenSettings restrained = SharpenSettings.OFF;
        return new SharpenSettings(
                true,
                new PointSpread(
                        tenths(Math.min(blur.sigmaPx(), PointSpread.LARGEST_SOFT_PX)),
                        tenths(Math.min(blur.discPx(), PointSpread.LARGEST_DISC_PX)),
                        tenths(Math.min(blur.linePx(), PointSpread.LARGEST_LINE_PX)),
                        blur.moved() ? Math.round(blur.lineAngleDegrees()) : 0),
                tenths(corners),
                restrained.biteFinePercent(),
                restrained.biteCoarsePercent(),
                restrained.rimLimitPercent(),
                restrained.method(),
                "");
    }

    private static double tenths(double px) {
        return Math.round(px * 10) / 10.0;
    }

    /** For a frame that was denoised already: Denoise off. */
    public static DenoiseSettings denoisedBefore(DenoiseSettings inForce) {
        return new DenoiseSettings(
                false,
                inForce.method(),
                inForce.grainKeptPercent(),
                inForce.colourNoiseKeptPercent(),
                inForce.detailPercent());
    }
}
