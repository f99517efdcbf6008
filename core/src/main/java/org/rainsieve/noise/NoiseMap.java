package org.rainsieve.noise;

import org.rainsieve.frame.Planes;

/** How far the light stands above the sensor's noise, place by place, as a picture. */
public final class NoiseMap {
    /** White from so many stops on. */
    public static final int WHITE_STOPS = 8;

    private NoiseMap() {}

    /**
     * @param picture linear camera values
     * @return interleaved RGB bytes: black where noise is as strong as the light, white from {@link #WHITE_STOPS} stops on
     */
    public static byte[] render(Planes picture, NoiseModel law) {
        float[] green = picture.channel(1);
        byte[] out = new byte[3 * green.length];
        for (int i = 0; i < green.length; i++) {
            double light = Math.max(1e-9, green[i]);
            double stops = Math.log(light / Math.sqrt(law.variance(1, light))) / Math.log(2);
            byte value = (byte) Math.round(255 * Math.max(0, Math.min(1, stops / WHITE_STOPS)));
            out[3 * i] = value;
            out[3 * i + 1] = value;
            out[3 * i + 2] = value;
        }
        return out;
    }
}
