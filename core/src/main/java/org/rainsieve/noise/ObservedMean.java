package org.rainsieve.noise;

/**
 * What the samples of even light average to, where the sensor cuts noise at its floor and at white: above the light near black,
 * below it near white (Foi, <i>Clipped noisy images</i>, 2009).
 */
public final class ObservedMean {
    private static final double REACH_SDS = 5;
    private static final int STEPS = 1024;

    private final float darkFrom;
    private final float darkTo;
    private final float brightFrom;
    private final float largest;
    private final float[] dark;
    private final float[] bright;

    /** @param largest light that is asked about */
    public ObservedMean(SensorNoise noise, int colour, double largest) {
        NoiseModel law = noise.law();
        double sdAtBlack = Math.sqrt(law.variance(colour, 0));
        double floor = noise.floor();
        // How far up from the floor noise may still meet it, and how far down from white.
        double top = floor;
        while (top - floor < REACH_SDS * Math.sqrt(law.variance(colour, top))) {
            top += sdAtBlack / 4;
        }
        boolean cutsBlack = top > -REACH_SDS * sdAtBlack;
        darkFrom = cutsBlack ? (float) (Math.min(floor, 0) - REACH_SDS * sdAtBlack) : Float.NEGATIVE_INFINITY;
        darkTo = cutsBlack ? (float) top : Float.NEGATIVE_INFINITY;
        dark = new float[cutsBlack ? STEPS + 1 : 0];
        for (int i = 0; i < dark.length; i++) {
            double x = darkFrom + (darkTo - darkFrom) * i / STEPS;
            double sd = Math.sqrt(law.variance(colour, x));
            dark[i] = (float) (floor + sd * CensoredNormal.meanAboveFloor((x - floor) / sd));
        }
        brightFrom = (float) (1 - REACH_SDS * Math.sqrt(law.variance(colour, 1)));
        bright = new float[STEPS + 1];
        for (int i = 0; i <= STEPS; i++) {
            double x = brightFrom + (largest - brightFrom) * i / STEPS;
            double sd = Math.sqrt(law.variance(colour, x));
            bright[i] = (float) (1 - sd * CensoredNormal.meanAboveFloor((1 - x) / sd));
        }
        this.largest = (float) largest;
    }

    public float of(float light) {
        if (light < darkTo) {
            // Estimates below black stand for light below what noise lets through; the floor is never undercut.
            return light <= darkFrom ? dark[0] : lerp(dark, (light - darkFrom) / (darkTo - darkFrom));
        }
        if (light > brightFrom) {
            return light >= largest ? bright[STEPS] : lerp(bright, (light - brightFrom) / (largest - brightFrom));
        }
        return light;
    }

    private static float lerp(float[] table, float share) {
        float place = share * STEPS;
        int i = Math.min(STEPS - 1, (int) place);
        return table[i] + (place - i) * (table[i + 1] - table[i]);
    }
}
