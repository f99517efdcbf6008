package org.rainsieve.tiff;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/** Lays out directories as bytes for a given place in a TIFF file. */
public final class TiffWriter {
    private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();
    private final long start;
    private final ByteOrder order;

    private TiffWriter(long start, ByteOrder order) {
        this.start = start;
        this.order = order;
    }

    /** Bytes of the directories and their values, and where the first directory begins. */
    public record Layout(byte[] bytes, long firstDirectory) {}

    /** The eight bytes at the start of a file. */
    public static byte[] header(ByteOrder order, long firstDirectory) {
        ByteBuffer header = ByteBuffer.allocate(8).order(order);
        header.put(order == ByteOrder.LITTLE_ENDIAN ? new byte[] {'I', 'I'} : new byte[] {'M', 'M'});
        header.putShort((short) 42).putInt((int) firstDirectory);
        return header.array();
    }

    /**
     * @param start where in the file the bytes will stand (even)
     * @param main main directory; its sub-directories, EXIF and GPS are written before it and linked
     */
    public static Layout layOut(long start, TiffDirectory main, ByteOrder order) {
        TiffWriter writer = new TiffWriter(start, order);
        long first = writer.directory(main);
        return new Layout(writer.bytes.toByteArray(), first);
    }

    private long directory(TiffDirectory directory) {
        directory.remove(Tag.EXIF_IFD);
        directory.remove(Tag.GPS_IFD);
        directory.remove(Tag.SUB_IFDS);
        directory.remove(Tag.INTEROPERABILITY_IFD);
        directory
                .interoperability()
                .ifPresent(rules -> directory.put(TiffField.ofLongs(Tag.INTEROPERABILITY_IFD, directory(rules))));
        directory.blocks().forEach((tag, blocks) -> {
            long[] offsets = new long[blocks.size()];
            for (int i = 0; i < offsets.length; i++) {
                offsets[i] = here();
                bytes.writeBytes(blocks.get(i));
                align();
            }
            directory.put(TiffField.ofLongs(tag, offsets));
        });
        directory.exif().ifPresent(exif -> directory.put(TiffField.ofLongs(Tag.EXIF_IFD, directory(exif))));
        directory.gps().ifPresent(gps -> directory.put(TiffField.ofLongs(Tag.GPS_IFD, directory(gps))));
        if (!directory.subDirectories().isEmpty()) {
            long[] offsets = directory.subDirectories().stream()
                    .mapToLong(this::directory)
                    .toArray();
            directory.put(TiffField.ofLongs(Tag.SUB_IFDS, offsets));
        }
        List<TiffField> fields = new ArrayList<>();
        directory.fields().forEach(field -> fields.add(field.tag() == Tag.IPTC ? iptc(field) : field.inOrder(order)));
        long[] places = new long[fields.size()];
        for (int i = 0; i < fields.size(); i++) {
            if (fields.get(i).bytes().length > 4) {
                places[i] = here();
                bytes.writeBytes(fields.get(i).bytes());
                align();
            }
        }
        long offset = here();
        ByteBuffer out = ByteBuffer.allocate(6 + 12 * fields.size()).order(order);
        out.putShort((short) fields.size());
        for (int i = 0; i < fields.size(); i++) {
            TiffField field = fields.get(i);
            out.putShort((short) field.tag()).putShort((short) field.type()).putInt(field.count());
            if (places[i] != 0) {
                out.putInt((int) places[i]);
            } else {
                out.put(java.util.Arrays.copyOf(field.bytes(), 4));
            }
        }
        bytes.writeBytes(out.array());
        align();
        return offset;
    }

    /** A record of bytes, which stands in the file as longs that are never swapped (common practice). */
    private TiffField iptc(TiffField field) {
        int longs = (field.bytes().length + 3) / 4;
        return new TiffField(Tag.IPTC, TiffType.LONG, longs, Arrays.copyOf(field.bytes(), 4 * longs), order);
    }

    private long here() {
        return start + bytes.size();
    }

    private void align() {
        if ((bytes.size() & 1) == 1) {
            bytes.write(0);
        }
    }
}
