package org.rainsieve.web.bench;

import java.util.Locale;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.frame.Region;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.setup.NotFoundException;

/**
 * What a viewer asks for of a picture.
 *
 * @param which see {@link Question.Which}
 * @param reduced the whole picture reduced, else a region at whole pixels
 */
record View(Question.Which which, boolean reduced, Region region, ViewLook look) {
    /** As a browser sends it; what is missing is plain. */
    record Look(
            Double lift, Double shadows, Double contrast, Double saturation, Boolean marks, Double red, Double blue) {
        ViewLook view() {
            return new ViewLook(
                    or0(lift),
                    or0(shadows),
                    or0(contrast),
                    or0(saturation),
                    Boolean.TRUE.equals(marks),
                    or0(red),
                    or0(blue));
        }

        private static double or0(Double value) {
            return value == null ? 0 : value;
        }
    }

    View(String which, String kind, int x, int y, int w, int h, Look look) {
        this(named(which), kind.equals("overview"), new Region(x, y, w, h), look.view());
    }

    private static Question.Which named(String which) {
        for (Question.Which known : Question.Which.values()) {
            if (known.name().toLowerCase(Locale.ROOT).equals(which)) {
                return known;
            }
        }
        throw new NotFoundException("There is no such picture.");
    }

    static View region(int x, int y, int w, int h) {
        return new View(Question.Which.AFTER, false, new Region(x, y, w, h), ViewLook.PLAIN);
    }

    Question of(Question.Subject subject, Question.Asker asker) {
        return reduced
                ? new Question.FrameReduced(subject, look, asker)
                : new Question.OfFrame(subject, which, region, look, asker);
    }

    Question ofReturn(long item) {
        return reduced
                ? new Question.ReturnReduced(item, which, look)
                : new Question.OfReturn(item, which, region, look);
    }
}
