package org.rainsieve.noise;

/** The standard normal law. */
public final class Gaussian {
    /** Chebyshev fit of the complementary error function, relative error below 1.2·10⁻⁷ (Press et al., Numerical Recipes, erfcc). */
    private static final double[] ERFC = {
        -1.26551223,
        1.00002368,
        0.37409196,
        0.09678418,
        -0.18628806,
        0.27886807,
        -1.13520398,
        1.48851587,
        -0.82215223,
        0.17087277
    };

    private Gaussian() {}

    public static double density(double x) {
        return Math.exp(-x * x / 2) / Math.sqrt(2 * Math.PI);
    }

    /** The share below x. */
    public static double below(double x) {
        double z = Math.abs(x) / Math.sqrt(2);
        double t = 1 / (1 + 0.5 * z);
        double sum = 0;
        for (int i = ERFC.length - 1; i >= 0; i--) {
            sum = sum * t + ERFC[i];
        }
        double above = t * Math.exp(-z * z + sum) / 2;
        return x > 0 ? 1 - above : above;
    }
}
