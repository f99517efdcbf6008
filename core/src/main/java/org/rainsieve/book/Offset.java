package org.rainsieve.book;

/** What is added to the amounts of every rung of a camera, in percentage points. */
public record Offset(double grainKeptPoints, double colourNoiseKeptPoints) {
    public static final Offset NONE = new Offset(0, 0);

    public Offset {
        if (!(Math.abs(grainKeptPoints) <= 100 && Math.abs(colourNoiseKeptPoints) <= 100)) {
            throw new IllegalArgumentException("An offset must lie between -100 and 100 points");
        }
    }

    public boolean isNone() {
        return grainKeptPoints == 0 && colourNoiseKeptPoints == 0;
    }
}
