package org.rainsieve.enlarge;

import java.util.List;
import org.rainsieve.noise.NoiseModel;

/**
 * What is left of a picture's noise when it is to be enlarged.
 *
 * @param gains that make its colours neutral, R, G, B
 * @param a of the noise left, for each colour: the variance is a·x + b, see {@link NoiseModel}
 */
public record NoiseLeft(List<Double> gains, List<Double> a, List<Double> b) {
    public static final NoiseLeft NONE =
            new NoiseLeft(List.of(1.0, 1.0, 1.0), List.of(0.0, 0.0, 0.0), List.of(0.0, 0.0, 0.0));

    /** @param grainKept share of the noise's sd that was left in, 0 to 1 */
    public static NoiseLeft of(double[] gains, NoiseModel law, double grainKept) {
        double share = grainKept * grainKept;
        return new NoiseLeft(
                List.of(gains[0], gains[1], gains[2]),
                law.a().stream().map(a -> share * a).toList(),
                law.b().stream().map(b -> share * b).toList());
    }

    /** What brings a colour to the others' white, the largest of them 1. */
    float balance(int colour) {
        double most = Math.max(gains.get(0), Math.max(gains.get(1), gains.get(2)));
        return (float) (gains.get(colour) / most);
    }

    /** Of the variance slope · x + black of a colour as {@link #balance} makes it. */
    float slope(int colour) {
        return (float) (balance(colour) * a.get(colour));
    }

    float atBlack(int colour) {
        return (float) (balance(colour) * balance(colour) * b.get(colour));
    }
}
