package org.rainsieve.primitives;

/** Which pixel stands for one beyond the border of a line of {@code size} pixels. */
public final class Border {
    private Border() {}

    /** Mirrored about the middle of the outermost pixel, which is not repeated: c b | a b c | b a. */
    public static int mirrorAboutPixel(int at, int size) {
        if (at >= 0 && at < size) {
            return at;
        }
        int folded = Math.floorMod(at, Math.max(1, 2 * size - 2));
        return folded < size ? folded : 2 * size - 2 - folded;
    }

    /** Mirrored about the outer edge of the outermost pixel, which is repeated: b a | a b c | c b. */
    public static int mirrorAboutEdge(int at, int size) {
        int folded = Math.floorMod(at, 2 * size);
        return folded < size ? folded : 2 * size - 1 - folded;
    }

    /** The outermost pixel is repeated: a a | a b c | c c. */
    public static int repeat(int at, int size) {
        return Math.max(0, Math.min(size - 1, at));
    }
}
