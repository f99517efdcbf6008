package org.rainsieve.mask;

import java.util.List;

/**
 * A part of the frame with amounts of its own.
 *
 * @param on off leaves the frame as if it were not there
 * @param inverted everything but what its parts cover
 * @param opacityPercent with 40 %, amounts go 40 % of the way
 */
public record Mask(
        String name, boolean on, List<MaskPart> parts, boolean inverted, double opacityPercent, MaskAmounts amounts) {
    public static final int MOST = 16;
    private static final int MOST_PARTS = 16;
    private static final int LONGEST_NAME = 60;

    public Mask {
        name = name == null || name.isBlank() ? "Mask" : name.strip();
        if (name.length() > LONGEST_NAME) {
            name = name.substring(0, LONGEST_NAME);
        }
        parts = parts == null ? List.of() : List.copyOf(parts);
        if (parts.size() > MOST_PARTS) {
            throw new IllegalArgumentException("A mask has at most " + MOST_PARTS + " parts; begin another");
        }
        MaskChecks.within("A mask's opacity", opacityPercent, 0, 100, "%");
        amounts = amounts == null ? MaskAmounts.NONE : amounts;
    }

    /** True when it changes something. */
    public boolean acts() {
        return on && opacityPercent > 0 && (amounts.denoises() || amounts.sharpens()) && (inverted || !parts.isEmpty());
    }

    public Mask with(List<MaskPart> other) {
        return new Mask(name, on, other, inverted, opacityPercent, amounts);
    }

    /** @throws IllegalArgumentException when there are too many */
    public static List<Mask> checked(List<Mask> masks) {
        if (masks == null) {
            return List.of();
        }
        if (masks.size() > MOST) {
            throw new IllegalArgumentException("A frame has at most " + MOST + " masks. Remove one first.");
        }
        return List.copyOf(masks);
    }
}
