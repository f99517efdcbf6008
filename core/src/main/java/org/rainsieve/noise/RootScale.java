package org.rainsieve.noise;

/**
 * A brightness scale for interpolating and learning: a square root with an offset, so that noise is of nearly the same
 * size and steps of brightness look alike everywhere, continued by a straight line far below black so that no value is
 * lost. T(0) = 0.
 */
public record RootScale(float offset) {
    /** The offset 3/8·a + b/a of the stabilising root, for the colour with the largest white-balance gain. */
    public static RootScale of(double a, double b, double largestGain) {
        return new RootScale((float) (largestGain * (0.375 * a + b / a)));
    }

    /** For a frame: the offset of its greens, wide enough for the colour that white balance lifts most. */
    public static RootScale of(NoiseModel noise, double[] gains) {
        return of(noise.a().get(1), noise.b().get(1), Math.max(gains[0], Math.max(gains[1], gains[2])));
    }

    public float forward(float y) {
        double u = y + offset;
        double knee = offset / 4;
        double root = u >= knee ? Math.sqrt(u) : Math.sqrt(knee) + (u - knee) / (2 * Math.sqrt(knee));
        return (float) (root - Math.sqrt(offset));
    }

    public float inverse(float t) {
        double root = t + Math.sqrt(offset);
        double knee = Math.sqrt(offset / 4);
        double u = root >= knee ? root * root : knee * knee + (root - knee) * 2 * knee;
        return (float) (u - offset);
    }

    public float brightSd(double a) {
        return (float) (Math.sqrt(a) / 2);
    }

    public float darkSd(double b) {
        return (float) (Math.sqrt(b) / (2 * Math.sqrt(offset)));
    }
}
