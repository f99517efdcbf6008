package org.rainsieve.web.shoot;

import java.util.Locale;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.reading.Reading;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * A frame with what the book makes of it.
 *
 * @param stray why its rung does not fit; empty for a frame that fits or was accepted
 * @param noiseOff its noise against the book's, 1 when alike; NaN when unread
 * @param reading null while unread
 * @param amounts the amounts in force, in words
 * @param settings the settings in force; null while unread
 * @param sharpen the same of the step Sharpen
 * @param steps what the frame holds of its own
 * @param proposedPush in stops, for a frame that was exposed too low; null for others
 */
public record FrameOnSheet(
        FrameRow row,
        Reading reading,
        String stray,
        double noiseOff,
        String amounts,
        DenoiseSettings settings,
        SharpenSettings sharpen,
        FrameSteps steps,
        Double proposedPush) {

    /** ISO, and what it is pushed to where it is; empty where the file tells none. */
    public String sensitivity() {
        if (row.iso() == null || row.iso() == 0) {
            return "";
        }
        String iso = String.format(Locale.ROOT, "ISO %,d", row.iso());
        return row.push() == null || row.push() == 0
                ? iso
                : iso + String.format(Locale.ROOT, " pushed to %,d", Math.round(row.ei()));
    }
}
