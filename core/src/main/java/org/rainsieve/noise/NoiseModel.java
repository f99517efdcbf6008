package org.rainsieve.noise;

import java.util.List;
import org.rainsieve.primitives.Median;

/**
 * The noise law var(x) = a·x + b of each colour (red, green, blue) at one sensor ISO, for linear black-subtracted x with
 * 1.0 at the clipping point: Foi, Trimeche, Katkovnik, Egiazarian, IEEE TIP 17(10), 2008. The DNG tag NoiseProfile
 * stores the same pairs.
 */
public record NoiseModel(List<Double> a, List<Double> b) {
    /** Below this the law is no longer a measurement but a division by nothing. */
    private static final double LEAST_A = 1e-8;

    private static final double LEAST_B = 1e-12;

    public NoiseModel {
        if (a.size() != 3 || b.size() != 3) {
            throw new IllegalArgumentException("A noise law has three colours");
        }
        for (int c = 0; c < 3; c++) {
            if (!(a.get(c) >= 0 && a.get(c) < 10 && b.get(c) >= 0 && b.get(c) < 10)) {
                throw new IllegalArgumentException("Not a noise law: a " + a + ", b " + b);
            }
        }
        // A stabilising transform needs both parts; 10⁻⁴·√b of shot noise changes no picture.
        a = List.of(least(a.get(0), b.get(0)), least(a.get(1), b.get(1)), least(a.get(2), b.get(2)));
        b = b.stream().map(v -> Math.max(v, LEAST_B)).toList();
    }

    private static double least(double a, double b) {
        return Math.max(a, Math.max(LEAST_A, 1e-4 * Math.sqrt(b)));
    }

    public static NoiseModel uniform(double a, double b) {
        return new NoiseModel(List.of(a, a, a), List.of(b, b, b));
    }

    /** The values of a NoiseProfile tag: one pair for all colours, or one each. Null if the tag holds neither. */
    public static NoiseModel ofProfile(List<Double> profile) {
        try {
            if (profile.size() == 2) {
                return uniform(profile.get(0), profile.get(1));
            }
            if (profile.size() == 6) {
                return new NoiseModel(
                        List.of(profile.get(0), profile.get(2), profile.get(4)),
                        List.of(profile.get(1), profile.get(3), profile.get(5)));
            }
            return null;
        } catch (IllegalArgumentException e) {
            return null;
        }
    }

    /** Whether two colours have the same law. */
    boolean isAlike(int colour, int other) {
        return a.get(colour).equals(a.get(other)) && b.get(colour).equals(b.get(other));
    }

    /** Variance of the given colour at signal x; below black that of black. */
    public double variance(int colour, double x) {
        return a.get(colour) * Math.max(0, x) + b.get(colour);
    }

    /** The same of the colour that has most. */
    public double largestVariance(double x) {
        return Math.max(variance(0, x), Math.max(variance(1, x), variance(2, x)));
    }

    /** Per colour the median of several laws of one body at one ISO, so that no single frame moves the rest. */
    public static NoiseModel pooled(List<NoiseModel> models) {
        if (models.isEmpty()) {
            throw new IllegalArgumentException("There is nothing to pool");
        }
        Double[] a = new Double[3];
        Double[] b = new Double[3];
        for (int c = 0; c < 3; c++) {
            int colour = c;
            a[c] = Median.ofSorted(
                    models.stream().mapToDouble(m -> m.a.get(colour)).sorted().toArray());
            b[c] = Median.ofSorted(
                    models.stream().mapToDouble(m -> m.b.get(colour)).sorted().toArray());
        }
        return new NoiseModel(List.of(a), List.of(b));
    }
}
