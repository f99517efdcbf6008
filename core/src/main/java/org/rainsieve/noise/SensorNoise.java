package org.rainsieve.noise;

/**
 * What a sensor adds to light: noise by its law, and what it cuts off.
 *
 * @param floor the lowest signal that it writes; noise below was cut. Negative infinity where nothing is cut
 */
public record SensorNoise(NoiseModel law, double floor) {
    /** One that cuts no noise at black. */
    public static SensorNoise uncut(NoiseModel law) {
        return new SensorNoise(law, Double.NEGATIVE_INFINITY);
    }
}
