package org.rainsieve.raw;

import java.util.Arrays;
import java.util.List;
import org.rainsieve.dng.TiffDirectory;
import org.rainsieve.dng.TiffReader;
import org.rainsieve.frame.RefusedException;

/**
 * Finds the TIFF directories with the shot's data (EXIF 2.3, TIFF/EP) in files of other makers: they are TIFF files under
 * another number, hold a JPEG with EXIF, or boxes (ISO base media file format) with a TIFF block for each directory.
 */
final class EmbeddedTags {
    private static final int MOST_BOXES = 4096;

    private EmbeddedTags() {}

    /** @return the main directory with EXIF and GPS below it; empty when there is none to be found */
    static TiffDirectory of(byte[] file) {
        try {
            if (starts(file, 0, "FUJIFILM") && file.length > 92) {
                int jpeg = big(file, 84);
                return jpeg > 0 && jpeg < file.length - 12 ? ofJpeg(file, jpeg) : new TiffDirectory();
            }
            if (starts(file, 4, "ftyp")) {
                TiffDirectory main = new TiffDirectory();
                boxes(file, 0, file.length, main, 0);
                return main;
            }
            return ofTiff(file, 0, file.length);
        } catch (RefusedException | RuntimeException e) {
            return new TiffDirectory(); // the decoder's own description has to do
        }
    }

    /** The directories in a JPEG's APP1 segment. */
    static TiffDirectory ofJpeg(byte[] file, int from) throws RefusedException {
        for (JpegSegments.Segment segment : JpegSegments.of(file, from)) {
            if (segment.marker() == 0xe1 && starts(file, segment.from(), "Exif\0\0")) {
                return ofTiff(file, segment.from() + 6, Math.min(file.length, segment.to()));
            }
        }
        return new TiffDirectory();
    }

    private static TiffDirectory ofTiff(byte[] file, int from, int to) throws RefusedException {
        byte[] tiff = Arrays.copyOfRange(file, from, to);
        if (tiff.length > 8 && (starts(tiff, 0, "II") || starts(tiff, 0, "MM"))) {
            // Some makers write another number than 42 into an ordinary TIFF header.
            boolean little = tiff[0] == 'I';
            tiff[2] = (byte) (little ? 42 : 0);
            tiff[3] = (byte) (little ? 0 : 42);
        }
        List<TiffDirectory> chain = TiffReader.read(tiff);
        return chain.get(0);
    }

    private static void boxes(byte[] file, int from, int to, TiffDirectory main, int depth) throws RefusedException {
        int at = from;
        for (int i = 0; i < MOST_BOXES && at + 8 <= to; i++) {
            long size = big(file, at) & 0xffffffffL;
            int head = 8;
            if (size == 1 && at + 16 <= to) {
                size = (long) big(file, at + 8) << 32 | big(file, at + 12) & 0xffffffffL;
                head = 16;
            }
            int end = (int) Math.min(to, size == 0 ? to : at + Math.max(size, head));
            if (starts(file, at + 4, "moov")) {
                boxes(file, at + head, end, main, depth + 1);
            } else if (starts(file, at + 4, "uuid") && depth < 3) {
                boxes(file, at + head + 16, end, main, depth + 1);
            } else if (starts(file, at + 4, "CMT1")) {
                ofTiff(file, at + head, end).fields().forEach(main::put);
            } else if (starts(file, at + 4, "CMT2")) {
                main.setExif(ofTiff(file, at + head, end));
            } else if (starts(file, at + 4, "CMT4")) {
                main.setGps(ofTiff(file, at + head, end));
            }
            at = end;
        }
    }

    static boolean starts(byte[] data, int from, String head) {
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
