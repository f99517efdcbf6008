package org.rainsieve.book;

import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * The settings of one camera at one exposure index.
 *
 * @param ei ISO · 2^push, at least 1
 */
public record Rung(int ei, DenoiseSettings denoise, SharpenSettings sharpen, Origin origin) {
    public Rung {
        if (ei < 1) {
            throw new IllegalArgumentException("An exposure index must be at least 1, not " + ei);
        }
        if (denoise == null) {
            throw new IllegalArgumentException("The rung at EI " + ei + " has no settings");
        }
        sharpen = sharpen == null ? SharpenSettings.OFF : sharpen; // before schema 3 rungs had none
        origin = origin == null ? Origin.chosen("") : origin;
    }

    public Rung(int ei, DenoiseSettings denoise) {
        this(ei, denoise, null, null);
    }

    public Rung(int ei, DenoiseSettings denoise, Origin origin) {
        this(ei, denoise, null, origin);
    }
}
