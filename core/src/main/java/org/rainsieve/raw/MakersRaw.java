package org.rainsieve.raw;

import java.nio.ByteBuffer;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.embedded.EmbeddedTags;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import tools.jackson.databind.JsonNode;

/**
 * A raw file of another maker as the fenced decoder tells it, made into a frame like any other: its mosaic, and the tags
 * that a DNG of it has.
 */
public final class MakersRaw {
    /** No maker's compression stays below this; what does has been cut short. */
    private static final double LEAST_BYTES_PER_PIXEL = 0.15;

    private static final int D65 = 21;
    private static final int SIX_BY_SIX = 9;
    /** A masked border is believed when its levels lie this near the one that the decoder gives. */
    private static final double BORDER_NEAR = 0.01;

    private static final int LEAST_BORDER = 12;

    private final byte[] file;
    private final JsonNode told;
    private final short[] samples;
    private final int rawWidth;
    private final Region active;
    private final int white;

    private MakersRaw(byte[] file, FencedDecoder.Decoded decoded) {
        this.file = file;
        this.told = decoded.told();
        this.samples = decoded.samples();
        this.rawWidth = number("rawWidth");
        this.active = new Region(number("left"), number("top"), number("width"), number("height"));
        this.white = number("white");
    }

    public static OpenedFrame of(byte[] file, FencedDecoder decoder) throws RefusedException {
        return new MakersRaw(file, decoder.decode(file)).frame();
    }

    /** What decoder and file say of the shot, also of files whose pixels cannot be read. */
    public static ShotInfo shot(byte[] file, FencedDecoder decoder) throws RefusedException {
        return ShotTags.shot(new MakersRaw(file, decoder.decode(file)).tags());
    }

    private int number(String name) {
        return told.path(name).asInt(0);
    }

    private String text(String name) {
        return told.path(name).asString("").strip();
    }

    private double[] numbers(JsonNode array) {
        double[] values = new double[array.size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = array.get(i).asDouble(0);
        }
        return values;
    }

    private void refuse() throws RefusedException {
        long pixels = (long) rawWidth * number("rawHeight");
        if (told.path("foveon").asBoolean(false)) {
            throw new RefusedException("This sensor has no colour filters but layers; such files are not read.");
        }
        if (number("shots") > 1) {
            throw new RefusedException(
                    "The file holds several shots of one picture (multi-shot); such files are not read.");
        }
        if (!told.path("complaints").isEmpty() || file.length < LEAST_BYTES_PER_PIXEL * pixels) {
            throw new RefusedException(
                    "The raw data of the file are cut short or damaged. Copy it from the card again.");
        }
        if (samples == null) {
            throw new RefusedException(
                    "The file holds no sensor mosaic but colours that the camera has reduced already; such files are not read.");
        }
        Region whole = new Region(0, 0, rawWidth, number("rawHeight"));
        if (active.width() < 16 || active.height() < 16 || !whole.contains(active) || white < 16 || white > 65535) {
            throw new RefusedException(
                    "The size or the white level of the picture make no sense: the file is damaged.");
        }
        if (number("colours") != 3) {
            throw new RefusedException("The sensor's colour filters are not red, green and blue.");
        }
        // Rows that were never written are all alike.
        int last = (active.bottom() - 1) * rawWidth;
        int first = Math.max(0, active.bottom() - 16) * rawWidth;
        short same = samples[last];
        boolean empty = true;
        for (int i = first; i < last + rawWidth && empty; i++) {
            empty = samples[i] == same;
        }
        if (empty && (same & 0xffff) < white) {
            throw new RefusedException(
                    "The lower part of the picture is empty: the file is cut short. Copy it from the card again.");
        }
    }

    private CfaPattern pattern() throws RefusedException {
        long filters = told.path("filters").asLong(0);
        if (filters == SIX_BY_SIX) {
            return SixBySixPhase.of(
                    samples, rawWidth, active, number("black"), white, declaredSixBySix(), multipliers());
        }
        String names = text("colourNames");
        byte[] colours = new byte[4];
        for (int i = 0; i < 4; i++) {
            // Two bits for each place of a pattern of eight rows and two columns, as dcraw began it.
            for (int row = i / 2; row < 8; row += 2) {
                int index = (int) (filters >> (((row << 1 & 14) | i % 2) << 1) & 3);
                int colour = index < names.length() ? "RGB".indexOf(names.charAt(index)) : -1;
                if (filters == 0 || colour < 0 || row > 1 && colours[i] != colour) {
                    throw new RefusedException(
                            filters == 0
                                    ? "This sensor has no colour filters (monochrome); such files are not read yet."
                                    : "The sensor's colour filters repeat neither as red, green, green, blue in 2×2 nor as the"
                                            + " 6×6 array in use; other layouts are not read.");
                }
                colours[i] = (byte) colour;
            }
        }
        CfaPattern pattern = new CfaPattern(2, 2, colours);
        if (!pattern.isBayer()) {
            throw new RefusedException("The sensor's colour filters are not red, green, green and blue.");
        }
        return pattern;
    }

    /**
     * The layout in the file's own directory of sensor data: records of tag, length and value, of which 0x131 holds the 36
     * colours from last to first, as seen from the sensor's corner. (mem.)
     */
    private CfaPattern declaredSixBySix() {
        ByteBuffer data = ByteBuffer.wrap(file);
        if (!EmbeddedTags.starts(file, 0, "FUJIFILM") || file.length < 100) {
            return null;
        }
        int at = data.getInt(92);
        if (at <= 0 || at > file.length - 8) {
            return null;
        }
        int records = data.getInt(at);
        at += 4;
        for (int i = 0; i < records && at >= 0 && at <= file.length - 4; i++) {
            int tag = data.getShort(at) & 0xffff;
            int length = data.getShort(at + 2) & 0xffff;
            if (tag == 0x131 && length == 36 && at + 40 <= file.length) {
                byte[] colours = new byte[36];
                for (int k = 0; k < 36; k++) {
                    colours[35 - k] = (byte) Math.min(2, file[at + 4 + k] & 3);
                }
                return new CfaPattern(6, 6, colours).shifted(active.x(), active.y());
            }
            at += 4 + length;
        }
        return null;
    }

    /** White balance as shot, of daylight where the file has none. */
    private double[] multipliers() {
        double[] asShot = numbers(told.path("multipliers"));
        boolean known = asShot.length >= 3 && asShot[0] > 0 && asShot[1] > 0 && asShot[2] > 0;
        return known ? asShot : numbers(told.path("daylight"));
    }

    /** Black levels of the four places of a 2×2 pattern, from the masked border where it differs between them. */
    private float[] black() {
        float given = number("black");
        double[] sums = new double[4];
        int[] counts = new int[4];
        int left = active.x() - 4;
        for (int y = active.y(); left >= LEAST_BORDER && y < active.bottom(); y++) {
            for (int x = 4; x < left; x++) {
                int place = (y - active.y() & 1) * 2 + (x - active.x() & 1);
                sums[place] += samples[y * rawWidth + x] & 0xffff;
                counts[place]++;
            }
        }
        float[] levels = new float[4];
        for (int i = 0; i < 4; i++) {
            levels[i] = (float) (sums[i] / Math.max(1, counts[i]));
            if (counts[i] == 0 || Math.abs(levels[i] - given) > BORDER_NEAR * (white - given)) {
                return new float[] {given, given, given, given};
            }
        }
        return levels;
    }

    private OpenedFrame frame() throws RefusedException {
        refuse();
        CfaPattern pattern = pattern();
        float[] black = pattern.isBayer() ? black() : new float[] {number("black")};
        for (float level : black) {
            if (!(level >= 0 && level < white)) {
                throw new RefusedException("The black level of the picture makes no sense: the file is damaged.");
            }
        }
        TiffDirectory main = tags();
        colour(main);
        CameraColour colour = ShotTags.colour(main);
        short[] trimmed = new short[active.width() * active.height()];
        for (int y = 0; y < active.height(); y++) {
            System.arraycopy(
                    samples, (active.y() + y) * rawWidth + active.x(), trimmed, y * active.width(), active.width());
        }
        int block = pattern.isBayer() ? 2 : 1;
        Mosaic mosaic = new Mosaic(active.width(), active.height(), trimmed, pattern, black, block, block, white);
        return new OpenedFrame(main, main, mosaic, colour, ShotTags.shot(main), List.of(), List.of());
    }

    /** The tags of a DNG, from the file's own where it has them and from the decoder where not. */
    private TiffDirectory tags() {
        TiffDirectory found = EmbeddedTags.of(file);
        TiffDirectory main = new TiffDirectory();
        for (int tag : new int[] {Tag.MAKE, Tag.MODEL, Tag.DATE_TIME, 270, 315, 33432, Tag.XMP}) {
            found.field(tag).ifPresent(main::put);
        }
        TiffDirectory exif = found.exif().orElseGet(TiffDirectory::new);
        main.setExif(exif);
        found.gps().ifPresent(main::setGps);
        textUnless(main, Tag.MAKE, text("make"));
        textUnless(main, Tag.MODEL, text("model"));
        String make = main.text(Tag.MAKE);
        String model = main.text(Tag.MODEL);
        main.put(TiffField.ofText(
                Tag.UNIQUE_CAMERA_MODEL,
                model.toLowerCase(Locale.ROOT).startsWith(make.toLowerCase(Locale.ROOT)) ? model : make + " " + model));
        int orientation = switch (number("flip")) {
            case 3 -> 3;
            case 5 -> 8;
            case 6 -> 6;
            default -> 1;
        };
        main.put(TiffField.ofShorts(Tag.ORIENTATION, orientation));
        exif(exif);
        return main;
    }

    private void exif(TiffDirectory exif) {
        textUnless(exif, Tag.BODY_SERIAL_NUMBER, text("serial"));
        textUnless(exif, Tag.LENS_MODEL, text("lens"));
        if (!exif.has(Tag.ISO_SPEED) && number("iso") > 0) {
            exif.put(TiffField.ofShorts(Tag.ISO_SPEED, Math.min(65535, number("iso"))));
            if (number("iso") > 65535) {
                exif.put(TiffField.ofLongs(Tag.RECOMMENDED_EXPOSURE_INDEX, number("iso")));
            }
        }
        rationalUnless(exif, Tag.EXPOSURE_TIME, told.path("seconds").asDouble(0), 1_000_000);
        rationalUnless(exif, Tag.F_NUMBER, told.path("aperture").asDouble(0), 100);
        rationalUnless(exif, Tag.FOCAL_LENGTH, told.path("focalLengthMm").asDouble(0), 100);
        long seconds = told.path("timestamp").asLong(0);
        if (!exif.has(Tag.DATE_TIME_ORIGINAL) && seconds > 0) {
            LocalDateTime time = LocalDateTime.ofInstant(Instant.ofEpochSecond(seconds), ZoneOffset.UTC);
            exif.put(TiffField.ofText(
                    Tag.DATE_TIME_ORIGINAL, time.format(DateTimeFormatter.ofPattern("yyyy:MM:dd HH:mm:ss"))));
        }
    }

    private static void textUnless(TiffDirectory to, int tag, String value) {
        if (to.text(tag).isEmpty() && !value.isEmpty()) {
            to.put(TiffField.ofText(tag, value));
        }
    }

    private static void rationalUnless(TiffDirectory to, int tag, double value, int denominator) {
        if (!to.has(tag) && value > 0 && value < 2000) {
            to.put(TiffField.ofRationals(tag, TiffType.RATIONAL, denominator, value));
        }
    }

    private void colour(TiffDirectory main) throws RefusedException {
        double[] matrix = new double[9];
        JsonNode rows = told.path("fromXyz");
        for (int i = 0; i < 9; i++) {
            matrix[i] = rows.path(i / 3).path(i % 3).asDouble(0);
        }
        if (Arrays.stream(matrix).allMatch(v -> v == 0)) {
            throw new RefusedException(
                    "No colour matrix is known for this camera, so its colours cannot be known. A newer decoder may know it.");
        }
        double[] multipliers = multipliers();
        double[] neutral = new double[3];
        for (int c = 0; c < 3; c++) {
            neutral[c] = multipliers[1] / multipliers[c];
        }
        main.put(TiffField.ofShorts(Tag.CALIBRATION_ILLUMINANT_1, D65));
        main.put(TiffField.ofRationals(Tag.COLOR_MATRIX_1, TiffType.SRATIONAL, 10_000, matrix));
        main.put(TiffField.ofRationals(Tag.AS_SHOT_NEUTRAL, TiffType.RATIONAL, 1_000_000, neutral));
    }
}
