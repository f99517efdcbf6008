package org.rainsieve.jpeg;

import java.util.ArrayList;
import java.util.List;

/** The marker segments of a JPEG before its picture data (ITU-T T.81, annex B). */
public final class JpegSegments {
    /**
     * One segment.
     *
     * @param from where its content begins
     * @param to where it ends as it says, which may lie beyond a file that was cut short
     */
    public record Segment(int marker, int from, int to) {}

    private JpegSegments() {}

    /** @param start of the JPEG in the file */
    public static List<Segment> of(byte[] file, int start) {
        List<Segment> segments = new ArrayList<>();
        int at = start + 2;
        while (at + 4 < file.length && (file[at] & 0xff) == 0xff) {
            int marker = file[at + 1] & 0xff;
            int length = (file[at + 2] & 0xff) << 8 | file[at + 3] & 0xff;
            if (marker == 0xda || length < 2) {
                break;
            }
            segments.add(new Segment(marker, at + 4, at + 2 + length));
            at += 2 + length;
        }
        return segments;
    }
}
