package org.rainsieve.colour;

/** Colour spaces for delivery; their curves as ICC parametric curves: y = (a·x + b)^g above d, c·x below (ICC.1:2010, 10.16). */
public enum DeliverySpace {
    /** IEC 61966-2-1. */
    SRGB("sRGB", RgbSpace.SRGB, 2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045),
    /** Adobe RGB (1998), 4.3.1.2: a gamma of 563/256. */
    ADOBE_RGB("Adobe RGB (1998)", RgbSpace.ADOBE_RGB, 563 / 256.0, 1, 0, 0, 0),
    DISPLAY_P3("Display P3", RgbSpace.DISPLAY_P3, 2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045),
    /** ISO 22028-2: a gamma of 1.8 with a straight line below 16/512. */
    PROPHOTO("ProPhoto RGB", RgbSpace.PROPHOTO, 1.8, 1, 0, 1 / 16.0, 16 / 512.0);

    private static final int STEPS = 1 << 16;

    private final String title;
    private final RgbSpace primaries;
    private final double[] curve;
    private float[] table;

    DeliverySpace(String title, RgbSpace primaries, double... curve) {
        this.title = title;
        this.primaries = primaries;
        this.curve = curve;
    }

    public String title() {
        return title;
    }

    public RgbSpace primaries() {
        return primaries;
    }

    /** g, a, b, c, d. */
    public double[] curve() {
        return curve.clone();
    }

    /** From encoded values, 0 to 1, to linear light. */
    public double linear(double encoded) {
        return encoded >= curve[4] ? Math.pow(curve[1] * encoded + curve[2], curve[0]) : curve[3] * encoded;
    }

    double encoded(double linear) {
        double above = (Math.pow(Math.max(0, linear), 1 / curve[0]) - curve[2]) / curve[1];
        return above >= curve[4] ? above : linear / curve[3];
    }

    /** Encoded values by the root of the linear ones, so that the steps in the shadows are fine. */
    public synchronized float[] table() {
        if (table == null) {
            float[] made = new float[STEPS + 2];
            for (int i = 0; i < made.length; i++) {
                double root = (double) i / STEPS;
                made[i] = (float) Math.min(1, encoded(root * root));
            }
            table = made;
        }
        return table;
    }

    public static float looked(float[] table, float linear) {
        float at = (float) Math.sqrt(Math.max(0, Math.min(1, linear))) * STEPS;
        int i = (int) at;
        return table[i] + (at - i) * (table[i + 1] - table[i]);
    }
}
