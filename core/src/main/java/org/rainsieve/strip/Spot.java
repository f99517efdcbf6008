package org.rainsieve.strip;

/**
 * A small sample area of a frame used for judging.
 *
 * @param x of its centre, as a share of the result's width, so that it means the same place at every size
 * @param y the same of the height
 */
public record Spot(Kind kind, double x, double y) {
    public enum Kind {
        /** Even and lit: how much noise is left. */
        SMOOTH,
        /** The finest structure there is: what denoise takes and sharpening gives. */
        FINE,
        /** Dark beside a colour edge: blotches and bleeding colour. */
        DARK,
        /** Where the photographer put it. */
        OWN
    }

    public Spot {
        if (!(x >= 0 && x <= 1 && y >= 0 && y <= 1)) {
            throw new IllegalArgumentException("A spot must lie inside the picture");
        }
    }
}
