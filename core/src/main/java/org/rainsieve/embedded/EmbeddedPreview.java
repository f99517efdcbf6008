package org.rainsieve.embedded;

import java.nio.ByteBuffer;
import java.util.List;
import org.rainsieve.file.FileBytes;
import org.rainsieve.jpeg.JpegSegments;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;

/** Finds the JPEG that a file holds of itself, the smallest that is large enough for a contact sheet. */
public final class EmbeddedPreview {
    /** A JPEG of the size of a contact sheet's pictures has about as many; sizes in pixels are not told without decoding. */
    private static final int ENOUGH_BYTES = 12_000;

    private static final long LARGEST = 16L << 20;
    private static final int JPEG_FROM_RAW = 0x2e;
    private static final int MOST_BOXES = 256;

    private final FileBytes file;
    private long from;
    private long length;

    private EmbeddedPreview(FileBytes file) {
        this.file = file;
    }

    /** @return null without one */
    public static byte[] of(FileBytes file, List<TiffDirectory> directories) {
        EmbeddedPreview best = new EmbeddedPreview(file);
        long base = base(file);
        for (TiffDirectory directory : directories) {
            best.offer(base + directory.number(Tag.JPEG_OFFSET, -1), directory.number(Tag.JPEG_LENGTH, 0));
            boolean jpeg = directory.number(Tag.COMPRESSION, 0) == 6 || directory.number(Tag.COMPRESSION, 0) == 7;
            double[] offsets = directory.numbers(Tag.STRIP_OFFSETS);
            double[] lengths = directory.numbers(Tag.STRIP_BYTE_COUNTS);
            if (jpeg && offsets.length == 1 && lengths.length == 1) {
                best.offer(base + (long) offsets[0], (long) lengths[0]);
            }
            byte[] hidden = directory.field(JPEG_FROM_RAW).map(TiffField::bytes).orElse(null);
            if (hidden != null && isPicture(hidden) && best.length < ENOUGH_BYTES) {
                return hidden;
            }
        }
        byte[] head = file.slice(0, 128);
        if (EmbeddedTags.starts(head, 0, "FUJIFILM") && head.length > 92) {
            best.offer(number(head, 84), number(head, 88));
        }
        if (EmbeddedTags.starts(head, 4, "ftypcrx")) {
            best.boxes(0, file.length(), 0);
        }
        if (best.length == 0) {
            return null;
        }
        byte[] jpeg = file.slice(best.from, (int) best.length);
        return isPicture(jpeg) ? jpeg : null;
    }

    private static long base(FileBytes file) {
        byte[] head = file.slice(0, 1 << 16);
        if (!EmbeddedTags.starts(head, 0, "\u00ff\u00d8")) {
            return 0;
        }
        for (JpegSegments.Segment segment : JpegSegments.of(head, 0)) {
            if (segment.marker() == 0xe1 && EmbeddedTags.starts(head, segment.from(), "Exif\0\0")) {
                return segment.from() + 6;
            }
        }
        return 0;
    }

    /** Keeps the smallest that is large enough, else the largest. */
    private void offer(long at, long size) {
        if (at <= 0 || size < 200 || size > LARGEST || at + size > file.length() || !isPicture(file.slice(at, 4096))) {
            return;
        }
        boolean better = length < ENOUGH_BYTES ? size > length : size >= ENOUGH_BYTES && size < length;
        if (better) {
            from = at;
            length = size;
        }
    }

    /** A JPEG, and not one of the lossless kind that holds a mosaic. */
    private static boolean isPicture(byte[] data) {
        if (!EmbeddedTags.starts(data, 0, "\u00ff\u00d8\u00ff")) {
            return false;
        }
        return JpegSegments.of(data, 0).stream().noneMatch(segment -> segment.marker() == 0xc3);
    }

    private void boxes(long start, long end, int depth) {
        long at = start;
        for (int i = 0; i < MOST_BOXES && at + 16 <= end; i++) {
            byte[] box = file.slice(at, 16);
            long size = number(box, 0);
            boolean wide = size == 1;
            size = wide ? number(box, 8) << 32 | number(box, 12) : size;
            int head = wide ? 16 : 8;
            long next = size < head ? end : Math.min(end, at + size);
            if (EmbeddedTags.starts(box, 4, "moov") && depth < 3) {
                boxes(at + head, next, depth + 1);
            } else if (EmbeddedTags.starts(box, 4, "uuid") && depth < 3) {
                // Some have a word of version and a count before the boxes in them.
                byte[] inner = file.slice(at + head + 16, 16);
                boolean counted = EmbeddedTags.starts(inner, 12, "PRVW");
                boxes(at + head + 16 + (counted ? 8 : 0), next, depth + 1);
            } else if (EmbeddedTags.starts(box, 4, "THMB") || EmbeddedTags.starts(box, 4, "PRVW")) {
                byte[] beginning = file.slice(at, 64);
                for (int k = 8; k + 2 < beginning.length; k++) {
                    if (EmbeddedTags.starts(beginning, k, "\u00ff\u00d8\u00ff")) {
                        offer(at + k, next - at - k);
                        break;
                    }
                }
            }
            at = next;
        }
    }

    private static long number(byte[] data, int at) {
        return ByteBuffer.wrap(data).getInt(at) & 0xffffffffL;
    }
}
