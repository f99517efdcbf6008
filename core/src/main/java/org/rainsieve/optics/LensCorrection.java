package org.rainsieve.optics;

import java.util.List;

/**
 * What a lens does at one focal length, aperture and distance, in the models of lensfun 0.3 (its documentation, "Mathematical
 * models"). Radii of distortion and fringes are 1 at half the shorter side of the picture that was calibrated with, radii
 * of shading at its corner.
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
        double centreY) {

    public static final List<Double> NO_FRINGE = List.of(1.0, 0.0, 0.0);
    public static final List<Double> NO_SHADING = List.of(0.0, 0.0, 0.0);

    public LensCorrection {
        int terms = switch (distortion) {
            case "none" -> 0;
            case "poly3" -> 1;
            case "poly5" -> 2;
            case "ptlens" -> 3;
            default -> throw new IllegalArgumentException("The distortion model " + distortion + " is not known");
        };
        if (bend.size() < terms || red.size() != 3 || blue.size() != 3 || shading.size() != 3) {
            throw new IllegalArgumentException("The lens correction lacks numbers");
        }
        bend = List.copyOf(bend);
        red = List.copyOf(red);
        blue = List.copyOf(blue);
        shading = List.copyOf(shading);
    }

    public boolean bends() {
        return !distortion.equals("none");
    }

    public boolean fringes() {
        return !red.equals(NO_FRINGE) || !blue.equals(NO_FRINGE);
    }

    public boolean shades() {
        return !shading.equals(NO_SHADING);
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
}
