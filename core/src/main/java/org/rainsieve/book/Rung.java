package org.rainsieve.book;

import org.rainsieve.denoise.DenoiseSettings;

/**
 * The settings of one camera at one exposure index.
 *
 * @param ei ISO · 2^push, at least 1
 */
public record Rung(int ei, DenoiseSettings denoise) {
    public Rung {
        if (ei < 1) {
            throw new IllegalArgumentException("An exposure index must be at least 1, not " + ei);
        }
    }
}
