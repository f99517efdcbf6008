package org.rainsieve.reading;

import java.util.Arrays;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.NoiseReader;
import org.rainsieve.noise.NoiseReading;

/**
 * What is measured on one frame.
 *
 * @param noise as read from the pixels; null where they give no answer
 * @param profile as the file's NoiseProfile tag tells; null without one
 * @param clippedPercent share of photosites at the clipping point
 * @param emptyPercent share of photosites at the lowest value there is
 * @param middleStops median brightness of the greens, in stops from 18 %
 */
public record Reading(
        NoiseReading noise, NoiseModel profile, double clippedPercent, double emptyPercent, double middleStops) {
    /** White noise has 1; neighbours that share their noise were smoothed together. */
    private static final double SMOOTHED = 1.6;

    private static final int SAMPLES = 200_000;

    /** @param profile the law of the NoiseProfile tag, or null */
    public static Reading of(Mosaic mosaic, NoiseModel profile) {
        NoiseReading noise = NoiseReader.readFully(mosaic);
        long clipped = 0;
        long empty = 0;
        float[] greens = new float[SAMPLES];
        int count = 0;
        long pixels = (long) mosaic.width() * mosaic.height();
        long apart = Math.max(1, pixels / SAMPLES | 1);
        for (int y = 0; y < mosaic.height(); y++) {
            for (int x = 0; x < mosaic.width(); x++) {
                int sample = mosaic.sample(x, y);
                clipped += sample >= mosaic.white() ? 1 : 0;
                empty += sample == 0 ? 1 : 0;
                if (((long) y * mosaic.width() + x) % apart == 0
                        && count < SAMPLES
                        && mosaic.pattern().colourAt(x, y) == 1) {
                    greens[count++] = mosaic.at(x, y);
                }
            }
        }
        Arrays.sort(greens, 0, count);
        double middle = count == 0 ? 0 : greens[count / 2];
        return new Reading(
                noise,
                profile,
                100.0 * clipped / pixels,
                100.0 * empty / pixels,
                Math.log(Math.max(middle, 1e-5) / 0.18) / Math.log(2));
    }

    /** True if noise was taken out of the file before: neighbouring photosites share what noise there is. */
    public boolean denoisedBefore() {
        return noise != null
                && !noise.uncertain()
                && (noise.coarseToFine() > SMOOTHED || noise.coarseToFine() < 1 / SMOOTHED / SMOOTHED);
    }

    /** The law to go by: the tag's where there is one, else what was read. Null when neither is known. */
    public NoiseModel law() {
        return profile != null ? profile : noise == null ? null : noise.law();
    }
}
