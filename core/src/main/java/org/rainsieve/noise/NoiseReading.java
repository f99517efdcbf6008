package org.rainsieve.noise;

/**
 * The noise of one frame as its pixels show it.
 *
 * @param sigmaErrorPercent half the 95 % interval of the noise's sd at the frame's own brightness, in % of it
 * @param coarseToFine noise variance of means of neighbours against that of single photosites, as white noise has 1
 */
public record NoiseReading(NoiseModel law, double sigmaErrorPercent, double coarseToFine) {
    private static final double MOST_ERROR_PERCENT = 25;

    /** Too little smooth picture, or too much texture, to go by. */
    public boolean uncertain() {
        return sigmaErrorPercent > MOST_ERROR_PERCENT;
    }
}
