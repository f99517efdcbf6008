package org.rainsieve.primitives;

/** 3t² − 2t³ from 0 to 1, level at both ends: the cubic of Hermite's interpolation. */
public final class Smoothstep {
    private Smoothstep() {}

    /** @param t below 0 gives 0, above 1 gives 1 */
    public static double at(double t) {
        double within = Math.max(0, Math.min(1, t));
        return within * within * (3 - 2 * within);
    }
}
