package org.rainsieve.frame;

/**
 * The repeating colours of a sensor's filter array: 0 red, 1 green, 2 blue, read row by row from the sensor's (0, 0).
 */
public final class CfaPattern {
    public static final CfaPattern RGGB = of("RGGB");
    public static final CfaPattern BGGR = of("BGGR");
    public static final CfaPattern GRBG = of("GRBG");
    public static final CfaPattern GBRG = of("GBRG");

    /**
     * The 6×6 array in use: 20 greens of which 16 stand in squares of four, 8 reds and 8 blues, so that every row, every
     * column and every aligned 3×3 holds all colours. Cameras differ only in where it begins.
     */
    public static final CfaPattern SIX =
            new CfaPattern(6, 6, colours("GGRGGB" + "GGBGGR" + "BRGRBG" + "GGBGGR" + "GGRGGB" + "RBGBRG"));

    /** Of pictures in which every pixel has all colours. */
    public static final CfaPattern NONE = new CfaPattern(1, 1, new byte[] {1});

    private final int width;
    private final int height;
    private final byte[] colours;

    public CfaPattern(int width, int height, byte[] colours) {
        if (width < 1 || height < 1 || colours.length != width * height) {
            throw new IllegalArgumentException("The colours do not fill the pattern");
        }
        for (byte colour : colours) {
            if (colour < 0 || colour > 2) {
                throw new IllegalArgumentException(
                        "Only red, green and blue filters are known, found colour " + colour);
            }
        }
        this.width = width;
        this.height = height;
        this.colours = colours.clone();
    }

    /** A 2×2 pattern from its four letters, such as {@code RGGB}. */
    public static CfaPattern of(String letters) {
        return new CfaPattern(2, 2, colours(letters));
    }

    private static byte[] colours(String letters) {
        byte[] colours = new byte[letters.length()];
        for (int i = 0; i < colours.length; i++) {
            colours[i] = (byte) "RGB".indexOf(letters.charAt(i));
        }
        return colours;
    }

    /** A pattern from what {@link #toString} makes of it. */
    public static CfaPattern parse(String text) {
        if (text.length() == 4) {
            return of(text);
        }
        int x = text.indexOf('x');
        int colon = text.indexOf(':');
        return new CfaPattern(
                Integer.parseInt(text.substring(0, x)),
                Integer.parseInt(text.substring(x + 1, colon)),
                colours(text.substring(colon + 1)));
    }

    public int width() {
        return width;
    }

    public int height() {
        return height;
    }

    public int colourAt(int x, int y) {
        return colours[Math.floorMod(y, height) * width + Math.floorMod(x, width)];
    }

    public byte[] colours() {
        return colours.clone();
    }

    /** The pattern as seen from another origin, as when a border is cut away. */
    public CfaPattern shifted(int dx, int dy) {
        byte[] moved = new byte[colours.length];
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                moved[y * width + x] = (byte) colourAt(x + dx, y + dy);
            }
        }
        return new CfaPattern(width, height, moved);
    }

    /** True for one red, one blue and two greens on a diagonal. */
    public boolean isBayer() {
        if (width != 2 || height != 2) {
            return false;
        }
        boolean greenOnMain = colourAt(0, 0) == 1 && colourAt(1, 1) == 1;
        boolean greenOffMain = colourAt(1, 0) == 1 && colourAt(0, 1) == 1;
        int other = greenOnMain ? colourAt(1, 0) + colourAt(0, 1) : colourAt(0, 0) + colourAt(1, 1);
        int product = greenOnMain ? colourAt(1, 0) * colourAt(0, 1) : colourAt(0, 0) * colourAt(1, 1);
        return greenOnMain != greenOffMain && other == 2 && product == 0;
    }

    /** True for {@link #SIX}, wherever it begins. */
    public boolean isSixBySix() {
        for (int shift = 0; width == 6 && height == 6 && shift < 36; shift++) {
            if (equals(SIX.shifted(shift % 6, shift / 6))) {
                return true;
            }
        }
        return false;
    }

    /** True if the colours to both sides of column x are mirror images. */
    public boolean mirrorsAboutColumn(int x) {
        return equals(mirrored(2 * x, true));
    }

    /** True if the colours above and below row y are mirror images. */
    public boolean mirrorsAboutRow(int y) {
        return equals(mirrored(2 * y, false));
    }

    private CfaPattern mirrored(int sum, boolean acrossColumns) {
        byte[] turned = new byte[colours.length];
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                turned[y * width + x] = (byte) (acrossColumns ? colourAt(sum - x, y) : colourAt(x, sum - y));
            }
        }
        return new CfaPattern(width, height, turned);
    }

    @Override
    public String toString() {
        StringBuilder letters = new StringBuilder();
        for (byte colour : colours) {
            letters.append("RGB".charAt(colour));
        }
        return width == 2 && height == 2 ? letters.toString() : width + "x" + height + ":" + letters;
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof CfaPattern p
                && p.width == width
                && p.height == height
                && java.util.Arrays.equals(p.colours, colours);
    }

    @Override
    public int hashCode() {
        return java.util.Arrays.hashCode(colours);
    }
}
