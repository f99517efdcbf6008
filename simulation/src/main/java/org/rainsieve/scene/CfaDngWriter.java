package org.rainsieve.scene;

import java.io.ByteArrayOutputStream;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.List;
import java.util.function.IntBinaryOperator;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Region;
import org.rainsieve.jpeg.LosslessJpegEncoder;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.tiff.TiffWriter;

/** Writes a mosaic (or one plane without filters) as DNG, as cameras do: the simulated sensor's and the tests' files. */
public final class CfaDngWriter {
    /**
     * How the mosaic is laid into the file.
     *
     * @param tileSize 0 for one strip
     * @param maskedPx width of the masked border at the left and top, a multiple of the colour pattern
     */
    public record Form(ByteOrder order, int bits, boolean compressed, int tileSize, int maskedPx) {
        public Form(ByteOrder order, int bits, boolean compressed, int tileSize) {
            this(order, bits, compressed, tileSize, 0);
        }
    }

    private CfaDngWriter() {}

    /**
     * @param main the camera's tags: model, colour matrices, EXIF…; structural tags are added to it
     */
    public static byte[] write(Mosaic mosaic, int blackLevel, Form form, TiffDirectory main) {
        return write(mosaic, blackLevel, form, main, (x, y) -> blackLevel);
    }

    /** @param covered samples of the masked border, by column and row counted from the picture's corner */
    public static byte[] write(
            Mosaic mosaic, int blackLevel, Form form, TiffDirectory main, IntBinaryOperator covered) {
        int masked = form.maskedPx();
        int width = mosaic.width() + masked;
        int height = mosaic.height() + masked;
        CfaPattern pattern = mosaic.pattern();
        int tile = form.tileSize();
        List<byte[]> parts = new ArrayList<>();
        if (tile == 0) {
            parts.add(part(mosaic, covered, new Region(0, 0, width, height), form));
        } else {
            for (int y = 0; y < height; y += tile) {
                for (int x = 0; x < width; x += tile) {
                    parts.add(part(mosaic, covered, new Region(x, y, tile, tile), form));
                }
            }
        }
        main.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 0));
        main.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, width));
        main.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, height));
        main.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, form.bits()));
        main.put(TiffField.ofShorts(
                Tag.COMPRESSION, form.compressed() ? Tag.COMPRESSION_LOSSLESS_JPEG : Tag.COMPRESSION_NONE));
        boolean monochrome = pattern.width() == 1 && pattern.height() == 1;
        main.put(TiffField.ofShorts(Tag.PHOTOMETRIC, monochrome ? Tag.PHOTOMETRIC_LINEAR_RAW : Tag.PHOTOMETRIC_CFA));
        main.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 1));
        main.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
        if (!monochrome) {
            main.put(TiffField.ofShorts(Tag.CFA_REPEAT_DIM, pattern.height(), pattern.width()));
            main.put(TiffField.ofBytes(Tag.CFA_PATTERN, TiffType.BYTE, pattern.colours()));
            main.put(TiffField.ofBytes(Tag.CFA_PLANE_COLOR, TiffType.BYTE, new byte[] {0, 1, 2}));
            main.put(TiffField.ofShorts(Tag.CFA_LAYOUT, 1));
        }
        main.put(TiffField.ofShorts(Tag.BLACK_LEVEL, blackLevel));
        main.put(TiffField.ofLongs(Tag.WHITE_LEVEL, mosaic.white()));
        main.put(TiffField.ofBytes(Tag.DNG_VERSION, TiffType.BYTE, new byte[] {1, 4, 0, 0}));
        main.put(TiffField.ofBytes(Tag.DNG_BACKWARD_VERSION, TiffType.BYTE, new byte[] {1, 1, 0, 0}));
        if (masked > 0) {
            main.put(TiffField.ofLongs(Tag.ACTIVE_AREA, masked, masked, height, width));
            main.put(TiffField.ofLongs(Tag.MASKED_AREAS, 0, 0, masked, width, masked, 0, height, masked));
        }
        long[] counts = parts.stream().mapToLong(p -> p.length).toArray();
        if (tile > 0) {
            main.put(TiffField.ofLongs(Tag.TILE_WIDTH, tile));
            main.put(TiffField.ofLongs(Tag.TILE_LENGTH, tile));
        } else {
            main.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, height));
        }
        int offsetTag = tile > 0 ? Tag.TILE_OFFSETS : Tag.STRIP_OFFSETS;
        main.put(TiffField.ofLongs(tile > 0 ? Tag.TILE_BYTE_COUNTS : Tag.STRIP_BYTE_COUNTS, counts));
        main.put(TiffField.ofLongs(offsetTag, new long[counts.length]));
        long at = 8 + TiffWriter.layOut(8, main, form.order()).bytes().length;
        long[] offsets = new long[counts.length];
        for (int i = 0; i < counts.length; i++) {
            offsets[i] = at;
            at += counts[i] + (counts[i] & 1);
        }
        main.put(TiffField.ofLongs(offsetTag, offsets));
        TiffWriter.Layout layout = TiffWriter.layOut(8, main, form.order());
        ByteArrayOutputStream file = new ByteArrayOutputStream((int) at);
        file.writeBytes(TiffWriter.header(form.order(), layout.firstDirectory()));
        file.writeBytes(layout.bytes());
        for (byte[] part : parts) {
            file.writeBytes(part);
            if ((part.length & 1) == 1) {
                file.write(0);
            }
        }
        return file.toByteArray();
    }

    /** Samples of a tile; places outside the picture repeat its edge. */
    private static byte[] part(Mosaic mosaic, IntBinaryOperator covered, Region tile, Form form) {
        short[] samples = new short[(int) tile.area()];
        for (int y = 0; y < tile.height(); y++) {
            for (int x = 0; x < tile.width(); x++) {
                int sx = Math.min(mosaic.width() - 1, tile.x() + x - form.maskedPx());
                int sy = Math.min(mosaic.height() - 1, tile.y() + y - form.maskedPx());
                boolean hidden = sx < 0 || sy < 0;
                samples[y * tile.width() + x] = (short) (hidden ? covered.applyAsInt(sx, sy) : mosaic.sample(sx, sy));
            }
        }
        if (form.compressed()) {
            // Two columns side by side as two components, so that each is predicted from its own colour.
            boolean even = tile.width() % 2 == 0;
            return new LosslessJpegEncoder()
                    .encode(samples, even ? tile.width() / 2 : tile.width(), tile.height(), even ? 2 : 1);
        }
        int rowBytes = (tile.width() * form.bits() + 7) / 8;
        byte[] out = new byte[rowBytes * tile.height()];
        for (int y = 0; y < tile.height(); y++) {
            pack(samples, y * tile.width(), tile.width(), form, out, y * rowBytes);
        }
        return out;
    }

    private static void pack(short[] samples, int from, int count, Form form, byte[] out, int to) {
        if (form.bits() == 16) {
            boolean big = form.order() == ByteOrder.BIG_ENDIAN;
            for (int x = 0; x < count; x++) {
                int value = samples[from + x] & 0xffff;
                out[to + 2 * x] = (byte) (big ? value >> 8 : value);
                out[to + 2 * x + 1] = (byte) (big ? value : value >> 8);
            }
            return;
        }
        long held = 0;
        int bits = 0;
        for (int x = 0; x < count; x++) {
            held = held << form.bits() | samples[from + x] & 0xffff;
            bits += form.bits();
            while (bits >= 8) {
                bits -= 8;
                out[to++] = (byte) (held >>> bits);
            }
        }
        if (bits > 0) {
            out[to] = (byte) (held << 8 - bits);
        }
    }
}
