package org.rainsieve.web.run;

import java.time.LocalDateTime;
import java.util.Arrays;
import java.util.stream.Collectors;

/**
 * A run with its counts and its speed so far.
 *
 * @param halted why it waits by itself, in plain words; null while nothing is in its way
 */
public record RunRow(
        long id,
        long shootId,
        String shoot,
        String state,
        String destination,
        LocalDateTime createdAt,
        String halted,
        String forms,
        int frames,
        int items,
        int waiting,
        int taken,
        int returned,
        int failed,
        int discarded,
        double megapixels,
        double megapixelsDone,
        double megapixelsEnded,
        long returnsBytes,
        Double seconds) {

    /** What its frames are returned as, where it is not linear DNG alone. */
    public String formsInWords() {
        return forms.equals(ReturnForm.DNG.name())
                ? ""
                : Arrays.stream(forms.split(","))
                        .map(form -> ReturnForm.valueOf(form).title())
                        .collect(Collectors.joining(", "));
    }

    /** What the run is doing, in one word. */
    public String standing() {
        return state.equals("running") && waiting + taken == 0 ? "finished" : state;
    }

    public boolean open() {
        return waiting + taken > 0;
    }

    public double megapixelsPerSecond() {
        return seconds == null || seconds <= 0 ? 0 : megapixelsDone / seconds;
    }

    /** Seconds left at the speed so far, or −1 when there is none to go by yet. */
    public double secondsLeft() {
        double speed = megapixelsPerSecond();
        return speed <= 0 || state.equals("stopped") ? -1 : (megapixels - megapixelsDone) / speed;
    }

    /** What its returns will take on the disk, from those that are there; 0 while there is none. */
    public double bytesInAll() {
        // Failed frames take nothing: they are as likely among those to come.
        return megapixelsEnded <= 0 ? 0 : returnsBytes / megapixelsEnded * megapixels;
    }

    /** Half the width of the time left's range as a share of it: wide at first, narrow once many frames are done. */
    public double uncertainty() {
        return Math.min(0.6, 0.08 + 0.6 / Math.sqrt(1 + returned + failed));
    }
}
