package org.rainsieve.web.bench;

import java.util.List;
import org.rainsieve.optics.LensDatabase;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.shoot.FrameForWork;

/**
 * The bench of one frame, in the words that it shows.
 *
 * @param about the camera, its sensitivity and the exposure
 * @param mark {@code keep}, {@code drop} or empty
 * @param stray why it stands out; empty for a frame that does not
 * @param previous the frame before it, or null; {@code next} likewise
 * @param returnedItem its newest return, or null
 * @param reading what was read on it
 * @param blur a Sharpen by what was read; null where that cannot tell
 * @param sharpest null where nothing tells it
 * @param caution what speaks against sharpening it; empty for nothing
 */
public record FramePage(
        FrameForWork frame,
        String shoot,
        String about,
        String mark,
        String stray,
        boolean denoisedBefore,
        Long previous,
        Long next,
        int place,
        int count,
        Long returnedItem,
        BenchState now,
        List<String> methods,
        List<Line> reading,
        Push push,
        List<Cell> focus,
        int focusHeight,
        String focusNote,
        FocusMap.Place sharpest,
        SharpenSettings blur,
        String caution,
        List<Rung> ladder,
        Lens lens,
        List<Partners.Choice> partners,
        int burst) {

    /** @param marker of the line, for tests and styles; empty for most */
    public record Line(String term, List<String> words, String marker) {}

    /** @param hint what the file tells of it; empty for nothing */
    public record Push(String stops, String words, String hint) {}

    /** A cell of the focus map, laid out for drawing. */
    public record Cell(double x, double y, double size, double strength, String title) {}

    public record Rung(String ei, String words, boolean nearest) {}

    /** @param frames that were taken with this lens on this camera */
    public record Lens(
            String reported, String found, boolean ofFile, List<LensDatabase.Candidate> candidates, int frames) {}
}
