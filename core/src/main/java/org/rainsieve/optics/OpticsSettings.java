package org.rainsieve.optics;

/**
 * The amounts of the optics step.
 *
 * @param correction what the lens did; null while none is chosen
 * @param cropFactor of the camera that took the frame; 0 when not known, which takes the one of the lens's calibration
 * @param distortionPercent how much of the distortion is taken back
 * @param fringesPercent the same for colour fringes
 * @param shadingPercent the same for dark corners
 */
public record OpticsSettings(
        boolean on,
        LensCorrection correction,
        double cropFactor,
        double distortionPercent,
        double fringesPercent,
        double shadingPercent) {
    public static final OpticsSettings OFF = new OpticsSettings(false, null, 0, 100, 100, 100);

    /** All of a correction that a file asks for itself. */
    public static OpticsSettings full(LensCorrection own) {
        return new OpticsSettings(true, own, 0, 100, 100, 100);
    }

    public OpticsSettings {
        check("Distortion", distortionPercent);
        check("Colour fringes", fringesPercent);
        check("Dark corners", shadingPercent);
        if (!(cropFactor >= 0 && cropFactor < 100)) {
            throw new IllegalArgumentException("The crop factor must be 0 to 100, not " + cropFactor);
        }
    }

    private static void check(String what, double percent) {
        if (!(percent >= 0 && percent <= 100)) {
            throw new IllegalArgumentException(what + " must be taken back by 0 to 100 %, not " + percent);
        }
    }

    public boolean idle() {
        return !on || correction == null || !bends() && !fringes() && !shades();
    }

    /** What concerns places alone. */
    public OpticsSettings withoutShading() {
        return new OpticsSettings(on, correction, cropFactor, distortionPercent, fringesPercent, 0);
    }

    public boolean bends() {
        return correction.bends() && distortionPercent > 0;
    }

    public boolean fringes() {
        return correction.fringes() && fringesPercent > 0;
    }

    public boolean shades() {
        return correction.shades() && shadingPercent > 0;
    }
}
