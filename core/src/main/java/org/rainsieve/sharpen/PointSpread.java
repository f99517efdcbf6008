package org.rainsieve.sharpen;

/**
 * How a point of light is spread over the sensor: soft (a Gaussian) ∗ disc (a missed focus) ∗ line (a movement). Each may
 * be absent; the whole keeps the light.
 *
 * @param softPx σ of the Gaussian
 * @param discPx radius of the disc
 * @param linePx length of the line
 * @param lineAngleDegrees its direction, anticlockwise from the horizontal as seen on screen
 */
public record PointSpread(double softPx, double discPx, double linePx, double lineAngleDegrees) {

    /** Beyond this nothing reliable can be brought back, and kernels would not fit their tiles. */
    public static final double LARGEST_SOFT_PX = 6;

    public static final double LARGEST_DISC_PX = 12;
    public static final double LARGEST_LINE_PX = 30;

    public PointSpread {
        check("The soft blur", softPx, LARGEST_SOFT_PX);
        check("The disc", discPx, LARGEST_DISC_PX);
        check("The line", linePx, LARGEST_LINE_PX);
        if (!Double.isFinite(lineAngleDegrees)) {
            throw new IllegalArgumentException("The line's angle must be a number of degrees");
        }
    }

    private static void check(String what, double px, double largest) {
        if (!(px >= 0 && px <= largest)) {
            throw new IllegalArgumentException(what + " must be 0 to " + Math.round(largest) + " px, not " + px);
        }
    }

    public static PointSpread soft(double sigmaPx) {
        return new PointSpread(sigmaPx, 0, 0, 0);
    }

    PointSpread withSoft(double sigmaPx) {
        return new PointSpread(sigmaPx, discPx, linePx, lineAngleDegrees);
    }

    public boolean isNone() {
        return softPx == 0 && discPx == 0 && linePx == 0;
    }

    /** How far from its centre the light reaches: 2σ, the disc's edge, half the line. */
    double reachPx() {
        return Math.hypot(2 * softPx, Math.hypot(discPx, linePx / 2));
    }

    /**
     * What is left of a wave: the transfer function, real because the spread is symmetric.
     *
     * @param fx cycles per pixel to the right
     * @param fy cycles per pixel downwards
     */
    public double transfer(double fx, double fy) {
        double f = Math.hypot(fx, fy);
        double soft = Math.exp(-2 * Math.PI * Math.PI * softPx * softPx * f * f);
        double disc = 1;
        double u = 2 * Math.PI * discPx * f;
        if (u > 1e-6) {
            disc = 2 * bessel1(u) / u;
        }
        double angle = Math.toRadians(lineAngleDegrees);
        double along = Math.PI * linePx * (fx * Math.cos(angle) - fy * Math.sin(angle));
        double line = Math.abs(along) < 1e-6 ? 1 : Math.sin(along) / along;
        return soft * disc * line;
    }

    private static final double[] NEAR = {0.5, -0.56249985, 0.21093573, -0.03954289, 0.00443319, -0.00031761, 0.00001109
    };
    private static final double[] AMPLITUDE = {
        0.79788456, 0.00000156, 0.01659667, 0.00017105, -0.00249511, 0.00113653, -0.00020033
    };
    private static final double[] PHASE = {
        -2.35619449, 0.12499612, 0.00005650, -0.00637879, 0.00074348, 0.00079824, -0.00029166
    };

    /** J₁ for x ≥ 0 by the polynomials 9.4.4 and 9.4.6 of Abramowitz, Stegun 1964; error below 10⁻⁷. */
    static double bessel1(double x) {
        return x < 3
                ? x * polynomial(NEAR, x * x / 9)
                : polynomial(AMPLITUDE, 3 / x) * Math.cos(x + polynomial(PHASE, 3 / x)) / Math.sqrt(x);
    }

    private static double polynomial(double[] coefficients, double t) {
        double value = 0;
        for (int i = coefficients.length - 1; i >= 0; i--) {
            value = value * t + coefficients[i];
        }
        return value;
    }
}
