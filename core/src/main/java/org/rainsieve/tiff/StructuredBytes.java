package org.rainsieve.tiff;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;

/**
 * Fields of the type UNDEFINED whose bytes hold numbers in the file's byte order all the same: EXIF's CFAPattern (EXIF 2.3, 4.6.5),
 * and tables of the DNG specification 1.6 and 1.7.
 */
final class StructuredBytes {
    private static final int EXIF_CFA_PATTERN = 41730;
    private static final int ILLUMINANT_DATA_1 = 52533;
    private static final int ILLUMINANT_DATA_3 = 52535;

    private StructuredBytes() {}

    /** @return the bytes in the other order; as they are where there is nothing to swap, or where they fit no known form */
    static byte[] swapped(int tag, byte[] bytes, ByteOrder from) {
        byte[] out = bytes.clone();
        switch (tag) {
            case EXIF_CFA_PATTERN -> swap(out, 0, 2, 2);
            case Tag.PROFILE_GAIN_TABLE_MAP, Tag.PROFILE_GAIN_TABLE_MAP_2 -> gainTable(tag, bytes, out, from);
            default -> {
                if (tag >= ILLUMINANT_DATA_1 && tag <= ILLUMINANT_DATA_3) {
                    swap(out, 0, 2, 1);
                    swap(out, 2, 4, (out.length - 2) / 4);
                }
            }
        }
        return out;
    }

    /** MapPoints V and H; spacing V and H, origin V and H; MapPointsN; five weights; then gains, in the second form after four more. */
    private static void gainTable(int tag, byte[] bytes, byte[] out, ByteOrder from) {
        boolean second = tag == Tag.PROFILE_GAIN_TABLE_MAP_2;
        int head = second ? 80 : 64;
        if (bytes.length < head) {
            return;
        }
        swap(out, 0, 4, 2);
        swap(out, 8, 8, 4);
        swap(out, 40, 4, (head - 40) / 4);
        // The second form says how gains are stored: 0 bytes, 1 short, 2 half, 3 single precision.
        int kind = second ? ByteBuffer.wrap(bytes).order(from).getInt(64) : 3;
        int size = kind == 0 ? 1 : kind == 3 ? 4 : 2;
        swap(out, head, size, (out.length - head) / size);
    }

    /** Turns the bytes of so many numbers of one size around. */
    static void swap(byte[] bytes, int from, int size, int count) {
        for (int at = from; count > 0 && at + size <= bytes.length; at += size, count--) {
            for (int k = 0; k < size / 2; k++) {
                byte keep = bytes[at + k];
                bytes[at + k] = bytes[at + size - 1 - k];
                bytes[at + size - 1 - k] = keep;
            }
        }
    }
}
