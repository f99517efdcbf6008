package org.rainsieve.dng;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.rainsieve.frame.RefusedException;

/**
 * Reads the directories of a TIFF file (TIFF 6.0; not BigTIFF) out of its bytes. Fields that point outside the file are
 * left out; loops between directories are followed once.
 */
public final class TiffReader {
    private static final int MAX_DIRECTORIES = 64;
    private static final int MAX_FIELDS = 4096;

    private final byte[] data;
    private final ByteBuffer buffer;
    private final Set<Long> visited = new HashSet<>();

    private TiffReader(byte[] data, ByteOrder order) {
        this.data = data;
        this.buffer = ByteBuffer.wrap(data).order(order);
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
        TiffReader reader = new TiffReader(data, data[0] == 'I' ? ByteOrder.LITTLE_ENDIAN : ByteOrder.BIG_ENDIAN);
        List<TiffDirectory> chain = new ArrayList<>();
        long offset = reader.buffer.getInt(4) & 0xffffffffL;
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

    private boolean isNew(long offset) {
        return offset >= 8 && offset + 2 <= data.length && visited.size() < MAX_DIRECTORIES && visited.add(offset);
    }

    private long directory(long offset, TiffDirectory into, int depth) {
        int count = Math.min(MAX_FIELDS, buffer.getShort((int) offset) & 0xffff);
        long at = offset + 2;
        for (int i = 0; i < count && at + 12 <= data.length; i++, at += 12) {
            TiffField field = field((int) at);
            if (field != null) {
                into.put(field);
                follow(field, into, depth);
            }
        }
        return at + 4 <= data.length ? buffer.getInt((int) at) & 0xffffffffL : 0;
    }

    private TiffField field(int at) {
        int tag = buffer.getShort(at) & 0xffff;
        int type = buffer.getShort(at + 2) & 0xffff;
        long count = buffer.getInt(at + 4) & 0xffffffffL;
        int size = TiffType.size(type);
        long bytes = count * size;
        if (size == 0 || bytes > data.length) {
            return null;
        }
        long from = bytes <= 4 ? at + 8 : buffer.getInt(at + 8) & 0xffffffffL;
        if (from + bytes > data.length) {
            return null;
        }
        byte[] value = Arrays.copyOfRange(data, (int) from, (int) (from + bytes));
        return new TiffField(tag, type, (int) count, value, buffer.order());
    }

    private void follow(TiffField field, TiffDirectory into, int depth) {
        boolean exif = field.tag() == Tag.EXIF_IFD;
        boolean gps = field.tag() == Tag.GPS_IFD;
        if (depth > 3 || !(exif || gps || field.tag() == Tag.SUB_IFDS)) {
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
            } else {
                into.subDirectories().add(directory);
            }
        }
    }
}
