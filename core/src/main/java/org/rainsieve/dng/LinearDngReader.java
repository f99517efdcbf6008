package org.rainsieve.dng;

import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.White;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;

/**
 * Opens DNG files whose pixels have all colours already (LinearRaw of three samples), so that demosaicing is
 * behind them, and those of sensors without colour filters (LinearRaw of one sample), as three equal planes.
 */
final class LinearDngReader {
    private static final long MAX_PIXELS = 200_000_000;
    /** EXIF's number of that light. */
    private static final int D50 = 23;

    private LinearDngReader() {}

    static OpenedFrame read(byte[] data, TiffDirectory main, TiffDirectory raw) throws RefusedException {
        long width = raw.number(Tag.IMAGE_WIDTH, 0);
        long height = raw.number(Tag.IMAGE_LENGTH, 0);
        if (width < 16 || height < 16 || width > 65535 || height > 65535 || width * height > MAX_PIXELS) {
            throw new RefusedException("The picture is said to be " + width + " x " + height
                    + " pixels: the file is damaged, or larger than is read.");
        }
        int bits = (int) raw.number(Tag.BITS_PER_SAMPLE, 16);
        int perPixel = (int) raw.number(Tag.SAMPLES_PER_PIXEL, 1);
        if (perPixel != 1 && perPixel != 3 || raw.number(Tag.PLANAR_CONFIGURATION, 1) != 1) {
            throw new RefusedException(
                    "The picture has " + perPixel + " samples a pixel; one, or three side by side, are read.");
        }
        if (!RawSamples.refusal(raw, bits).isEmpty()) {
            throw new RefusedException(RawSamples.refusal(raw, bits));
        }
        boolean grey = perPixel == 1;
        if (grey) {
            greyColours(main);
        }
        CameraColour colour = ShotTags.colour(main);
        OpcodeList first = OpcodeList.parse(bytes(raw, Tag.OPCODE_LIST_1));
        OpcodeList second = OpcodeList.parse(bytes(raw, Tag.OPCODE_LIST_2));
        first.refuseForPictures();
        short[] interleaved = RawSamples.of(data, raw, (int) width, (int) height, bits, perPixel);
        Levels levels = RawSamples.hasFloats(raw) ? null : Levels.of(raw, bits);
        Region area = DngReader.activeArea(raw, (int) width, (int) height);
        short[][] planes = new short[perPixel][(int) area.area()];
        for (int c = 0; c < perPixel; c++) {
            short[] laid = levels == null ? null : levels.laid(c);
            for (int y = 0; y < area.height(); y++) {
                int from = ((area.y() + y) * (int) width + area.x()) * perPixel + c;
                for (int x = 0; x < area.width(); x++) {
                    short stored = interleaved[from + perPixel * x];
                    planes[c][y * area.width() + x] = laid == null ? stored : laid[stored & 0xffff];
                }
            }
        }
        second.onPicture(planes, area.width());
        if (grey) {
            planes = new short[][] {planes[0], planes[0], planes[0]};
        }
        Picture picture = new Picture(area.width(), area.height(), planes, OpcodeList.BLACK, OpcodeList.WHITE, false);
        return new OpenedFrame(
                main,
                raw,
                picture,
                colour,
                ShotTags.shot(main),
                ShotTags.noiseProfile(main, raw),
                List.of(
                        grey
                                ? "a sensor without colour filters: there is nothing to demosaic, and returns are grey"
                                : "a linear DNG: its mosaic is gone, so demosaicing is skipped"));
    }

    /** Any primaries do for grey, as long as equal values are white. */
    private static void greyColours(TiffDirectory main) {
        double[] white = White.D50.xyz();
        main.put(TiffField.ofShorts(Tag.CALIBRATION_ILLUMINANT_1, D50));
        main.put(TiffField.ofRationals(
                Tag.COLOR_MATRIX_1,
                TiffType.SRATIONAL,
                1_000_000,
                Matrix3.diagonal(white).inverse().m()));
        main.put(TiffField.ofRationals(
                Tag.FORWARD_MATRIX_1,
                TiffType.SRATIONAL,
                1_000_000,
                Matrix3.diagonal(white).m()));
        main.put(TiffField.ofRationals(Tag.AS_SHOT_NEUTRAL, TiffType.RATIONAL, 1, 1, 1, 1));
    }

    private static byte[] bytes(TiffDirectory raw, int tag) {
        return raw.field(tag).map(TiffField::bytes).orElse(new byte[0]);
    }

    /** Black, white and linearisation of the three planes. */
    private record Levels(double[] black, double[] white, int[] table) {
        static Levels of(TiffDirectory raw, int bits) throws RefusedException {
            double[] levels = raw.numbers(Tag.BLACK_LEVEL);
            double[] whites = raw.numbers(Tag.WHITE_LEVEL);
            double[] numbers = raw.numbers(Tag.LINEARIZATION_TABLE);
            int[] table = numbers.length == 0 ? null : new int[numbers.length];
            for (int i = 0; i < numbers.length; i++) {
                table[i] = (int) numbers[i];
            }
            double top = table == null ? (1 << bits) - 1 : 65535;
            double[] black = new double[3];
            double[] white = new double[3];
            for (int c = 0; c < 3; c++) {
                black[c] = levels.length == 0 ? 0 : levels[Math.min(c, levels.length - 1)];
                white[c] = whites.length == 0 ? top : whites[Math.min(c, whites.length - 1)];
                if (!(black[c] >= 0 && black[c] < white[c] && white[c] <= 65535)) {
                    throw new RefusedException("The black level " + black[c] + " and white level " + white[c]
                            + " of the file make no sense together: the file is damaged.");
                }
            }
            return new Levels(black, white, table);
        }

        /** For every stored sample its value in 16 bits, with room below black. */
        short[] laid(int channel) {
            short[] laid = new short[65536];
            for (int i = 0; i < laid.length; i++) {
                double stored = table == null ? i : table[Math.min(i, table.length - 1)];
                double linear = (stored - black[channel]) / (white[channel] - black[channel]);
                long value = Math.round(OpcodeList.BLACK + linear * (OpcodeList.WHITE - OpcodeList.BLACK));
                laid[i] = (short) Math.max(0, Math.min(OpcodeList.WHITE, value));
            }
            return laid;
        }
    }
}
