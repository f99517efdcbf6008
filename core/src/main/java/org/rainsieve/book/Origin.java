package org.rainsieve.book;

/**
 * Where a rung's values come from, in words.
 *
 * @param from such as {@code suggested}, {@code starter Stars}, {@code chosen on TN_0007.dng}
 * @param whyGrain why this amount of grain; empty when it was chosen by eye
 * @param whyColour the same for colour noise
 * @param lookedAt whether the owner has seen the values; suggested ones wait for it
 */
public record Origin(String from, String whyGrain, String whyColour, boolean lookedAt) {
    public Origin {
        from = from == null ? "" : from;
        whyGrain = whyGrain == null ? "" : whyGrain;
        whyColour = whyColour == null ? "" : whyColour;
    }

    /** Values that the owner set. */
    public static Origin chosen(String from) {
        return new Origin(from, "", "", true);
    }

    public Origin seen() {
        return new Origin(from, whyGrain, whyColour, true);
    }
}
