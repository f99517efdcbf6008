package org.rainsieve.reading;

import java.util.Arrays;
import java.util.List;
import java.util.concurrent.atomic.LongAdder;
import java.util.stream.IntStream;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.NoiseReader;
import org.rainsieve.noise.NoiseReading;
import org.rainsieve.noise.PictureNoise;
import org.rainsieve.noise.SettledLaw;

/**
 * What is measured on one frame.
 *
 * @param noise as read from the pixels; null where they give no answer
 * @param profile as the file's NoiseProfile tag tells; null without one
 * @param clippedPercent share of photosites at the clipping point
 * @param emptyPercent share of photosites at the lowest value there is
 * @param middleStops median brightness of the greens, in stops from 18 %
 * @param highStops brightness that all but 0.5 % of the greens stay below, in stops from clipping; null in readings of before it was
 *     read
 * @param blur null where too few edges tell it, and in readings of before it was read
 * @param defects photosites found to be hot or dead
 * @param dark true for an exposure without light, which tells defects and nothing else
 * @param notes what the camera or a program did to the picture before, in plain words; empty for raw files
 * @param remarks what the file holds or asks for that was left out, in plain words
 */
public record Reading(
        NoiseReading noise,
        NoiseModel profile,
        double clippedPercent,
        double emptyPercent,
        double middleStops,
        Double highStops,
        Blur blur,
        int defects,
        boolean dark,
        List<String> notes,
        List<String> remarks) {
    public Reading {
        notes = notes == null ? List.of() : List.copyOf(notes);
        remarks = remarks == null ? List.of() : List.copyOf(remarks);
    }

    /** White noise has 1; neighbours that share their noise were smoothed together (5 and more; fresh noise on fine texture, measured on
     * photographs at low ISO, up to 1.9). */
    private static final double SMOOTHED = 2.2;

    /** What was sharpened has less. */
    private static final double SHARPENED = 0.39;

    /** Of a dark frame all but this share lies within a few sd of black. */
    private static final double DARK_SHARE = 0.995;

    /** What is brighter than all the rest, such as lamps and glints, is no part of a subject. (c.p.) */
    private static final double HIGHEST_SHARE = 0.005;

    private static final int SAMPLES = 200_000;

    /** A reading with what is kept apart from it, being larger. */
    public record Full(Reading reading, FocusMap focusMap, DefectMap defects) {}

    /**
     * @param profile the law of the NoiseProfile tag, or null
     * @param gains white-balance gains
     */
    public static Full full(Capture capture, NoiseModel profile, double[] gains) {
        return capture instanceof Picture picture
                ? new Full(ofPicture(picture, profile), null, DefectMap.EMPTY)
                : full((Mosaic) capture, profile, gains);
    }

    private static Reading ofPicture(Picture picture, NoiseModel profile) {
        long clipped = 0;
        long empty = 0;
        float[] greens = new float[SAMPLES];
        int count = 0;
        long pixels = (long) picture.width() * picture.height();
        long apart = apart(pixels);
        long looked = 0;
        for (long i = 0; i < pixels; i += apart, looked++) {
            int x = (int) (i % picture.width());
            int y = (int) (i / picture.width());
            clipped += picture.clippedAt(0, x, y) || picture.clippedAt(1, x, y) || picture.clippedAt(2, x, y) ? 1 : 0;
            empty += picture.emptyAt(1, x, y) ? 1 : 0;
            if (count < greens.length) {
                greens[count++] = picture.at(1, x, y);
            }
        }
        Arrays.sort(greens, 0, count);
        return new Reading(
                PictureNoise.read(picture),
                profile,
                100.0 * clipped / looked,
                100.0 * empty / looked,
                stops(greens[count / 2] / 0.18),
                stops(greens[highest(count)]),
                null,
                0,
                false,
                List.of(),
                List.of());
    }

    private static double stops(double light) {
        return Math.log(Math.max(light, 1e-5)) / Math.log(2);
    }

    /** Where in their order the values lie that all but {@link #HIGHEST_SHARE} stay below. */
    private static int highest(int count) {
        return (int) ((1 - HIGHEST_SHARE) * (count - 1));
    }

    /** Every so many pixels are looked at: an odd number, so that all columns of a pattern have their turn. */
    private static long apart(long pixels) {
        return (pixels + SAMPLES - 1) / SAMPLES | 1;
    }

    /** The same with what the opened file tells in words. */
    public Reading with(List<String> told, List<String> leftOut) {
        return new Reading(
                noise,
                profile,
                clippedPercent,
                emptyPercent,
                middleStops,
                highStops,
                blur,
                defects,
                dark,
                told,
                leftOut);
    }

    /** The same without how sharp it is, which takes most of the time. */
    public static Full ofSensor(Capture capture, NoiseModel profile, double[] gains) {
        if (capture instanceof Picture picture) {
            return new Full(ofPicture(picture, profile), null, DefectMap.EMPTY);
        }
        Mosaic mosaic = (Mosaic) capture;
        Reading reading = of(mosaic, profile);
        return new Full(reading, null, DefectMap.found(mosaic, usable(reading), gains));
    }

    /** Where neither pixels nor tags tell it, a usual one finds what stands out far enough. */
    private static NoiseModel usable(Reading reading) {
        return reading.law() != null ? reading.law() : SettledLaw.typical(0).law();
    }

    private static Full full(Mosaic mosaic, NoiseModel profile, double[] gains) {
        Reading light = of(mosaic, profile);
        NoiseModel law = usable(light);
        DefectMap defects = DefectMap.found(mosaic, law, gains);
        BlurReader.Result blur = light.dark ? null : BlurReader.read(mosaic, law, gains);
        Reading reading = new Reading(
                light.noise,
                profile,
                light.clippedPercent,
                light.emptyPercent,
                light.middleStops,
                light.highStops,
                blur == null ? null : blur.blur(),
                defects.size(),
                light.dark,
                List.of(),
                List.of());
        return new Full(reading, blur == null ? null : blur.map(), defects);
    }

    /** What the trained reader of blur is shown of a mosaic, see {@link BlurEvidence}; null where there are too few edges. */
    public static float[] blurEvidence(Mosaic mosaic, NoiseModel law, double[] gains) {
        return BlurReader.evidence(mosaic, law, gains);
    }

    /** Noise, clipping and brightness alone. */
    public static Reading of(Mosaic mosaic, NoiseModel profile) {
        NoiseReading noise = NoiseReader.read(mosaic);
        LongAdder clipped = new LongAdder();
        LongAdder empty = new LongAdder();
        IntStream.range(0, mosaic.height()).parallel().forEach(y -> {
            int atWhite = 0;
            int atZero = 0;
            for (int x = 0; x < mosaic.width(); x++) {
                int sample = mosaic.sample(x, y);
                atWhite += sample >= mosaic.white() ? 1 : 0;
                atZero += sample == 0 ? 1 : 0;
            }
            clipped.add(atWhite);
            empty.add(atZero);
        });
        float[] greens = new float[SAMPLES];
        int count = 0;
        long pixels = (long) mosaic.width() * mosaic.height();
        long apart = apart(pixels);
        for (long i = 0; i < pixels && count < SAMPLES; i += apart) {
            int x = (int) (i % mosaic.width());
            int y = (int) (i / mosaic.width());
            if (mosaic.pattern().colourAt(x, y) == 1) {
                greens[count++] = mosaic.at(x, y);
            }
        }
        Arrays.sort(greens, 0, count);
        double middle = count == 0 ? 0 : greens[count / 2];
        NoiseModel law = profile != null ? profile : noise == null ? null : noise.law();
        double upper = count == 0 ? 0 : greens[(int) (DARK_SHARE * (count - 1))];
        boolean dark = law != null && upper < 6 * Math.sqrt(law.variance(1, 0));
        return new Reading(
                noise,
                profile,
                100.0 * clipped.sum() / pixels,
                100.0 * empty.sum() / pixels,
                stops(middle / 0.18),
                count == 0 ? null : stops(greens[highest(count)]),
                null,
                0,
                dark,
                List.of(),
                List.of());
    }

    /** True if noise was taken out of the file before: neighbouring photosites share what noise there is. */
    public boolean denoisedBefore() {
        return noise != null
                && !noise.uncertain()
                && (noise.coarseToFine() > SMOOTHED || noise.coarseToFine() < SHARPENED);
    }

    /** The law to go by: the tag's where there is one, else what was read. Null when neither is known. */
    public NoiseModel law() {
        return profile != null ? profile : noise == null ? null : noise.law();
    }
}
