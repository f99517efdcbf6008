package org.rainsieve.book;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.DoubleStream;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.reading.Blur;
import org.rainsieve.reading.Reading;

/** Tells which frames their rung does not fit, and why, in words. */
public final class Strays {
    /** Noise off by half a stop of ISO moves its sd by 19 % (where light's own noise rules) to 41 %. */
    private static final double NOISE_OFF = Math.log(1.12);

    /** Share of clipped photosites beyond which a frame is burnt out rather than lit by lamps. (Common practice.) */
    private static final double CLIPPED_HARD_PERCENT = 10;

    /** Blur this many times its group's, and this much more, is far from it. (Common practice.) */
    private static final double BLURRED = 1.5;

    private static final double BLURRED_PX = 0.4;

    /** Fewer frames are no group to compare with. */
    private static final int FEW = 4;

    /**
     * The frames that one is compared with: of the same shoot, camera and ISO.
     *
     * @param sigmaPx the middle of their blur; NaN when unknown
     * @param middleStops the middle of their brightness, in stops
     */
    public record Group(int frames, double sigmaPx, double middleStops) {
        public static final Group NONE = new Group(0, Double.NaN, Double.NaN);

        /** @param readings of the group's frames */
        public static Group of(List<Reading> readings) {
            List<Reading> pictures = readings.stream().filter(r -> !r.dark()).toList();
            double sigma = middle(pictures.stream()
                    .map(Reading::blur)
                    .filter(blur -> blur != null && !blur.moved())
                    .mapToDouble(Blur::softPx));
            return new Group(pictures.size(), sigma, middle(pictures.stream().mapToDouble(Reading::middleStops)));
        }

        private static double middle(DoubleStream values) {
            double[] sorted = values.sorted().toArray();
            return sorted.length == 0 ? Double.NaN : sorted[(sorted.length - 1) / 2];
        }
    }

    /** By how much a frame must be darker than its group before its push is asked for. (c.p.) */
    private static final double MUCH_DARKER_STOPS = 1.25;

    /** The same below mid-grey for a frame that has no group: night scenes are dark on purpose. (c.p.) */
    private static final double MUCH_BELOW_GREY_STOPS = 2;

    /** So far off its line a camera does not lie at one ISO by itself: two thirds of a stop. */
    private static final double OFF_LINE = Math.log(1.3);

    private Strays() {}

    /**
     * @param law the pooled law of the frame's body at its ISO
     * @return the reasons, most important first; empty for a frame that fits
     */
    public static List<String> reasons(Reading reading, NoiseModel law) {
        return reasons(reading, law, Group.NONE, true);
    }

    /**
     * The same, with what the law rests on.
     *
     * @param offLine the sd at this ISO against what the camera's other settings lead to expect; NaN if unknown
     */
    public static List<String> reasons(
            Reading reading, SettledLaw law, double offLine, Group group, boolean pushKnown) {
        List<String> reasons = reasons(reading, law.law(), group, pushKnown);
        if (reading.dark()) {
            return reasons;
        }
        List<String> more = new ArrayList<>(reasons);
        if (!law.source().firm()) {
            more.add(0, inWords(law));
        } else if (Math.abs(Math.log(offLine)) > OFF_LINE) {
            more.add(String.format(
                    Locale.ROOT,
                    "noise at this ISO reads %.0f %% %s what the camera's other settings lead to expect",
                    100 * Math.abs(offLine - 1),
                    offLine > 1 ? "above" : "below"));
        }
        return more;
    }

    /** What a law rests on that the frame's own camera and ISO do not tell. */
    public static String inWords(SettledLaw law) {
        String instead = switch (law.source()) {
            case UNCERTAIN_FRAMES -> "its noise can hardly be read, and nothing better is known at this ISO";
            case OTHER_ISOS ->
                "its noise cannot be read: taken from what this camera's other ISO settings lead to expect";
            case OTHER_BODIES -> "its noise cannot be read: taken from the other cameras in the book at this ISO";
            default -> "its noise cannot be read, and nothing is known of this camera: that of a usual sensor is taken";
        };
        return String.format(Locale.ROOT, "%s (± %.0f %%)", instead, law.errorPercent());
    }

    /**
     * The same, with its blur and brightness against its group's.
     *
     * @param pushKnown false when nobody and nothing has said how far the frame was exposed too low
     */
    public static List<String> reasons(Reading reading, NoiseModel law, Group group, boolean pushKnown) {
        List<String> reasons = new ArrayList<>();
        if (reading.dark()) {
            return List.of("an exposure without light: it tells the body's defects and is not a picture");
        }
        if (reading.denoisedBefore()) {
            reasons.add("noise was taken out of this file before: neighbouring photosites share what is left");
        } else if (reading.noise() != null && !reading.noise().uncertain()) {
            double off = noiseOff(reading, law);
            if (Math.abs(Math.log(off)) > NOISE_OFF) {
                reasons.add(String.format(
                        Locale.ROOT,
                        "noise %.0f %% %s the book's for this ISO",
                        100 * Math.abs(off - 1),
                        off > 1 ? "above" : "below"));
            }
        }
        blur(reading.blur(), group, reasons);
        double darker = tooDarkStops(reading, group);
        if (!pushKnown && darker > 0) {
            reasons.add(String.format(
                    Locale.ROOT,
                    "push unsure: %.1f stops darker than %s, and no push is given",
                    darker,
                    group.frames >= FEW ? "its group" : "mid-grey, and alone at its ISO"));
        }
        if (reading.clippedPercent() > CLIPPED_HARD_PERCENT) {
            reasons.add(String.format(Locale.ROOT, "%.0f %% of it is clipped", reading.clippedPercent()));
        }
        return reasons;
    }

    /** By how many stops a frame is darker than its group or, as one of few, than mid-grey; 0 where that is no matter. */
    static double tooDarkStops(Reading reading, Group group) {
        if (reading.dark() || group.frames == 0) {
            return 0;
        }
        boolean compared = group.frames >= FEW;
        double darker = compared ? group.middleStops - reading.middleStops() : -reading.middleStops();
        return darker > (compared ? MUCH_DARKER_STOPS : MUCH_BELOW_GREY_STOPS) ? darker : 0;
    }

    private static void blur(Blur blur, Group group, List<String> reasons) {
        if (blur == null || group.frames < FEW || Double.isNaN(group.sigmaPx)) {
            return;
        }
        if (blur.moved() && blur.linePx() > BLURRED * 2 * group.sigmaPx) {
            reasons.add(String.format(
                    Locale.ROOT,
                    "moved by %.0f px at %.0f°; its group is sharp to %.1f px",
                    blur.linePx(),
                    blur.lineAngleDegrees(),
                    group.sigmaPx));
        } else if (!blur.moved()
                && blur.softPx() > BLURRED * group.sigmaPx
                && blur.softPx() > group.sigmaPx + BLURRED_PX) {
            reasons.add(String.format(
                    Locale.ROOT,
                    blur.discPx() > 0
                            ? "focus missed: a disc of %.1f px where it is sharpest, its group is sharp to %.1f px"
                            : "softer than its group: blur σ %.1f px where it is sharpest, the group's is %.1f px",
                    blur.discPx() > 0 ? blur.discPx() : blur.softPx(),
                    group.sigmaPx));
        }
    }

    /** The noise's sd at the frame's own brightness as read, against the book's. NaN when it could not be read, or without light. */
    public static double noiseOff(Reading reading, NoiseModel law) {
        if (reading.noise() == null || reading.dark()) {
            return Double.NaN;
        }
        double middle = 0.18 * Math.pow(2, Math.min(0, reading.middleStops()));
        return Math.sqrt(reading.noise().law().variance(1, middle) / law.variance(1, middle));
    }
}
