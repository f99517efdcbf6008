package org.rainsieve.dng;

import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.White;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.opcode.OpcodeList;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

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
        if (perPixel != 1 && perPixel != 3) {
            throw new RefusedException("The picture has " + perPixel + " samples a pixel; one or three are read.");
        }
        boolean planar = perPixel == 3 && raw.number(Tag.PLANAR_CONFIGURATION, 1) == 2;
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
        Region area = DngReader.activeArea(raw, (int) width, (int) height);
        Levels levels = RawSamples.hasFloats(raw) ? null : Levels.of(raw, bits, area);
        short[] interleaved = planar ? null : RawSamples.of(data, raw, (int) width, (int) height, bits, perPixel);
        short[][] planes = new short[perPixel][(int) area.area()];
        for (int c = 0; c < perPixel; c++) {
            short[] stored = planar ? RawSamples.ofPlane(data, raw, (int) width, (int) height, bits, c) : interleaved;
            int apart = planar ? 1 : perPixel;
            short[] row = new short[area.width()];
            for (int y = 0; y < area.height(); y++) {
                int from = ((area.y() + y) * (int) width + area.x()) * apart + (planar ? 0 : c);
                for (int x = 0; x < area.width(); x++) {
                    row[x] = stored[from + apart * x];
                }
                if (levels != null) {
                    levels.lay(row, y, c);
                }
                System.arraycopy(row, 0, planes[c], y * area.width(), area.width());
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

    /**
     * Black, white and linearisation of the planes (DNG specification 1.4, BlackLevel and its relatives).
     *
     * @param black of a block of places that repeats, the planes of each place one after another
     * @param columns added to black column by column; null for nothing
     * @param rows the same row by row
     * @param laid for every stored sample its value in 16 bits, plane by plane, where all places of a plane are alike; else null
     */
    private record Levels(
            int planes,
            int blockWidth,
            int blockHeight,
            double[] black,
            double[] white,
            int[] table,
            float[] columns,
            float[] rows,
            short[][] laid) {
        static Levels of(TiffDirectory raw, int bits, Region area) throws RefusedException {
            int planes = (int) raw.number(Tag.SAMPLES_PER_PIXEL, 1);
            double[] repeat = raw.numbers(Tag.BLACK_LEVEL_REPEAT_DIM);
            int blockHeight = repeat.length == 2 ? (int) repeat[0] : 1;
            int blockWidth = repeat.length == 2 ? (int) repeat[1] : 1;
            double[] levels = raw.numbers(Tag.BLACK_LEVEL);
            double[] whites = raw.numbers(Tag.WHITE_LEVEL);
            double[] numbers = raw.numbers(Tag.LINEARIZATION_TABLE);
            int[] table = numbers.length == 0 ? null : new int[numbers.length];
            for (int i = 0; i < numbers.length; i++) {
                table[i] = (int) numbers[i];
            }
            if (blockWidth < 1 || blockHeight < 1 || blockWidth > 64 || blockHeight > 64) {
                throw DngReader.blackMisfit();
            }
            double top = table == null ? (1 << bits) - 1 : 65535;
            double[] white = new double[planes];
            double[] black = new double[blockWidth * blockHeight * planes];
            for (int i = 0; i < black.length; i++) {
                int c = i % planes;
                // Files that tell one level for all of their planes are read as well.
                black[i] = levels.length == 0
                        ? 0
                        : levels[levels.length == black.length ? i : Math.min(c, levels.length - 1)];
                white[c] = whites.length == 0 ? top : whites[Math.min(c, whites.length - 1)];
                if (!(black[i] >= 0 && black[i] < white[c] && white[c] <= 65535)) {
                    throw new RefusedException("The black level " + black[i] + " and white level " + white[c]
                            + " of the file make no sense together: the file is damaged.");
                }
            }
            float[] columns = DngReader.blackDelta(raw, Tag.BLACK_LEVEL_DELTA_H, area.width());
            float[] rows = DngReader.blackDelta(raw, Tag.BLACK_LEVEL_DELTA_V, area.height());
            boolean alike = blockWidth * blockHeight == 1 && columns == null && rows == null;
            Levels found = new Levels(
                    planes,
                    blockWidth,
                    blockHeight,
                    black,
                    white,
                    table,
                    columns,
                    rows,
                    alike ? new short[planes][65536] : null);
            for (int i = 0; alike && i < planes * 65536; i++) {
                found.laid[i >> 16][i & 0xffff] = found.laid(i & 0xffff, i >> 16, black[i >> 16], 0);
            }
            return found;
        }

        /** Lays a row of stored samples into 16 bits, with room below black. */
        void lay(short[] row, int y, int plane) {
            for (int x = 0; x < row.length; x++) {
                int stored = row[x] & 0xffff;
                if (laid != null) {
                    row[x] = laid[plane][stored];
                } else {
                    int place = y % blockHeight * blockWidth + x % blockWidth;
                    double own = (columns == null ? 0 : columns[x]) + (rows == null ? 0 : rows[y]);
                    row[x] = laid(stored, plane, black[place * planes + plane], own);
                }
            }
        }

        private short laid(int stored, int plane, double level, double own) {
            double sample = table == null ? stored : table[Math.min(stored, table.length - 1)];
            // What is clipped stays clipped, whatever the black level of its row or column is.
            return sample >= white[plane]
                    ? (short) OpcodeList.WHITE
                    : OpcodeList.linear((sample - level - own) / (white[plane] - level));
        }
    }
}
