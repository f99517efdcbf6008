package org.rainsieve.delivery;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.zip.Deflater;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.tiff.TiffWriter;

/**
 * Writes 16-bit RGB TIFFs strip by strip (TIFF 6.0; Deflate with the horizontal predictor as in Adobe's TIFF Technical Note
 * 3); files that might pass 4 GiB as BigTIFF (its specification of 2007).
 */
final class TiffDelivery {
    private static final int ROWS = 64;
    private static final int ICC_PROFILE = 34675;
    private static final int LONG8 = 16;
    private static final long LARGEST = (4L << 30) - (64L << 20);

    private TiffDelivery() {}

    /**
     * @param tags of the original that go along, its resolution among them where it has one; without picture structure
     * @param largest size in bytes above which the file is a BigTIFF
     */
    static void write(
            Delivered picture, DeliverySettings settings, byte[] icc, TiffDirectory tags, Path file, long largest)
            throws IOException {
        int width = picture.width();
        int height = picture.height();
        boolean big = 6L * width * height > Math.min(largest, LARGEST);
        int strips = (height + ROWS - 1) / ROWS;
        long[] offsets = new long[strips];
        long[] counts = new long[strips];
        try (FileChannel out = FileChannel.open(file, StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE)) {
            long at = 16;
            for (int strip = 0; strip < strips; strip++) {
                int rows = Math.min(ROWS, height - strip * ROWS);
                byte[] bytes = samples(picture.rows(strip * ROWS, rows), width, rows, settings.deflate());
                if (settings.deflate()) {
                    bytes = deflated(bytes);
                }
                offsets[strip] = at;
                counts[strip] = bytes.length;
                at = append(out, bytes, at);
            }
            tags.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, width));
            tags.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, height));
            tags.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 16, 16, 16));
            tags.put(TiffField.ofShorts(
                    Tag.COMPRESSION, settings.deflate() ? Tag.COMPRESSION_DEFLATE : Tag.COMPRESSION_NONE));
            tags.put(TiffField.ofShorts(Tag.PHOTOMETRIC, 2));
            tags.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 3));
            tags.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
            tags.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, ROWS));
            if (settings.deflate()) {
                tags.put(TiffField.ofShorts(Tag.PREDICTOR, 2));
            }
            tags.put(TiffField.ofBytes(ICC_PROFILE, TiffType.UNDEFINED, icc));
            if (big) {
                finishBig(out, tags, offsets, counts, at);
            } else {
                tags.put(TiffField.ofLongs(Tag.STRIP_OFFSETS, offsets));
                tags.put(TiffField.ofLongs(Tag.STRIP_BYTE_COUNTS, counts));
                TiffWriter.Layout layout = TiffWriter.layOut(at, tags, ByteOrder.LITTLE_ENDIAN);
                append(out, layout.bytes(), at);
                append(out, TiffWriter.header(ByteOrder.LITTLE_ENDIAN, layout.firstDirectory()), 0);
            }
            out.force(true);
        }
    }

    private static byte[] samples(float[] encoded, int width, int rows, boolean differences) {
        ByteBuffer bytes = ByteBuffer.allocate(2 * encoded.length).order(ByteOrder.LITTLE_ENDIAN);
        for (int y = 0; y < rows; y++) {
            for (int x = 0; x < 3 * width; x++) {
                int i = y * 3 * width + x;
                int value = Math.round(encoded[i] * 65535);
                bytes.putShort((short) (differences && x >= 3 ? value - Math.round(encoded[i - 3] * 65535) : value));
            }
        }
        return bytes.array();
    }

    private static byte[] deflated(byte[] bytes) {
        Deflater deflater = new Deflater(4);
        deflater.setInput(bytes);
        deflater.finish();
        byte[] out = new byte[bytes.length + bytes.length / 100 + 64];
        int length = deflater.deflate(out);
        deflater.end();
        return java.util.Arrays.copyOf(out, length);
    }

    private static long append(FileChannel out, byte[] bytes, long at) throws IOException {
        ByteBuffer buffer = ByteBuffer.wrap(bytes);
        long position = at;
        while (buffer.hasRemaining()) {
            position += out.write(buffer, position);
        }
        return position + (position & 1);
    }

    /** Directories of EXIF and GPS stay behind: only few programs look for them there. XMP goes along. */
    private static void finishBig(FileChannel out, TiffDirectory tags, long[] offsets, long[] counts, long start)
            throws IOException {
        record Entry(int tag, int type, long count, byte[] value) {}
        List<Entry> entries = new ArrayList<>();
        for (TiffField field : tags.fields()) {
            TiffField own = field.inOrder(ByteOrder.LITTLE_ENDIAN);
            entries.add(new Entry(own.tag(), own.type(), own.count(), own.bytes()));
        }
        entries.removeIf(entry -> entry.tag == Tag.EXIF_IFD || entry.tag == Tag.GPS_IFD || entry.tag == Tag.SUB_IFDS);
        for (long[] longs : new long[][] {offsets, counts}) {
            ByteBuffer value = ByteBuffer.allocate(8 * longs.length).order(ByteOrder.LITTLE_ENDIAN);
            value.asLongBuffer().put(longs);
            entries.add(new Entry(
                    longs == offsets ? Tag.STRIP_OFFSETS : Tag.STRIP_BYTE_COUNTS, LONG8, longs.length, value.array()));
        }
        entries.sort(java.util.Comparator.comparingInt(Entry::tag));
        long at = start;
        ByteBuffer directory = ByteBuffer.allocate(16 + 20 * entries.size()).order(ByteOrder.LITTLE_ENDIAN);
        directory.putLong(entries.size());
        for (Entry entry : entries) {
            directory.putShort((short) entry.tag).putShort((short) entry.type).putLong(entry.count);
            if (entry.value.length <= 8) {
                directory.put(java.util.Arrays.copyOf(entry.value, 8));
            } else {
                directory.putLong(at);
                at = append(out, entry.value, at);
            }
        }
        append(out, directory.array(), at);
        ByteBuffer header = ByteBuffer.allocate(16).order(ByteOrder.LITTLE_ENDIAN);
        header.put(new byte[] {'I', 'I'})
                .putShort((short) 43)
                .putShort((short) 8)
                .putShort((short) 0)
                .putLong(at);
        append(out, header.array(), 0);
    }
}
