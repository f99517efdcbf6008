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

    /** Whether each frame can find it by itself: it rests on focus alone, not on places. */
    public boolean isByFocus() {
        return !parts.isEmpty() && parts.stream().allMatch(part -> part.shape() instanceof MaskShape.InFocus);
    }

    /**
     * The same for a camera's page, to be found anew in every frame.
     *
     * @throws IllegalArgumentException in plain words when it has places
     */
    public Mask forAnyFrame() {
        if (!isByFocus()) {
            throw new IllegalArgumentException(
                    "Only a mask of what is in focus can be found anew in every frame; this one has places of its own");
        }
        return with(parts.stream()
                .map(part -> new MaskPart(
                        new MaskShape.InFocus(((MaskShape.InFocus) part.shape()).limitPx(), true),
                        part.join(),
                        part.inverted()))
                .toList());
    }

    public Mask with(List<MaskPart> other) {
        return new Mask(name, on, other, inverted, opacityPercent, amounts);
    }

    /** @throws IllegalArgumentException when there are too many */
    public static List<Mask> checked(List<Mask> masks) {
        return checked(masks, MOST);
    }

    /** @throws IllegalArgumentException when there are more than that */
    public static List<Mask> checked(List<Mask> masks, int most) {
        if (masks == null) {
            return List.of();
        }
        if (masks.size() > most) {
            throw new IllegalArgumentException("A frame has at most " + MOST + " masks. Remove one first.");
        }
        return List.copyOf(masks);
    }
}
