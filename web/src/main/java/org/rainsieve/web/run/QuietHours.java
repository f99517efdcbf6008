package org.rainsieve.web.run;

import java.time.LocalTime;
import java.time.format.DateTimeParseException;

/**
 * Hours of the day in which no item is begun, so that the machine is left alone; what is at work is finished.
 *
 * @param from begin; null for none
 * @param until end, maybe on the next day
 */
public record QuietHours(LocalTime from, LocalTime until) {
    public static final QuietHours NONE = new QuietHours(null, null);

    /** @throws IllegalArgumentException in plain words for what is no pair of times, such as {@code 08:00-18:00} */
    public static QuietHours parse(String text) {
        if (text == null || text.isBlank()) {
            return NONE;
        }
        String[] parts = text.strip().split("-");
        try {
            if (parts.length == 2) {
                LocalTime from = LocalTime.parse(parts[0].strip());
                LocalTime until = LocalTime.parse(parts[1].strip());
                return from.equals(until) ? NONE : new QuietHours(from, until);
            }
        } catch (DateTimeParseException e) {
            // said below
        }
        throw new IllegalArgumentException("SIEVE_QUIET is two times of day such as 08:00-18:00, not " + text);
    }

    public boolean at(LocalTime time) {
        if (from == null) {
            return false;
        }
        boolean afterFrom = !time.isBefore(from);
        boolean beforeUntil = time.isBefore(until);
        return from.isBefore(until) ? afterFrom && beforeUntil : afterFrom || beforeUntil;
    }
}
