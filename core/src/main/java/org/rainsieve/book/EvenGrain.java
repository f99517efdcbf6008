package org.rainsieve.book;

import java.util.Arrays;

/**
 * Grain kept for each frame of a group so that all come out alike: every frame is brought down to the least grain that any
 * of them would have with its own settings. Noise is never added, so a frame never keeps more than its settings say.
 */
public final class EvenGrain {
    private EvenGrain() {}

    /**
     * @param sigmas noise of each frame at mid-grey before denoising, as shown after push
     * @param keptPercent grain kept by each frame's own settings
     * @return grain kept in percent, frame by frame
     */
    public static double[] keptPercent(double[] sigmas, double[] keptPercent) {
        double[] grain = new double[sigmas.length];
        for (int i = 0; i < grain.length; i++) {
            grain[i] = sigmas[i] * keptPercent[i];
        }
        double least = Arrays.stream(grain).min().orElse(0);
        for (int i = 0; i < grain.length; i++) {
            grain[i] = sigmas[i] > 0 ? least / sigmas[i] : keptPercent[i];
        }
        return grain;
    }
}
