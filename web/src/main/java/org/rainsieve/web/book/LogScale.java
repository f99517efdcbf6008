package org.rainsieve.web.book;

import java.util.ArrayList;
import java.util.List;

/** A log scale of a drawing: from and to lie at start and end. */
public record LogScale(double from, double to, double start, double end) {
    /** A mark on an axis. */
    public record Tick(double at, String text) {}

    double at(double value) {
        return start + (end - start) * Math.log(value / from) / Math.log(to / from);
    }

    /** Full stops of ISO or EI from 100 on, as far as they lie on the scale and not beyond the last. */
    List<Tick> stops(double last) {
        List<Tick> ticks = new ArrayList<>();
        for (int iso = 100; iso <= last; iso *= 2) {
            if (iso >= from) {
                ticks.add(new Tick(at(iso), iso >= 10_000 ? iso / 100 / 10.0 + "k" : Integer.toString(iso)));
            }
        }
        return ticks;
    }
}
