package org.rainsieve.noise;

/** Noise near black is cut where the sensor writes nothing lower: how near the cut lies to black. */
public final class Censoring {
    private Censoring() {}

    /**
     * A measure for networks, from 0 (never cut) to 1 (black level zero: half of the noise at black is cut).
     *
     * @param floor the lowest signal that the sensor writes, 0 or less
     * @param readVariance variance at black
     */
    public static float nearness(double floor, double readVariance) {
        if (floor >= 0) {
            return 1;
        }
        double sds = floor / Math.sqrt(Math.max(readVariance, 1e-12));
        return (float) (1 / (1 + sds * sds));
    }
}
