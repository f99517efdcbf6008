package org.rainsieve.tiff;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.rainsieve.file.FileBytes;
import org.rainsieve.frame.RefusedException;

/**
 * Reads the directories of a TIFF file (TIFF 6.0; not BigTIFF) out of its bytes. Fields that point outside the file are
 * left out; loops between directories are followed once.
 */
public final class TiffReader {
    private static final int MAX_DIRECTORIES = 64;
    private static final int MAX_FIELDS = 4096;
    /** No field that is read is larger, but pictures that hide in fields are. */
    private static final long MAX_FIELD_BYTES = 64L << 20;

    private final FileBytes file;
    /** Where the header stands, from which offsets count. */
    private final long base;

    private final long length;
    private final ByteOrder order;
    private final Set<Long> visited = new HashSet<>();

    private TiffReader(FileBytes file, long base, ByteOrder order) {
        this.file = file;
        this.base = base;
        this.length = file.length() - base;
        this.order = order;
    }

    public static boolean looksLikeTiff(byte[] head) {
        return head.length >= 8
                && ((head[0] == 'I' && head[1] == 'I' && head[2] == 42 && head[3] == 0)
                        || (head[0] == 'M' && head[1] == 'M' && head[2] == 0 && head[3] == 42));
    }

    /** The chain of main directories, each with its sub-directories, EXIF and GPS. */
    public static List<TiffDirectory> read(byte[] data) throws RefusedException {
        if (!looksLikeTiff(data)) {
            throw new RefusedException("This is not a DNG or TIFF file.");
        }
        return read(FileBytes.of(data), 0);
    }

    /**
     * The same of a file that is not held in memory, and whatever number its header has instead of 42.
     *
     * @param base where the header stands
     */
    public static List<TiffDirectory> read(FileBytes file, long base) throws RefusedException {
        byte[] head = file.slice(base, 8);
        if (head.length < 8 || head[0] != head[1] || head[0] != 'I' && head[0] != 'M') {
            throw new RefusedException("This is not a DNG or TIFF file.");
        }
        ByteOrder order = head[0] == 'I' ? ByteOrder.LITTLE_ENDIAN : ByteOrder.BIG_ENDIAN;
        TiffReader reader = new TiffReader(file, base, order);
        List<TiffDirectory> chain = new ArrayList<>();
        long offset = ByteBuffer.wrap(head).order(order).getInt(4) & 0xffffffffL;
        while (offset != 0 && reader.isNew(offset)) {
            TiffDirectory directory = new TiffDirectory();
            chain.add(directory);
            offset = reader.directory(offset, directory, 0);
        }
        if (chain.isEmpty()) {
            throw new RefusedException("The file's directory lies outside the file: it is cut short or damaged.");
        }
        return chain;
    }

    private ByteBuffer slice(long from, int count) {
        return ByteBuffer.wrap(file.slice(base + from, count)).order(order);
    }

    private boolean isNew(long offset) {
        return offset >= 8 && offset + 2 <= length && visited.size() < MAX_DIRECTORIES && visited.add(offset);
    }

    private long directory(long offset, TiffDirectory into, int depth) {
        ByteBuffer head = slice(offset, 2);
        if (head.remaining() < 2) {
            return 0;
        }
        int count = Math.min(MAX_FIELDS, head.getShort(0) & 0xffff);
        ByteBuffer entries = slice(offset + 2, 12 * count + 4);
        int at = 0;
        for (int i = 0; i < count && at + 12 <= entries.capacity(); i++, at += 12) {
            TiffField field = field(entries, at);
            if (field != null) {
                into.put(field);
                follow(field, into, depth);
            }
        }
        return at + 4 <= entries.capacity() ? entries.getInt(at) & 0xffffffffL : 0;
    }

    private TiffField field(ByteBuffer entries, int at) {
        int tag = entries.getShort(at) & 0xffff;
        int type = entries.getShort(at + 2) & 0xffff;
        long count = entries.getInt(at + 4) & 0xffffffffL;
        int size = TiffType.size(type);
        long bytes = count * size;
        if (size == 0 || bytes > Math.min(length, MAX_FIELD_BYTES)) {
            return null;
        }
        if (bytes <= 4) {
            byte[] value = new byte[(int) bytes];
            entries.get(at + 8, value);
            return new TiffField(tag, type, (int) count, value, order);
        }
        long from = entries.getInt(at + 8) & 0xffffffffL;
        if (from + bytes > length) {
            return null;
        }
        byte[] value = slice(from, (int) bytes).array();
        if (tag == Tag.IPTC && value.length == bytes) {
            return iptc(value);
        }
        return value.length == bytes ? new TiffField(tag, type, (int) count, value, order) : null;
    }

    /** An IPTC record begins with 28; programs write it as bytes, or as longs in one order or the other (common practice). */
    private static TiffField iptc(byte[] value) {
        if (value.length >= 4 && value[0] != 0x1c && value[3] == 0x1c) {
            StructuredBytes.swap(value, 0, 4, value.length / 4);
        }
        return TiffField.ofBytes(Tag.IPTC, TiffType.UNDEFINED, value);
    }

    /**
     * Further camera profiles stand in blocks of their own, each like a small file with another number in its header and offsets
     * that count from its beginning (DNG specification 1.4, ExtraCameraProfiles).
     */
    private void followProfiles(TiffField field, TiffDirectory into) {
        List<byte[]> blocks = new ArrayList<>();
        for (int i = 0; i < Math.min(field.count(), MAX_DIRECTORIES); i++) {
            long at = base + field.asLong(i);
            byte[] head = file.slice(at, 4);
            if (head.length < 4 || (head[2] ^ head[3]) != ('C' ^ 'R')) {
                continue;
            }
            try {
                TiffDirectory profile = read(file, at).get(0);
                TiffWriter.Layout layout = TiffWriter.layOut(8, profile, ByteOrder.LITTLE_ENDIAN);
                ByteBuffer block =
                        ByteBuffer.allocate(8 + layout.bytes().length).order(ByteOrder.LITTLE_ENDIAN);
                block.put(new byte[] {'I', 'I', 'R', 'C'}).putInt((int) layout.firstDirectory());
                blocks.add(block.put(layout.bytes()).array());
            } catch (RefusedException e) {
                // One that cannot be read is none.
            }
        }
        if (!blocks.isEmpty()) {
            into.blocks().put(field.tag(), blocks);
        }
    }

    private void follow(TiffField field, TiffDirectory into, int depth) {
        if (field.tag() == Tag.EXTRA_CAMERA_PROFILES && depth == 0) {
            followProfiles(field, into);
            return;
        }
        boolean exif = field.tag() == Tag.EXIF_IFD;
        boolean gps = field.tag() == Tag.GPS_IFD;
        boolean rules = field.tag() == Tag.INTEROPERABILITY_IFD;
        if (depth > 3 || !(exif || gps || rules || field.tag() == Tag.SUB_IFDS)) {
            return;
        }
        for (int i = 0; i < Math.min(field.count(), 16); i++) {
            long offset = field.asLong(i);
            if (!isNew(offset)) {
                continue;
            }
            TiffDirectory directory = new TiffDirectory();
            directory(offset, directory, depth + 1);
            if (exif) {
                into.setExif(directory);
            } else if (gps) {
                into.setGps(directory);
            } else if (rules) {
                into.setInteroperability(directory);
            } else {
                into.subDirectories().add(directory);
            }
        }
    }
}
