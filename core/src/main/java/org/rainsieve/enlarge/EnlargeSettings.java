package org.rainsieve.enlarge;

import java.util.List;
import java.util.Locale;
import org.rainsieve.noise.NoiseModel;

/**
 * How large the picture becomes and how its edges are drawn.
 *
 * @param by what {@code value} means
 * @param value the factor, the edge in px, or the long edge of the print in cm
 * @param ppi pixels per inch of the print
 * @param blockEdges remove what JPEG compression left before
 * @param jpegQuality of the compression that is removed, 1 to 100
 * @param outputBitePercent own output sharpening, 0 for none
 * @param model SHA-256 of the trained model of learned edges, the newest where none is given; empty for others
 */
public record EnlargeSettings(
        boolean on,
        By by,
        double value,
        double ppi,
        Edges edges,
        boolean blockEdges,
        int jpegQuality,
        double outputBitePercent,
        String model) {

    public enum By {
        FACTOR,
        LONG_EDGE_PX,
        SHORT_EDGE_PX,
        PRINT_CM
    }

    /** Learned is nearest to the truth of all kinds of pictures, natural goes by plain rules. */
    public enum Edges {
        LEARNED,
        NATURAL,

        /** What settings of earlier versions may ask for; learned draws type and artwork better, and is a tenth of the work. */
        DRAWN;

        /** Those that are offered. */
        public static final List<Edges> OFFERED = List.of(LEARNED, NATURAL);
    }

    public record Size(int width, int height) {}

    public static final EnlargeSettings OFF =
            new EnlargeSettings(false, By.FACTOR, 2, 300, Edges.NATURAL, false, 50, 0, "");

    /** Natural edges at a factor. */
    public static EnlargeSettings factor(double factor) {
        return new EnlargeSettings(true, By.FACTOR, factor, 300, Edges.NATURAL, false, 50, 0, "");
    }

    public static final double LEAST_FACTOR = 1.25;
    public static final double MOST_FACTOR = 6;

    /** Of the DNG's sides. */
    private static final int LONGEST_SIDE = 65_535;

    private static final double CM_PER_INCH = 2.54;

    public EnlargeSettings {
        if (!(value > 0) || !(ppi > 0 && ppi <= 2400)) {
            throw new IllegalArgumentException("The size and the pixels per inch must be above 0");
        }
        if (by == By.FACTOR && !(value >= LEAST_FACTOR && value <= MOST_FACTOR)) {
            throw new IllegalArgumentException("The factor must be 1.25 to 6, not " + value);
        }
        if (!(outputBitePercent >= 0 && outputBitePercent <= 100)) {
            throw new IllegalArgumentException("Output sharpening must be 0 to 100 %, not " + outputBitePercent);
        }
        if (jpegQuality < 1 || jpegQuality > 100) {
            throw new IllegalArgumentException("The JPEG quality must be 1 to 100, not " + jpegQuality);
        }
        edges = edges == null ? Edges.NATURAL : edges;
        boolean given = model != null && !model.isEmpty();
        model = edges != Edges.LEARNED || !on ? "" : given ? model : LearnedDoubling.MODELS.newest();
    }

    public double factor(int width, int height) {
        return switch (by) {
            case FACTOR -> value;
            case LONG_EDGE_PX -> value / Math.max(width, height);
            case SHORT_EDGE_PX -> value / Math.min(width, height);
            case PRINT_CM -> value / CM_PER_INCH * ppi / Math.max(width, height);
        };
    }

    /**
     * Size of a picture that is enlarged, each side rounded half up.
     *
     * @throws IllegalArgumentException in plain words when it cannot be made
     */
    public Size size(int width, int height) {
        double factor = factor(width, height);
        if (factor < 1 || factor > MOST_FACTOR * 1.0001) {
            throw new IllegalArgumentException(String.format(
                    Locale.ROOT,
                    "That would be %.2f times the frame of %d × %d px. Between 1 and 6 times can be made.",
                    factor,
                    width,
                    height));
        }
        double w = Math.floor(width * factor + 0.5);
        double h = Math.floor(height * factor + 0.5);
        if (Math.max(w, h) > LONGEST_SIDE) {
            throw new IllegalArgumentException(
                    "That would be more than 65,535 px on a side, the limit of a DNG. Choose a smaller size.");
        }
        return new Size((int) w, (int) h);
    }

    /** How long a print of so many pixels is, in cm. */
    public static double printCm(int px, double ppi) {
        return px / ppi * CM_PER_INCH;
    }

    /** The same for a picture that was compressed so; as it is where that is not known, told by 0. */
    public EnlargeSettings withJpegQuality(int quality) {
        return quality == 0
                ? this
                : new EnlargeSettings(on, by, value, ppi, edges, blockEdges, quality, outputBitePercent, model);
    }

    /** The same with other output sharpening. */
    EnlargeSettings withOutputBite(double percent) {
        return new EnlargeSettings(on, by, value, ppi, edges, blockEdges, jpegQuality, percent, model);
    }

    /** The same of a picture that shows nothing of a compression. */
    EnlargeSettings withoutBlockEdges() {
        return new EnlargeSettings(on, by, value, ppi, edges, false, jpegQuality, outputBitePercent, model);
    }

    /** The same, switched on, with other edges. */
    public EnlargeSettings with(Edges others, boolean withoutBlocks) {
        return new EnlargeSettings(true, by, value, ppi, others, withoutBlocks, jpegQuality, outputBitePercent, "");
    }

    /** The most noise left at white (sd) that learned edges were trained with: of more they would draw worms. */
    private static final double MOST_LEARNED_SD = 0.07;

    /** The same for a picture of so much noise: natural edges where learned ones never saw the like. */
    public EnlargeSettings within(NoiseModel law, double grainKept) {
        return edges == Edges.LEARNED && grainKept * Math.sqrt(law.largestVariance(1)) > MOST_LEARNED_SD
                ? new EnlargeSettings(on, by, value, ppi, Edges.NATURAL, blockEdges, jpegQuality, outputBitePercent, "")
                : this;
    }
}
