package org.rainsieve.learn;

import java.util.SplittableRandom;
import org.rainsieve.noise.Censoring;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.RootScale;

/**
 * A sensor's noise as it is, and as the network is told of it.
 *
 * @param a shot noise, alike for all colours
 * @param b read noise
 * @param floor where values are cut near black, 0 or less
 * @param step of what the sensor writes, 0 for one too fine to matter
 * @param toldA of each colour
 * @param toldB of each colour
 */
record SimulatedNoise(double a, double b, double floor, double step, double[] toldA, double[] toldB) {
    /** From here on nothing of the noise at black is cut. */
    private static final double NEVER_CUT_SDS = 8;

    /** One that is told as it is, and not cut. */
    static SimulatedNoise plain(double a, double b) {
        return new SimulatedNoise(
                a, b, -NEVER_CUT_SDS * Math.sqrt(b), 0, new double[] {a, a, a}, new double[] {b, b, b});
    }

    static SimulatedNoise cutAtBlack(double a, double b) {
        return new SimulatedNoise(a, b, 0, 0, new double[] {a, a, a}, new double[] {b, b, b});
    }

    /** Some are cut, some are told wrongly: laws are read from pictures. */
    static SimulatedNoise of(double a, double b, SplittableRandom random) {
        double kind = random.nextDouble();
        double sds = kind < 0.15 ? 0 : kind < 0.45 ? 3 * random.nextDouble() : NEVER_CUT_SDS;
        double step = random.nextDouble() < 0.2 ? Math.sqrt(b) * CleanPatches.logUniform(random, 0.3, 2) : 0;
        double total = b + step * step / 12;
        double allA = 1;
        double allB = 1;
        if (random.nextDouble() < 0.5) {
            allA = wrongA(random);
            allB = wrongB(random);
        }
        double[] toldA = {a * allA, a * allA, a * allA};
        double[] toldB = {total * allB, total * allB, total * allB};
        if (random.nextDouble() < 0.15) {
            int colour = random.nextInt(3);
            toldA[colour] *= wrongA(random);
            toldB[colour] *= wrongB(random);
        }
        double floor = -sds * Math.sqrt(total);
        // What is written are whole steps, black being one of them.
        floor = step == 0 ? floor : step * Math.rint(floor / step);
        return new SimulatedNoise(a, b, floor, step, toldA, toldB);
    }

    private static double wrongA(SplittableRandom random) {
        return Math.exp(Math.max(-0.36, Math.min(0.3, 0.15 * Chance.normal(random))));
    }

    private static double wrongB(SplittableRandom random) {
        return Math.pow(2, 2 * random.nextDouble() - 1);
    }

    /** What the sensor writes where light x falls, 1 = the clipping point. */
    double seen(double x, SplittableRandom random) {
        double value = Chance.photons(x / a, random) * a + Math.sqrt(b) * Chance.normal(random);
        if (step > 0) {
            value = step * Math.rint(value / step);
        }
        return Math.min(1, Math.max(floor, value));
    }

    RootScale scale(float[] gain) {
        return RootScale.of(toldA[1], toldB[1], Math.max(gain[0], Math.max(gain[1], gain[2])));
    }

    float nearness() {
        return Censoring.nearness(floor, toldB[1]);
    }
}
