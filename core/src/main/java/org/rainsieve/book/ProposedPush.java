package org.rainsieve.book;

import java.util.OptionalDouble;
import org.rainsieve.reading.Reading;

/**
 * How far a frame that was exposed too low is to be brightened: as far as its group lies above it, or, where it is alone, up to
 * mid-grey; and never so far that highlights come closer to clipping than one stop. (Common practice.)
 */
public final class ProposedPush {
    private static final double HIGHLIGHTS_STOPS = -1;

    /** Less is no push but a matter of taste. */
    private static final double LEAST_STOPS = 0.5;

    private ProposedPush() {}

    /** @return stops, in tenths; nothing for frames that are not too dark, or whose highlights leave no room */
    public static OptionalDouble of(Reading reading, Strays.Group group) {
        double lower = Strays.tooDarkStops(reading, group);
        if (lower == 0 || reading.highStops() == null) {
            return OptionalDouble.empty();
        }
        double push = Math.floor(10 * Math.min(lower, HIGHLIGHTS_STOPS - reading.highStops())) / 10;
        return push < LEAST_STOPS ? OptionalDouble.empty() : OptionalDouble.of(push);
    }
}
