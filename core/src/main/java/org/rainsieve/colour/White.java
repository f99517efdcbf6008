package org.rainsieve.colour;

/** White points as CIE 1931 chromaticities, and the adaptation between them. */
public record White(double x, double y) {
    /** D50 as the ICC profile connection space and the DNG specification use it. */
    public static final White D50 = new White(0.34567, 0.35850);

    /** D65, IEC 61966-2-1. */
    public static final White D65 = new White(0.3127, 0.3290);

    /** Cone responses of the linear Bradford transform, as in the DNG specification and ICC.1 annex E. */
    private static final Matrix3 BRADFORD =
            Matrix3.of(0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296);

    /** XYZ with Y = 1. */
    public double[] xyz() {
        return new double[] {x / y, 1, (1 - x - y) / y};
    }

    /** The matrix that takes XYZ seen under this white to XYZ under the other. */
    public Matrix3 adaptTo(White other) {
        double[] from = BRADFORD.times(xyz());
        double[] to = BRADFORD.times(other.xyz());
        return BRADFORD.inverse()
                .times(Matrix3.diagonal(to[0] / from[0], to[1] / from[1], to[2] / from[2]))
                .times(BRADFORD);
    }

    /** Correlated colour temperature in kelvin; McCamy, Color Research and Application 17 (1992). */
    public double temperatureK() {
        double n = (x - 0.3320) / (0.1858 - y);
        return 449 * n * n * n + 3525 * n * n + 6823.3 * n + 5520.33;
    }
}
