package org.rainsieve.web.book;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.rainsieve.book.Page;
import org.rainsieve.book.Rung;

/** A page's rungs over log2(EI), laid out for drawing: two handles on each, and how amounts run between and beyond. */
public final class Ladder {
    static final int WIDTH = 620;
    static final int TOP = 14;
    static final int FLOOR = 190;
    private static final int LEFT = 52;
    private static final int RIGHT = 16;

    /** One rung: where it stands and how high its handles are. */
    public record Step(int index, int ei, double x, double grainKept, double colourNoiseKept) {}

    private final List<Step> steps = new ArrayList<>();
    private final List<LogScale.Tick> ticks;

    Ladder(Page page) {
        int from = Math.min(100, page.rungs().get(0).ei());
        int to = Math.max(51_200, page.rungs().get(page.rungs().size() - 1).ei());
        LogScale x = new LogScale(from / 1.2, to * 1.2, LEFT, WIDTH - RIGHT);
        for (Rung rung : page.rungs()) {
            steps.add(new Step(
                    steps.size(),
                    rung.ei(),
                    x.at(rung.ei()),
                    rung.denoise().grainKeptPercent(),
                    rung.denoise().colourNoiseKeptPercent()));
        }
        ticks = x.stops(to);
    }

    public List<Step> steps() {
        return steps;
    }

    public List<LogScale.Tick> ticks() {
        return ticks;
    }

    public double y(double percent) {
        return FLOOR - (FLOOR - TOP) * percent / 100;
    }

    /** Amounts over EI, constant beyond the ends. */
    public String path(boolean grain) {
        StringBuilder path = new StringBuilder();
        for (Step step : steps) {
            double y = y(grain ? step.grainKept : step.colourNoiseKept);
            if (path.isEmpty()) {
                path.append(String.format(Locale.ROOT, "M%d %.1f", LEFT, y));
            }
            path.append(String.format(Locale.ROOT, "L%.1f %.1f", step.x, y));
        }
        return path.append(String.format(Locale.ROOT, "H%d", WIDTH - RIGHT)).toString();
    }
}
