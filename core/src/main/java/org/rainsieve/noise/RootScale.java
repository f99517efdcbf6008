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

    /** {@link #forward(float)} of many values at once, in single precision and without branches, so that it vectorises. */
    public void forward(float[] y, float[] to) {
        float knee = offset / 4;
        float slope = (float) (1 / (2 * Math.sqrt(knee)));
        float black = (float) Math.sqrt(offset);
        for (int i = 0; i < y.length; i++) {
            float u = y[i] + offset;
            to[i] = (float) Math.sqrt(Math.max(u, knee)) + (Math.min(u, knee) - knee) * slope - black;
        }
    }

    /** {@link #inverse(float)} likewise. */
    public void inverse(float[] t, float[] to) {
        float knee = (float) Math.sqrt(offset / 4);
        float black = (float) Math.sqrt(offset);
        for (int i = 0; i < t.length; i++) {
            float root = t[i] + black;
            float above = Math.max(root, knee);
            to[i] = above * above + (Math.min(root, knee) - knee) * 2 * knee - offset;
        }
    }

    public float brightSd(double a) {
        return (float) (Math.sqrt(a) / 2);
    }

    public float darkSd(double b) {
        return (float) (Math.sqrt(b) / (2 * Math.sqrt(offset)));
    }
}
