package org.rainsieve.web.bench;

import org.rainsieve.web.setup.NotFoundException;

/**
 * What a viewer asks for of a picture.
 *
 * @param which {@code before} or {@code after}
 * @param kind {@code overview} for the whole picture reduced, else a region at whole pixels
 */
record View(String which, String kind, int x, int y, int w, int h, double lift) {
    View {
        if (!which.equals("before") && !which.equals("after")) {
            throw new NotFoundException("There is no such picture.");
        }
    }

    static View region(int x, int y, int w, int h, double lift) {
        return new View("after", "region", x, y, w, h, lift);
    }

    boolean overview() {
        return kind.equals("overview");
    }

    /** As a worker is asked. */
    String query() {
        return "which=" + which + "&kind=" + (overview() ? "overview" : "region") + "&x=" + x + "&y=" + y + "&w=" + w
                + "&h=" + h + "&lift=" + lift;
    }
}
