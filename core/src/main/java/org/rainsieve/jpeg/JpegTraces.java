package org.rainsieve.jpeg;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.rainsieve.frame.Picture;

/** What compression and a camera's own processing have left in a JPEG. */
public final class JpegTraces {
    private static final String QUALITY = "JPEG of about quality ";
    private static final String EDGES = "edges of 8×8 blocks show";

    /** The luminance table of ITU-T T.81, annex K, in zigzag order; its mean of ratios tells a quality as IJG's library counts. */
    private static final int[] ANNEX_K = {
        16, 11, 12, 14, 12, 10, 16, 14, 13, 14, 18, 17, 16, 19, 24, 40, 26, 24, 22, 22, 24, 49, 35, 37, 29, 40, 58, 51,
        61, 60, 57, 51, 56, 55, 64, 72, 92, 78, 64, 68, 87, 69, 55, 56, 80, 109, 81, 87, 95, 98, 103, 104, 103, 62, 77,
        113, 121, 112, 100, 120, 92, 101, 103, 99
    };

    /** Steps over the edges of 8×8 blocks stand out when they are larger than others by this share. (c.p.) */
    private static final double EDGES_SHOW = 1.12;

    private static final int ROWS = 400;

    private JpegTraces() {}

    /** Notes for people; empty when nothing stands out. */
    public static List<String> of(byte[] jpeg, Picture picture) {
        List<String> notes = new ArrayList<>();
        int quality = quality(jpeg);
        if (quality > 0) {
            notes.add(QUALITY + quality);
        }
        double edges = blockEdges(picture);
        if (edges > EDGES_SHOW) {
            notes.add(String.format(Locale.ROOT, "%s: steps over them are %.0f %% larger", EDGES, 100 * (edges - 1)));
        }
        return notes;
    }

    /** The quality that a reading's notes tell, 1 to 100; 0 when they tell none. */
    public static int qualityTold(List<String> notes) {
        return notes.stream()
                .filter(note -> note.startsWith(QUALITY))
                .mapToInt(note -> Integer.parseInt(note.substring(QUALITY.length())))
                .findFirst()
                .orElse(0);
    }

    /** Whether a reading's notes tell of block edges that show. */
    public static boolean edgesTold(List<String> notes) {
        return notes.stream().anyMatch(note -> note.startsWith(EDGES));
    }

    /** @return 1 to 100; 0 when there is no luminance table */
    static int quality(byte[] jpeg) {
        for (JpegSegments.Segment segment : JpegSegments.of(jpeg, 0)) {
            int from = segment.from();
            boolean luminance = segment.marker() == 0xdb && segment.to() - from >= 65 && from + 65 <= jpeg.length;
            if (luminance && jpeg[from] == 0) {
                double ratio = 0;
                for (int i = 0; i < 64; i++) {
                    ratio += (jpeg[from + 1 + i] & 0xff) / (double) ANNEX_K[i] / 64;
                }
                double quality = ratio <= 1 ? 100 - 50 * ratio : 50 / ratio;
                return (int) Math.max(1, Math.min(100, Math.round(quality)));
            }
        }
        return 0;
    }

    /** Mean step over vertical block edges ÷ mean of all other steps, in the root of green. */
    static double blockEdges(Picture picture) {
        double onEdge = 0;
        double off = 0;
        long edges = 0;
        long others = 0;
        int apart = Math.max(1, picture.height() / ROWS);
        for (int y = 0; y < picture.height(); y += apart) {
            double before = root(picture.at(1, 0, y));
            for (int x = 1; x < picture.width(); x++) {
                double here = root(picture.at(1, x, y));
                double step = Math.min(0.1, Math.abs(here - before)); // real edges do not decide
                before = here;
                if (x % 8 == 0) {
                    onEdge += step;
                    edges++;
                } else {
                    off += step;
                    others++;
                }
            }
        }
        return off == 0 || edges == 0 ? 1 : onEdge / edges / (off / others);
    }

    private static double root(float v) {
        return Math.sqrt(Math.max(0, v));
    }
}
