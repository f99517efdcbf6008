package org.rainsieve.measure;

import java.util.Arrays;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * How far a picture's edges go beyond their surroundings in the picture it was made from: of the luminance at steep places,
 * the excess over the 13 × 13 neighbourhood's range as a share of that range; the 99th of 100.
 */
public final class Overshoot {
    private static final int REACH = 6;
    /** Edges are ranges of so many sd of the noise. */
    private static final double EDGE = 10;

    private Overshoot() {}

    /**
     * @param before of the same size and place as after
     * @param gains white-balance gains
     * @param noiseVariance beyond which a range is an edge
     * @return 0 without edges; 0.05 when edges overshoot by 5 % of their height
     */
    public static double of(Planes before, Planes after, double[] gains, double noiseVariance) {
        Region r = before.region();
        float[] from = luminance(before, gains);
        float[] to = luminance(after, gains);
        double least = EDGE * Math.sqrt(noiseVariance);
        double[] excess = new double[from.length];
        int edges = 0;
        for (int y = REACH; y < r.height() - REACH; y++) {
            for (int x = REACH; x < r.width() - REACH; x++) {
                float low = Float.MAX_VALUE;
                float high = -Float.MAX_VALUE;
                for (int dy = -REACH; dy <= REACH; dy++) {
                    for (int dx = -REACH; dx <= REACH; dx++) {
                        float value = from[(y + dy) * r.width() + x + dx];
                        low = Math.min(low, value);
                        high = Math.max(high, value);
                    }
                }
                if (high - low > least) {
                    float value = to[y * r.width() + x];
                    excess[edges++] = Math.max(0, Math.max(value - high, low - value) / (high - low));
                }
            }
        }
        Arrays.sort(excess, 0, edges);
        return edges == 0 ? 0 : excess[(int) (0.99 * (edges - 1))];
    }

    private static float[] luminance(Planes planes, double[] gains) {
        float[] sum = new float[planes.channel(0).length];
        for (int c = 0; c < 3; c++) {
            float[] from = planes.channel(c);
            float gain = (float) (gains[c] / 3);
            for (int i = 0; i < sum.length; i++) {
                sum[i] += gain * from[i];
            }
        }
        return sum;
    }
}
