package org.rainsieve.mask;

import org.rainsieve.primitives.BoxMean;

/**
 * The guided filter: He, Sun, Tang, *Guided Image Filtering*, IEEE TPAMI 35(6), 2013, with a grey guide. What it gives for a
 * pixel rests on what lies within {@code 2·radius} of it.
 */
final class GuidedFilter {
    private GuidedFilter() {}

    /**
     * @param strength what is filtered, w × h
     * @param guide the same size
     * @param epsilon variance of the guide below which there is no edge
     */
    static float[] filter(float[] strength, float[] guide, int w, int h, int radiusPx, double epsilon) {
        int n = w * h;
        double[] plane = new double[n];
        for (int i = 0; i < n; i++) {
            plane[i] = guide[i];
        }
        double[] meanGuide = BoxMean.cutOff(plane, w, h, radiusPx);
        for (int i = 0; i < n; i++) {
            plane[i] = strength[i];
        }
        double[] meanStrength = BoxMean.cutOff(plane, w, h, radiusPx);
        for (int i = 0; i < n; i++) {
            plane[i] = (double) guide[i] * guide[i];
        }
        double[] squares = BoxMean.cutOff(plane, w, h, radiusPx);
        for (int i = 0; i < n; i++) {
            plane[i] = (double) guide[i] * strength[i];
        }
        double[] products = BoxMean.cutOff(plane, w, h, radiusPx);
        double[] slope = squares;
        double[] base = products;
        for (int i = 0; i < n; i++) {
            double variance = squares[i] - meanGuide[i] * meanGuide[i];
            double covariance = products[i] - meanGuide[i] * meanStrength[i];
            slope[i] = covariance / (Math.max(0, variance) + epsilon);
            base[i] = meanStrength[i] - slope[i] * meanGuide[i];
        }
        double[] meanSlope = BoxMean.cutOff(slope, w, h, radiusPx);
        double[] meanBase = BoxMean.cutOff(base, w, h, radiusPx);
        float[] out = new float[n];
        for (int i = 0; i < n; i++) {
            out[i] = (float) Math.max(0, Math.min(1, meanSlope[i] * guide[i] + meanBase[i]));
        }
        return out;
    }
}
