package org.rainsieve.web.bench;

import java.util.List;
import org.rainsieve.web.setup.NotFoundException;

/**
 * What a viewer asks for of a picture.
 *
 * @param which {@code before}, {@code after}, {@code taken} (what was taken out), {@code noise} (the noise map)
 * @param kind {@code overview} for the whole picture reduced, else a region at whole pixels
 * @param look as {@link org.rainsieve.colour.ViewLook}, view only
 */
record View(String which, String kind, int x, int y, int w, int h, Look look) {
    private static final List<String> WHICH = List.of("before", "after", "taken", "noise");

    /** As a browser sends it; what is missing is plain. */
    record Look(Double lift, Double shadows, Double contrast, Double saturation, Boolean marks) {
        static Look lifted(double stops) {
            return new Look(stops, null, null, null, null);
        }

        String query() {
            return "&lift=" + or0(lift) + "&shadows=" + or0(shadows) + "&contrast=" + or0(contrast) + "&saturation="
                    + or0(saturation) + "&marks=" + Boolean.TRUE.equals(marks);
        }

        private static double or0(Double value) {
            return value == null ? 0 : value;
        }
    }

    View {
        if (!WHICH.contains(which)) {
            throw new NotFoundException("There is no such picture.");
        }
    }

    static View region(int x, int y, int w, int h, double lift) {
        return new View("after", "region", x, y, w, h, Look.lifted(lift));
    }

    boolean overview() {
        return kind.equals("overview");
    }

    /** As a worker is asked. */
    String query() {
        return "which=" + which + "&kind=" + (overview() ? "overview" : "region") + "&x=" + x + "&y=" + y + "&w=" + w
                + "&h=" + h + look.query();
    }
}
