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

    private static final double COLDEST_K = 1000;
    private static final double HOTTEST_K = 15_000;

    /** Units of tint in a distance of 1 from the Planckian locus in CIE 1960 UCS; common practice, from memory. */
    private static final double TINTS = 3000;

    /**
     * The light that raw developers name by temperature and tint: so far along the Planckian locus (Krystek, Color Research and
     * Application 10 (1985), within 10⁻⁴ from 1,000 to 15,000 K; hotter ones are taken as that), and from there across it.
     *
     * @param tint of 3,000 in a distance of 1 in CIE 1960 UCS; positive above the locus, where light is greener
     */
    public static White ofTemperature(double kelvin, double tint) {
        double k = Math.max(COLDEST_K, Math.min(HOTTEST_K, kelvin));
        double[] at = planckian(k);
        double[] next = planckian(k * 1.0001);
        double du = next[0] - at[0];
        double dv = next[1] - at[1];
        // Hotter light lies to the left: to the right of that way is up.
        double across = tint / TINTS / Math.hypot(du, dv);
        double u = at[0] + dv * across;
        double v = at[1] - du * across;
        double scale = 2 * u - 8 * v + 4;
        return new White(3 * u / scale, 2 * v / scale);
    }

    /** u and v of CIE 1960 UCS. */
    private static double[] planckian(double k) {
        return new double[] {
            (0.860117757 + 1.54118254e-4 * k + 1.28641212e-7 * k * k) / (1 + 8.42420235e-4 * k + 7.08145163e-7 * k * k),
            (0.317398726 + 4.22806245e-5 * k + 4.20481691e-8 * k * k) / (1 - 2.89741816e-5 * k + 1.61456053e-7 * k * k)
        };
    }

    /** Correlated colour temperature in kelvin; McCamy, Color Research and Application 17 (1992). */
    public double temperatureK() {
        double n = (x - 0.3320) / (0.1858 - y);
        return 449 * n * n * n + 3525 * n * n + 6823.3 * n + 5520.33;
    }
}
