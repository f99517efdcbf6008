package org.rainsieve.pipeline;

import java.util.Map;
import java.util.SplittableRandom;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;

/** A short trial of how fast this machine denoises. Takes some two seconds of both cores. */
public final class SpeedTrial {
    private static final int SIDE = 1024;
    private static final int TURNS = 3;
    private static final double A = 0.002;
    private static final double B = 2e-5;

    /** Seconds for a megapixel on two cores of the machine in docs/benchmarks.md. */
    private static final Map<String, Double> USUAL = Map.of("Quick", 0.101, "Learned", 0.435);

    private SpeedTrial() {}

    /** @return by how much this machine takes longer than the usual one, in the geometric mean of the methods tried */
    public static double slower() {
        SplittableRandom random = new SplittableRandom(1);
        short[] samples = new short[SIDE * SIDE];
        for (int i = 0; i < samples.length; i++) {
            double light = 0.4 * (i % SIDE) / SIDE;
            double noisy = light + Math.sqrt(A * light + B) * random.nextGaussian();
            samples[i] = (short) Math.round(512 + 15_000 * Math.max(-0.03, Math.min(1, noisy)));
        }
        Mosaic mosaic = new Mosaic(SIDE, SIDE, samples, CfaPattern.RGGB, new float[] {512}, 1, 1, 15_512);
        double logs = 0;
        for (Map.Entry<String, Double> method : USUAL.entrySet()) {
            double best = Double.MAX_VALUE;
            for (int turn = 0; turn < TURNS; turn++) {
                long begun = System.nanoTime();
                new DenoiseStep(
                                new Object(),
                                mosaic,
                                NoiseModel.uniform(A, B),
                                new double[] {2, 1, 1.5},
                                new DenoiseSettings(true, method.getKey(), 20, 0),
                                new WorkingMemory(1 << 26),
                                Cancel.NEVER)
                        .fill(new Planes(mosaic.bounds(), 3));
                best = Math.min(best, (System.nanoTime() - begun) / 1e9);
            }
            logs += Math.log(best / (SIDE * SIDE / 1e6) / method.getValue());
        }
        return Math.exp(logs / USUAL.size());
    }
}
