package org.rainsieve.dng;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.opcode.OpcodeList;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffReader;
import org.rainsieve.xmp.Xmp;

/**
 * Opens mosaic DNG files (Adobe DNG specification 1.4): 2×2 and 6×6 colour filters, 8 to 16 bits or floating point,
 * uncompressed, lossless JPEG or deflate, in strips or tiles, with the opcodes that come before demosaicing. What it does not read it refuses by name.
 */
public final class DngReader {
    /** More than any camera of the trade has, and little enough to be held in memory. */
    private static final long MAX_PIXELS = 400_000_000;

    private final byte[] data;
    private final TiffDirectory main;
    private final TiffDirectory raw;

    private DngReader(byte[] data, TiffDirectory main, TiffDirectory raw) {
        this.data = data;
        this.main = main;
        this.raw = raw;
    }

    /** Whether the file says that Rain Sieve wrote it. */
    public static boolean isOwnReturn(byte[] data) throws RefusedException {
        TiffDirectory main = TiffReader.read(data).get(0);
        byte[] packet = main.field(Tag.XMP).map(TiffField::bytes).orElse(new byte[0]);
        return !Xmp.property(packet, "OriginalSha256").isEmpty();
    }

    public static OpenedFrame read(byte[] data) throws RefusedException {
        List<TiffDirectory> chain = TiffReader.read(data);
        TiffDirectory main = chain.get(0);
        if (!main.has(Tag.DNG_VERSION)) {
            throw new RefusedException(
                    "This is a TIFF file without a DNG version: only DNG raw files are read so far.");
        }
        List<TiffDirectory> all = new ArrayList<>(chain);
        chain.forEach(directory -> all.addAll(directory.subDirectories()));
        // The main picture is the first whose NewSubFileType says that it is none of a reduced or other kind.
        List<TiffDirectory> pictures = all.stream()
                .filter(directory -> directory.number(Tag.NEW_SUBFILE_TYPE, 0) == 0 && isRaw(directory))
                .toList();
        if (pictures.isEmpty()) {
            throw new RefusedException("The DNG holds no sensor mosaic.");
        }
        TiffDirectory raw = pictures.get(0);
        OpenedFrame frame = raw.number(Tag.PHOTOMETRIC, -1) == Tag.PHOTOMETRIC_LINEAR_RAW
                ? LinearDngReader.read(data, main, raw)
                : new DngReader(data, main, raw).frame();
        List<String> remarks = new ArrayList<>();
        if (pictures.size() > 1) {
            remarks.add(
                    "The file holds " + pictures.size()
                            + " raw pictures of full size; the first, which is its main one, was opened, the others were left out.");
        }
        remarks.addAll(OpcodeList.remarks(raw, main));
        return frame.withRemarks(remarks);
    }

    private static boolean isRaw(TiffDirectory directory) {
        long kind = directory.number(Tag.PHOTOMETRIC, -1);
        return kind == Tag.PHOTOMETRIC_LINEAR_RAW || kind == Tag.PHOTOMETRIC_CFA;
    }

    private OpenedFrame frame() throws RefusedException {
        int width = size(Tag.IMAGE_WIDTH);
        int height = size(Tag.IMAGE_LENGTH);
        if ((long) width * height > MAX_PIXELS) {
            throw new RefusedException("The picture claims " + width + " x " + height + " pixels, more than is read.");
        }
        OpcodeList first = opcodes(Tag.OPCODE_LIST_1);
        OpcodeList second = opcodes(Tag.OPCODE_LIST_2);
        int bits = (int) raw.number(Tag.BITS_PER_SAMPLE, 16);
        if (raw.number(Tag.SAMPLES_PER_PIXEL, 1) != 1) {
            throw new RefusedException(
                    "The mosaic has " + raw.number(Tag.SAMPLES_PER_PIXEL, 1) + " samples a pixel; one is read.");
        }
        if (!RawSamples.refusal(raw, bits).isEmpty()) {
            throw new RefusedException(RawSamples.refusal(raw, bits));
        }
        CfaPattern pattern = pattern();
        // Everything that can be refused is refused before the large array is made.
        CameraColour colour = ShotTags.colour(main);
        short[] samples = RawSamples.of(data, raw, width, height, bits, 1);
        first.onStored(samples, width, pattern);
        boolean floats = RawSamples.hasFloats(raw);
        if (!floats) {
            linearise(samples);
        }
        Region active = activeArea(raw, width, height);
        if (active.width() != width || active.height() != height) {
            samples = trim(samples, width, active);
        }
        double[] dim = raw.numbers(Tag.BLACK_LEVEL_REPEAT_DIM);
        int blackHeight = dim.length == 2 ? (int) dim[0] : 1;
        int blackWidth = dim.length == 2 ? (int) dim[1] : 1;
        double[] levels = raw.numbers(Tag.BLACK_LEVEL);
        if (levels.length == 0) {
            levels = new double[] {0};
        }
        if (floats && Arrays.stream(levels).anyMatch(level -> level != 0)) {
            throw new RefusedException("The file has floating-point samples above a black level, which are not read.");
        }
        if (floats) {
            Arrays.fill(levels, OpcodeList.BLACK);
        }
        if (blackHeight < 1 || blackWidth < 1 || (long) blackHeight * blackWidth != levels.length) {
            throw new RefusedException(
                    "The black levels of the file do not fit their own pattern: the file is damaged.");
        }
        float[] black = new float[levels.length];
        int top = raw.has(Tag.LINEARIZATION_TABLE) ? 65535 : (1 << bits) - 1;
        long white = floats ? OpcodeList.WHITE : raw.number(Tag.WHITE_LEVEL, top);
        for (int i = 0; i < black.length; i++) {
            black[i] = (float) levels[i];
            if (!(levels[i] >= 0 && levels[i] < white) || white > 65535) {
                throw new RefusedException("The black level " + levels[i] + " and white level " + white
                        + " of the file make no sense together: the file is damaged.");
            }
        }
        Mosaic mosaic = new Mosaic(
                active.width(),
                active.height(),
                samples,
                pattern,
                black,
                blackWidth,
                blackHeight,
                (int) white,
                blackDelta(raw, Tag.BLACK_LEVEL_DELTA_H, active.width()),
                blackDelta(raw, Tag.BLACK_LEVEL_DELTA_V, active.height()),
                null);
        mosaic = second.onLinear(mosaic);
        return new OpenedFrame(
                main, raw, mosaic, colour, ShotTags.shot(main), ShotTags.noiseProfile(main, raw), List.of());
    }

    private int size(int tag) throws RefusedException {
        long size = raw.number(tag, 0);
        if (size < 16 || size > 65535) {
            throw new RefusedException("The picture is said to be " + raw.number(Tag.IMAGE_WIDTH, 0) + " x "
                    + raw.number(Tag.IMAGE_LENGTH, 0) + " pixels: the file is damaged or empty.");
        }
        return (int) size;
    }

    /** Levels added to black for each column or row; null without them. */
    static float[] blackDelta(TiffDirectory raw, int tag, int count) throws RefusedException {
        double[] deltas = raw.numbers(tag);
        if (deltas.length == 0) {
            return null;
        }
        if (deltas.length != count) {
            throw blackMisfit();
        }
        float[] out = new float[count];
        for (int i = 0; i < count; i++) {
            out[i] = (float) deltas[i];
        }
        return out;
    }

    static RefusedException blackMisfit() {
        return new RefusedException(
                "The black levels of the file do not fit the size of its picture: the file is damaged.");
    }

    private OpcodeList opcodes(int tag) throws RefusedException {
        return OpcodeList.parse(raw.field(tag).map(TiffField::bytes).orElse(new byte[0]));
    }

    private CfaPattern pattern() throws RefusedException {
        double[] dim = raw.numbers(Tag.CFA_REPEAT_DIM);
        byte[] colours = raw.field(Tag.CFA_PATTERN).map(TiffField::bytes).orElse(new byte[0]);
        double[] plane = raw.numbers(Tag.CFA_PLANE_COLOR);
        if (raw.number(Tag.CFA_LAYOUT, 1) != 1) {
            throw new RefusedException("The sensor's colour filters are staggered; only rectangular layouts are read.");
        }
        if (plane.length > 0 && !Arrays.equals(plane, new double[] {0, 1, 2})) {
            throw new RefusedException("The sensor's colour filters are not red, green and blue.");
        }
        if (dim.length == 2 && dim[0] == dim[1] && (dim[0] == 2 || dim[0] == 6) && colours.length == dim[0] * dim[1]) {
            for (byte colour : colours) {
                if (colour < 0 || colour > 2) {
                    throw new RefusedException("The sensor's colour filters are not red, green and blue.");
                }
            }
            CfaPattern pattern = new CfaPattern((int) dim[0], (int) dim[0], colours);
            if (pattern.isBayer() || pattern.isSixBySix()) {
                return pattern;
            }
        }
        throw new RefusedException(
                "The sensor's colour filters repeat neither as red, green, green, blue in 2×2 nor as the"
                        + " 6×6 array in use; other layouts are not read.");
    }

    private void linearise(short[] samples) {
        raw.field(Tag.LINEARIZATION_TABLE).ifPresent(field -> {
            int last = field.count() - 1;
            short[] table = new short[65536];
            for (int i = 0; i < table.length; i++) {
                table[i] = (short) field.asInt(Math.min(i, last));
            }
            for (int i = 0; i < samples.length; i++) {
                samples[i] = table[samples[i] & 0xffff];
            }
        });
    }

    /** The part of the picture that sees light, as its directory tells. */
    static Region activeArea(TiffDirectory raw, int width, int height) throws RefusedException {
        double[] area = raw.numbers(Tag.ACTIVE_AREA);
        if (area.length != 4) {
            return new Region(0, 0, width, height);
        }
        Region whole = new Region(0, 0, width, height);
        int w = (int) (area[3] - area[1]);
        int h = (int) (area[2] - area[0]);
        if (w < 16 || h < 16 || !whole.contains(new Region((int) area[1], (int) area[0], w, h))) {
            throw new RefusedException("The active area of the sensor lies outside the picture: the file is damaged.");
        }
        return new Region((int) area[1], (int) area[0], w, h);
    }

    private static short[] trim(short[] samples, int width, Region active) {
        short[] trimmed = new short[active.width() * active.height()];
        for (int y = 0; y < active.height(); y++) {
            System.arraycopy(
                    samples, (active.y() + y) * width + active.x(), trimmed, y * active.width(), active.width());
        }
        return trimmed;
    }
}
