package org.rainsieve.optics;

import java.util.Arrays;
import java.util.List;

/**
 * What a lens does at one focal length, aperture and distance, in the models of lensfun 0.3 (its documentation, "Mathematical
 * models"). Radii of distortion and fringes are 1 at half the shorter side of the picture that was calibrated with, radii
 * of shading at its corner.
 *
 * <p>The distortion {@code opcode} is what a DNG's opcode list 3 asks for instead (WarpRectilinear and FixVignetteRadial, DNG
 * 1.7, chapter 7): bend, red and blue are then kr0 to kr3, kt0 and kt1 of their colours, shading k0 to k4 of the gain, all
 * with a radius of 1 at the corner farthest from the centre.
 *
 * @param lens maker and name, as in the database
 * @param distortion model name, {@code ptlens}, {@code poly3}, {@code poly5} or {@code none}
 * @param bend its terms: a, b, c; k1; k1, k2
 * @param red v, c, b of r·(b·r² + c·r + v), the place of red; 1, 0, 0 for none
 * @param blue the same of blue
 * @param shading k1, k2, k3 of 1 + k1·r² + k2·r⁴ + k3·r⁶, the light that arrives
 * @param cropFactor of the camera that was calibrated with
 * @param aspectRatio of its pictures, long ÷ short side
 * @param centreX the lens's centre from the middle, in half short sides
 * @param centreY downwards
 * @param shadingCentre the same two numbers for the shading, where it has a centre of its own; else null
 */
public record LensCorrection(
        String lens,
        String distortion,
        List<Double> bend,
        List<Double> red,
        List<Double> blue,
        List<Double> shading,
        double cropFactor,
        double aspectRatio,
        double centreX,
        double centreY,
        List<Double> shadingCentre) {

    public static final List<Double> NO_FRINGE = List.of(1.0, 0.0, 0.0);
    public static final List<Double> NO_SHADING = List.of(0.0, 0.0, 0.0);

    static final String OPCODE = "opcode";
    static final List<Double> NO_GAIN = List.of(0.0, 0.0, 0.0, 0.0, 0.0);
    private static final int OPCODE_TERMS = 6;
    private static final int OPCODE_SHADING_TERMS = 5;

    /**
     * What a file's own opcodes ask for.
     *
     * @param warp kr0 to kr3, kt0 and kt1 of red, green and blue
     * @param gain k0 to k4
     * @param centre of the warp from the middle, across and down, in half short sides
     * @param shadingCentre the same of the gain
     */
    public static LensCorrection ofOpcodes(double[][] warp, double[] gain, double[] centre, double[] shadingCentre) {
        return new LensCorrection(
                "the file's own correction",
                OPCODE,
                list(warp[1]),
                list(warp[0]),
                list(warp[2]),
                list(gain),
                1,
                1.5,
                centre[0],
                centre[1],
                Arrays.equals(centre, shadingCentre) ? null : list(shadingCentre));
    }

    /** Shading about the same centre as distortion. */
    public LensCorrection(
            String lens,
            String distortion,
            List<Double> bend,
            List<Double> red,
            List<Double> blue,
            List<Double> shading,
            double cropFactor,
            double aspectRatio,
            double centreX,
            double centreY) {
        this(lens, distortion, bend, red, blue, shading, cropFactor, aspectRatio, centreX, centreY, null);
    }

    private static List<Double> list(double[] values) {
        return Arrays.stream(values).boxed().toList();
    }

    public LensCorrection {
        int terms = switch (distortion) {
            case "none" -> 0;
            case "poly3" -> 1;
            case "poly5" -> 2;
            case "ptlens" -> 3;
            case OPCODE -> OPCODE_TERMS;
            default -> throw new IllegalArgumentException("The distortion model " + distortion + " is not known");
        };
        boolean opcode = distortion.equals(OPCODE);
        int colourTerms = opcode ? OPCODE_TERMS : 3;
        if (bend.size() < terms
                || red.size() != colourTerms
                || blue.size() != colourTerms
                || shading.size() != (opcode ? OPCODE_SHADING_TERMS : 3)) {
            throw new IllegalArgumentException("The lens correction lacks numbers");
        }
        bend = List.copyOf(bend);
        red = List.copyOf(red);
        blue = List.copyOf(blue);
        shading = List.copyOf(shading);
        if (shadingCentre != null && shadingCentre.size() != 2) {
            throw new IllegalArgumentException("A centre is told by two numbers");
        }
    }

    public boolean bends() {
        return !distortion.equals("none");
    }

    boolean opcodes() {
        return distortion.equals(OPCODE);
    }

    public boolean fringes() {
        if (opcodes()) {
            return !red.equals(bend) || !blue.equals(bend);
        }
        return !red.equals(NO_FRINGE) || !blue.equals(NO_FRINGE);
    }

    public boolean shades() {
        return !shading.equals(opcodes() ? NO_GAIN : NO_SHADING);
    }

    /** Radius in the straight picture to radius in the one taken, divided by it. */
    double bendAt(double r) {
        return switch (distortion) {
            case "poly3" -> 1 - bend.get(0) + bend.get(0) * r * r;
            case "poly5" -> 1 + r * r * (bend.get(0) + bend.get(1) * r * r);
            case "ptlens" -> {
                double a = bend.get(0);
                double b = bend.get(1);
                double c = bend.get(2);
                yield r * (r * (r * a + b) + c) + 1 - a - b - c;
            }
            default -> 1;
        };
    }

    /** Where a colour lies against green, as a factor of the radius. */
    double fringeAt(int colour, double r) {
        List<Double> terms = colour == 0 ? red : colour == 2 ? blue : NO_FRINGE;
        return terms.get(0) + r * (terms.get(1) + r * terms.get(2));
    }

    /** The light that arrives, 1 at the centre. */
    double shadingAt(double r) {
        double q = r * r;
        return 1 + q * (shading.get(0) + q * (shading.get(1) + q * shading.get(2)));
    }

    /** By opcodes: where a colour lies in the picture that was taken; from the centre, in units of the farthest corner. */
    void warp(int colour, double x, double y, double[] to) {
        List<Double> k = colour == 0 ? red : colour == 2 ? blue : bend;
        double q = x * x + y * y;
        double radial = k.get(0) + q * (k.get(1) + q * (k.get(2) + q * k.get(3)));
        to[0] = radial * x + k.get(4) * 2 * x * y + k.get(5) * (q + 2 * x * x);
        to[1] = radial * y + k.get(5) * 2 * x * y + k.get(4) * (q + 2 * y * y);
    }

    /** By opcodes: what a value is multiplied by. */
    double gainAt(double r) {
        double q = r * r;
        double sum = 0;
        for (int i = shading.size() - 1; i >= 0; i--) {
            sum = q * (shading.get(i) + sum);
        }
        return 1 + sum;
    }
}
