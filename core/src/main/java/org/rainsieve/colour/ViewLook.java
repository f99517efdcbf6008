package org.rainsieve.colour;

/**
 * How a picture is shown. Nothing of it is ever written.
 *
 * @param liftStops lightening
 * @param shadowsPercent how far dark places are opened, 0 to 100
 * @param contrastPercent −100 to 100
 * @param saturationPercent −100 (grey) to 100
 * @param marks clipped places are drawn as a checkerboard, empty ones as a dark one
 * @param redStops by how much red is brighter than as shot, against green
 * @param blueStops the same of blue
 */
public record ViewLook(
        double liftStops,
        double shadowsPercent,
        double contrastPercent,
        double saturationPercent,
        boolean marks,
        double redStops,
        double blueStops) {
    private static final double MOST_WHITE_STOPS = 3;

    public static final ViewLook PLAIN = lifted(0);

    public ViewLook {
        liftStops = within(liftStops, 0, 8);
        shadowsPercent = within(shadowsPercent, 0, 100);
        contrastPercent = within(contrastPercent, -100, 100);
        saturationPercent = within(saturationPercent, -100, 100);
        redStops = within(redStops, -MOST_WHITE_STOPS, MOST_WHITE_STOPS);
        blueStops = within(blueStops, -MOST_WHITE_STOPS, MOST_WHITE_STOPS);
    }

    public static ViewLook lifted(double stops) {
        return new ViewLook(stops, 0, 0, 0, false, 0, 0);
    }

    /** The same, as light as that. */
    public ViewLook lightened(double stops) {
        return new ViewLook(stops, shadowsPercent, contrastPercent, saturationPercent, marks, redStops, blueStops);
    }

    /** The same with other tones. */
    public ViewLook toned(double shadows, double contrast, double saturation) {
        return new ViewLook(liftStops, shadows, contrast, saturation, marks, redStops, blueStops);
    }

    private static double within(double value, double least, double most) {
        return Double.isNaN(value) ? 0 : Math.max(least, Math.min(most, value));
    }

    /** By how much each of R, G, B is multiplied; none is made darker, so that what is clipped stays white. */
    double[] whiteFactors() {
        double least = Math.min(0, Math.min(redStops, blueStops));
        return new double[] {Math.pow(2, redStops - least), Math.pow(2, -least), Math.pow(2, blueStops - least)};
    }

    /** Whether shadows, contrast or saturation are other than plain. */
    public boolean toned() {
        return shadowsPercent != 0 || contrastPercent != 0 || saturationPercent != 0;
    }

    /** An encoded value, 0 to 1, after shadows and contrast; rises everywhere. */
    double toned(double encoded) {
        double open = encoded + 2 * shadowsPercent / 100 * encoded * Math.pow(1 - encoded, 3);
        double steep = contrastPercent / 100;
        double curved = open * open * (3 - 2 * open);
        double mixed = steep >= 0 ? open + steep * (curved - open) : open + steep * 0.6 * (open - 0.5);
        return Math.max(0, Math.min(1, mixed));
    }
}
