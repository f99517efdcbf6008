package org.rainsieve.noise;

import java.util.Arrays;
import java.util.List;
import org.rainsieve.primitives.Median;

/**
 * How a body's noise grows with ISO: a in proportion, b = r₀·ISO² + r₁ (read noise before and after the gain). Fitted to
 * the greens of many frames, robustly, so that single frames do not bend it.
 *
 * @param aPerIso a at ISO 1
 * @param sigmaErrorPercent half the 95 % interval of the fitted sd at 18 % grey, from the readings' scatter about the law
 * @param readings how many frames it rests on
 */
public record NoiseLaw(double aPerIso, double r0, double r1, double sigmaErrorPercent, int readings) {
    /** On fewer readings than this, or on one ISO only, the law is a guess. (Common practice.) */
    private static final int FEW = 5;

    private static final int ROUNDS = 15;
    private static final double MID_GREY = 0.18;

    /** One frame's law at its ISO. */
    public record AtIso(int iso, NoiseModel law) {}

    /** @return the law, or null without readings */
    public static NoiseLaw fit(List<AtIso> readings) {
        List<AtIso> known = readings.stream().filter(r -> r.iso > 0).toList();
        if (known.isEmpty()) {
            return null;
        }
        double aPerIso = Median.of(
                known.stream().mapToDouble(r -> r.law.a().get(1) / r.iso).toArray());
        double r0 = 0;
        double r1 = 0;
        double[] trust = new double[known.size()];
        Arrays.fill(trust, 1);
        for (int round = 0; round < ROUNDS; round++) {
            // Least squares of relative errors of b; neither part can be negative.
            double s4 = 0;
            double s2 = 0;
            double s0 = 0;
            double t2 = 0;
            double t0 = 0;
            for (int i = 0; i < trust.length; i++) {
                double iso2 = Math.pow(known.get(i).iso, 2);
                double b = known.get(i).law.b().get(1);
                double w = trust[i] / (b * b);
                s4 += w * iso2 * iso2;
                s2 += w * iso2;
                s0 += w;
                t2 += w * iso2 * b;
                t0 += w * b;
            }
            double det = s4 * s0 - s2 * s2;
            r0 = det > 1e-9 * s4 * s0 ? (t2 * s0 - t0 * s2) / det : t2 / s4;
            r1 = det > 1e-9 * s4 * s0 ? (t0 * s4 - t2 * s2) / det : 0;
            if (r0 < 0) {
                r0 = 0;
                r1 = t0 / s0;
            }
            if (r1 < 0) {
                r1 = 0;
                r0 = t2 / s4;
            }
            for (int i = 0; i < trust.length; i++) {
                double fitted = r0 * Math.pow(known.get(i).iso, 2) + r1;
                double off = known.get(i).law.b().get(1) / fitted - 1;
                trust[i] = 1 / (1 + off * off / 0.09);
            }
        }
        NoiseLaw law = new NoiseLaw(aPerIso, r0, r1, 0, known.size());
        double[] off = known.stream()
                .mapToDouble(r -> Math.abs(Math.log(sigma(r.law) / law.sigma(r.iso))))
                .toArray();
        double scatter = Median.of(off) / 0.6745;
        return new NoiseLaw(aPerIso, r0, r1, 200 * scatter / Math.sqrt(known.size()), known.size());
    }

    /** The noise at one ISO. */
    public NoiseModel at(double iso) {
        return NoiseModel.uniform(aPerIso * iso, r0 * iso * iso + r1);
    }

    /** Sd of one green photosite at 18 % grey, 1.0 = clipping. */
    public double sigma(double iso) {
        return Math.sqrt(aPerIso * iso * MID_GREY + r0 * iso * iso + r1);
    }

    public static double sigma(NoiseModel law) {
        return Math.sqrt(law.variance(1, MID_GREY));
    }

    /**
     * Sd of one green photosite where the frame is shown as 18 % grey.
     *
     * @param brightened by how much it is brightened to be shown, 2^push
     */
    public static double sigmaAsShown(NoiseModel law, double brightened) {
        return brightened * Math.sqrt(law.variance(1, MID_GREY / brightened));
    }

    public boolean restsOnFew() {
        return readings < FEW;
    }
}
