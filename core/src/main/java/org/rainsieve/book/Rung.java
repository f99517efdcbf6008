package org.rainsieve.book;

import org.rainsieve.denoise.DenoiseSettings;

/**
 * The settings of one camera at one exposure index.
 *
 * @param ei ISO · 2^push, at least 1
 */
public record Rung(int ei, DenoiseSettings denoise, Origin origin) {
    public Rung {
        if (ei < 1) {
            throw new IllegalArgumentException("An exposure index must be at least 1, not " + ei);
        }
        if (denoise == null) {
            throw new IllegalArgumentException("The rung at EI " + ei + " has no settings");
        }
        origin = origin == null ? Origin.chosen("") : origin;
    }

    public Rung(int ei, DenoiseSettings denoise) {
        this(ei, denoise, null);
    }
}
