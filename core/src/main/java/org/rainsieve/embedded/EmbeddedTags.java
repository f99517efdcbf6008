package org.rainsieve.embedded;

import java.util.List;
import org.rainsieve.file.FileBytes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.jpeg.JpegSegments;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffReader;

/**
 * Finds the TIFF directories with the shot's data (EXIF 2.3, TIFF/EP) in files of other makers: they are TIFF files under
 * another number, hold a JPEG with EXIF, blocks, or boxes (ISO base media file format) with a TIFF block for each directory.
 */
public final class EmbeddedTags {
    private static final int MOST_BOXES = 4096;
    /** Files of the number 85 have the sensitivity in their main directory. (mem.) */
    private static final int PANASONIC_ISO = 0x17;

    /** EXIF comes first in a JPEG, and a segment has at most 64 KiB. */
    private static final int JPEG_HEAD = 1 << 18;

    private EmbeddedTags() {}

    /** @return the main directory with EXIF and GPS below it; empty when there is none to be found */
    public static TiffDirectory of(byte[] file) {
        return chain(FileBytes.of(file)).get(0);
    }

    /** All directories of the file, the main one first; it is empty when there is none to be found. */
    public static List<TiffDirectory> chain(FileBytes file) {
        byte[] head = file.slice(0, 128);
        try {
            if (starts(head, 0, "FUJIFILM") && head.length > 92) {
                return ofJpeg(file, big(head, 84) & 0xffffffffL);
            }
            if (starts(head, 4, "ftyp")) {
                TiffDirectory main = new TiffDirectory();
                boxes(file, 0, file.length(), main, 0);
                return List.of(main);
            }
            if (starts(head, 0, "\0MRM")) {
                return ofBlocks(file);
            }
            TiffDirectory uncommon = UncommonTags.of(file);
            if (uncommon != null) {
                return List.of(uncommon);
            }
            List<TiffDirectory> chain = TiffReader.read(file, 0);
            if (starts(head, 0, "IIU\0")) {
                chain.get(0).field(PANASONIC_ISO).ifPresent(iso -> isoUnless(chain.get(0), iso.asInt(0)));
            }
            return chain;
        } catch (RefusedException | RuntimeException e) {
            return List.of(new TiffDirectory()); // the decoder's own description has to do
        }
    }

    /** The directories in a JPEG's APP1 segment. */
    public static List<TiffDirectory> ofJpeg(FileBytes file, long from) throws RefusedException {
        byte[] head = file.slice(from, JPEG_HEAD);
        for (JpegSegments.Segment segment : JpegSegments.of(head, 0)) {
            if (segment.marker() == 0xe1 && starts(head, segment.from(), "Exif\0\0")) {
                return TiffReader.read(file, from + segment.from() + 6);
            }
        }
        return List.of(new TiffDirectory());
    }

    /** Blocks of a name, a length and content, of which one holds TIFF directories. (mem.) */
    private static List<TiffDirectory> ofBlocks(FileBytes file) throws RefusedException {
        long end = 8 + (big(file.slice(4, 4), 0) & 0xffffffffL);
        for (long at = 8; at + 8 <= Math.min(end, file.length()); ) {
            byte[] block = file.slice(at, 8);
            if (starts(block, 0, "\0TTW")) {
                return TiffReader.read(file, at + 8);
            }
            at += 8 + (big(block, 4) & 0xffffffffL);
        }
        return List.of(new TiffDirectory());
    }

    private static void boxes(FileBytes file, long from, long to, TiffDirectory main, int depth)
            throws RefusedException {
        long at = from;
        for (int i = 0; i < MOST_BOXES && at + 8 <= to; i++) {
            byte[] box = file.slice(at, 16);
            if (box.length < 16) {
                return;
            }
            long size = big(box, 0) & 0xffffffffL;
            int head = 8;
            if (size == 1) {
                size = (long) big(box, 8) << 32 | big(box, 12) & 0xffffffffL;
                head = 16;
            }
            long end = Math.min(to, size == 0 ? to : at + Math.max(size, head));
            if (starts(box, 4, "moov")) {
                boxes(file, at + head, end, main, depth + 1);
            } else if (starts(box, 4, "uuid") && depth < 3) {
                boxes(file, at + head + 16, end, main, depth + 1);
            } else if (starts(box, 4, "CMT1")) {
                TiffReader.read(file, at + head).get(0).fields().forEach(main::put);
            } else if (starts(box, 4, "CMT2")) {
                main.setExif(TiffReader.read(file, at + head).get(0));
            } else if (starts(box, 4, "CMT4")) {
                main.setGps(TiffReader.read(file, at + head).get(0));
            }
            at = end;
        }
    }

    private static void isoUnless(TiffDirectory main, int iso) {
        TiffDirectory exif = main.exif().orElseGet(TiffDirectory::new);
        if (!exif.has(Tag.ISO_SPEED)) {
            exif.put(TiffField.ofShorts(Tag.ISO_SPEED, iso));
            main.setExif(exif);
        }
    }

    public static boolean starts(byte[] data, int from, String head) {
        for (int i = 0; i < head.length(); i++) {
            if (from + i >= data.length || (data[from + i] & 0xff) != head.charAt(i)) {
                return false;
            }
        }
        return true;
    }

    private static int big(byte[] data, int at) {
        return (data[at] & 0xff) << 24 | (data[at + 1] & 0xff) << 16 | (data[at + 2] & 0xff) << 8 | data[at + 3] & 0xff;
    }
}
