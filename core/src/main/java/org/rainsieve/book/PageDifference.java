package org.rainsieve.book;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.mask.Mask;
import org.rainsieve.mask.MaskAmounts;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

/** What differs between two states of a page, in words; and two people's changes brought together. */
public final class PageDifference {
    /**
     * @param what such as {@code ISO 1,600}
     * @param before in words; empty where there was nothing
     * @param after the same
     */
    public record Line(String what, String before, String after) {}

    /**
     * @param page both changes together; where they contradict each other it holds the other one's
     * @param contradictions where both changed the same thing differently: {@code before} is the other's, {@code after}
     *     mine
     */
    public record Merged(Page page, List<Line> contradictions) {}

    private PageDifference() {}

    public static List<Line> between(Page before, Page after) {
        List<Line> lines = new ArrayList<>();
        for (int ei : exposureIndices(before, after)) {
            add(lines, rungName(ei), settings(before, ei), settings(after, ei));
        }
        add(lines, "Offset of the whole camera", inWords(before.offset()), inWords(after.offset()));
        add(lines, "Engine", before.engine(), after.engine());
        add(lines, "Model", before.model(), after.model());
        return lines;
    }

    /** Three-way: what I changed since {@code base} on top of what another changed since then. */
    public static Merged merge(Page base, Page theirs, Page mine) {
        List<Line> contradictions = new ArrayList<>();
        List<Rung> rungs = new ArrayList<>();
        TreeSet<Integer> all = exposureIndices(theirs, mine);
        all.addAll(exposureIndices(base, base));
        for (int ei : all) {
            Rung kept = chosen(rung(base, ei), rung(theirs, ei), rung(mine, ei));
            if (contradict(settings(base, ei), settings(theirs, ei), settings(mine, ei))) {
                contradictions.add(new Line(rungName(ei), settings(theirs, ei), settings(mine, ei)));
            }
            if (kept != null) {
                rungs.add(kept);
            }
        }
        if (contradict(base.offset(), theirs.offset(), mine.offset())) {
            contradictions.add(
                    new Line("Offset of the whole camera", inWords(theirs.offset()), inWords(mine.offset())));
        }
        Page page = rungs.isEmpty() ? theirs : theirs.withRungs(rungs);
        return new Merged(
                page.withOffset(chosen(base.offset(), theirs.offset(), mine.offset()))
                        .pinned(
                                chosen(base.engine(), theirs.engine(), mine.engine()),
                                chosen(base.model(), theirs.model(), mine.model())),
                contradictions);
    }

    private static <T> T chosen(T base, T theirs, T mine) {
        return Objects.equals(base, theirs) ? mine : theirs;
    }

    private static <T> boolean contradict(T base, T theirs, T mine) {
        return !Objects.equals(base, theirs) && !Objects.equals(base, mine) && !Objects.equals(theirs, mine);
    }

    private static TreeSet<Integer> exposureIndices(Page one, Page other) {
        TreeSet<Integer> all = new TreeSet<>();
        one.rungs().forEach(rung -> all.add(rung.ei()));
        other.rungs().forEach(rung -> all.add(rung.ei()));
        return all;
    }

    private static Rung rung(Page page, int ei) {
        return page.rungs().stream().filter(rung -> rung.ei() == ei).findFirst().orElse(null);
    }

    private static String settings(Page page, int ei) {
        Rung rung = rung(page, ei);
        return rung == null
                ? ""
                : inWords(rung.denoise())
                        + (rung.sharpen().on() ? " · " + inWords(rung.sharpen()) : "")
                        + rung.masks().stream()
                                .map(mask -> " · " + inWords(mask))
                                .collect(Collectors.joining());
    }

    /** A mask's name and what it sets. */
    public static String inWords(Mask mask) {
        MaskAmounts amounts = mask.amounts();
        List<String> set = new ArrayList<>();
        add(set, "grain kept", amounts.grainKeptPercent());
        add(set, "colour noise kept", amounts.colourNoiseKeptPercent());
        add(set, "detail", amounts.detailPercent());
        add(set, "sharpness", amounts.bitePercent());
        return mask.name() + ": " + (mask.on() ? "" : "off, ")
                + (set.isEmpty() ? "nothing set" : String.join(", ", set));
    }

    private static void add(List<String> set, String what, Double percent) {
        if (percent != null) {
            set.add(what + " " + number(percent) + " %");
        }
    }

    private static String rungName(int ei) {
        return String.format(Locale.ROOT, "ISO %,d", ei);
    }

    private static void add(List<Line> lines, String what, String before, String after) {
        if (!before.equals(after)) {
            lines.add(new Line(what, before, after));
        }
    }

    /** Settings in one line, as everywhere they are told. */
    public static String inWords(DenoiseSettings settings) {
        if (!settings.on()) {
            return "Denoise off";
        }
        return settings.method() + " · grain kept " + number(settings.grainKeptPercent()) + " % · colour noise kept "
                + number(settings.colourNoiseKeptPercent()) + " %"
                + (settings.detailPercent() > 0 ? " · detail " + number(settings.detailPercent()) + " %" : "");
    }

    /** The same for sharpening. */
    public static String inWords(SharpenSettings settings) {
        if (!settings.on()) {
            return "Sharpen off";
        }
        PointSpread spread = settings.spread();
        return "Sharpen " + settings.method().words() + ", soft " + decimal(spread.softPx()) + " px"
                + (spread.discPx() > 0 ? ", disc " + decimal(spread.discPx()) + " px" : "")
                + (spread.linePx() > 0
                        ? ", line " + decimal(spread.linePx()) + " px at " + number(spread.lineAngleDegrees()) + "°"
                        : "")
                + (settings.cornersPx() > 0 ? ", corners +" + decimal(settings.cornersPx()) + " px" : "")
                + " · sharpness " + number(settings.biteFinePercent()) + " % fine, "
                + number(settings.biteCoarsePercent())
                + " % coarse · halo limit " + number(settings.rimLimitPercent()) + " %";
    }

    private static String decimal(double px) {
        return String.format(Locale.ROOT, "%.2f", px).replaceAll("0+$", "").replaceAll("\\.$", "");
    }

    private static String inWords(Offset offset) {
        return offset.isNone()
                ? "none"
                : String.format(
                        Locale.ROOT,
                        "grain %+.1f, colour noise %+.1f points",
                        offset.grainKeptPoints(),
                        offset.colourNoiseKeptPoints());
    }

    private static String number(double percent) {
        return percent == Math.rint(percent)
                ? Long.toString(Math.round(percent))
                : String.format(Locale.ROOT, "%.1f", percent);
    }
}
