package org.rainsieve.book;

import java.util.List;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.mask.Mask;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * The settings of one camera at one exposure index.
 *
 * @param ei ISO · 2^push, at least 1
 * @param masks found anew by focus in every frame that follows
 */
public record Rung(int ei, DenoiseSettings denoise, SharpenSettings sharpen, List<Mask> masks, Origin origin) {
    public static final int MOST_MASKS = 4;

    public Rung {
        if (ei < 1) {
            throw new IllegalArgumentException("An exposure index must be at least 1, not " + ei);
        }
        if (denoise == null) {
            throw new IllegalArgumentException("The rung at EI " + ei + " has no settings");
        }
        sharpen = sharpen == null ? SharpenSettings.OFF : sharpen; // before schema 3 rungs had none
        masks = masks == null
                ? List.of()
                : masks.stream().map(Mask::forAnyFrame).toList(); // none before schema 5
        if (masks.size() > MOST_MASKS) {
            throw new IllegalArgumentException("A line of the ladder has at most " + MOST_MASKS + " masks");
        }
        origin = origin == null ? Origin.chosen("") : origin;
    }

    public Rung(int ei, DenoiseSettings denoise) {
        this(ei, denoise, null, null, null);
    }

    public Rung with(List<Mask> other, Origin why) {
        return new Rung(ei, denoise, sharpen, other, why);
    }

    public Rung with(Origin other) {
        return new Rung(ei, denoise, sharpen, masks, other);
    }

    public Rung(int ei, DenoiseSettings denoise, Origin origin) {
        this(ei, denoise, null, null, origin);
    }
}
