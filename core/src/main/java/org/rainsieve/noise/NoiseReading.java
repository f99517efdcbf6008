package org.rainsieve.noise;

/**
 * The noise of one frame as its pixels show it.
 *
 * @param sigmaErrorPercent half the 95 % interval of the noise's sd at the frame's own brightness, in % of it
 * @param coarseToFine noise variance of means of neighbours against that of single photosites, as white noise has 1
 * @param blackErrorPercent as sigmaErrorPercent, at black; 0 in readings of before it was kept
 * @param greyErrorPercent the same at 18 % grey
 */
public record NoiseReading(
        NoiseModel law,
        double sigmaErrorPercent,
        double coarseToFine,
        double blackErrorPercent,
        double greyErrorPercent) {
    public NoiseReading(NoiseModel law, double sigmaErrorPercent, double coarseToFine) {
        this(law, sigmaErrorPercent, coarseToFine, sigmaErrorPercent, sigmaErrorPercent);
    }

    static final double MOST_ERROR_PERCENT = 25;

    /** Too little smooth picture, or too much texture, to go by. */
    public boolean uncertain() {
        return sigmaErrorPercent > MOST_ERROR_PERCENT;
    }
}
