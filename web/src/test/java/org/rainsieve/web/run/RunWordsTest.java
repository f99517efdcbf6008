package org.rainsieve.web.run;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.List;
import org.junit.jupiter.api.Test;
import org.rainsieve.enlarge.EnlargeSettings;

/** What is told of a run before and after it: time and room, and what to leave off in the editor. */
class RunWordsTest {
    @Test
    void theEditorIsToLeaveOffWhatWasDone() {
        assertThat(InEditor.words(List.of("on", "on", "on", "off", "off")))
                .isEqualTo(
                        "In your editor: leave noise reduction, sharpening and lens correction off, dealt with here. The files say so.");
        assertThat(InEditor.words(List.of("on", "off", "3 frames", "off", "off")))
                .isEqualTo(
                        "In your editor: leave noise reduction off, dealt with here; leave off lens correction for 3 frames"
                                + " alone, where it was dealt with here; sharpening was left to you: off here. The files say so.");
        assertThat(InEditor.words(List.of("off", "off", "off", "off", "off")))
                .isEqualTo(
                        "In your editor: noise reduction, sharpening and lens correction were left to you: off here. The files say so.");
    }

    private static Forecast.Wanted wanted(ReturnForm form, boolean developed) {
        return new Forecast.Wanted("Learned", form, 24, 24, null, developed);
    }

    /** Nothing is ever unknown: before anything was made by a usual machine, then by this one; enlarging and further forms count. */
    @Test
    void timeAndRoom() {
        Forecast first = Forecast.of(List.of(wanted(ReturnForm.DNG, false)), List.of(), 1, -1, Double.NaN);
        assertThat(first.restsOn()).isEqualTo(Forecast.Basis.USUAL);
        Forecast tried = Forecast.of(List.of(wanted(ReturnForm.DNG, false)), List.of(), 1, -1, 2.5);
        assertThat(tried.restsOn()).isEqualTo(Forecast.Basis.MACHINE);
        assertThat(tried.seconds()).as("this machine takes 2.5 times as long").isCloseTo(2.5 * 24 * 0.7, within(1e-9));
        assertThat(first.seconds()).isCloseTo(24 * 0.7, within(1e-9));
        assertThat(first.bytes()).isEqualTo(Math.round(24e6 * 3.9));
        List<Forecast.Made> made = List.of(new Forecast.Made("Learned", ReturnForm.DNG, 48, 96, 100_000_000));
        Forecast here = Forecast.of(List.of(wanted(ReturnForm.DNG, false)), made, 2, 5, 9);
        assertThat(here.restsOn()).as("what was made goes before a trial").isEqualTo(Forecast.Basis.RETURNS);
        assertThat(here.seconds()).as("two seconds a megapixel, two workers").isCloseTo(24, within(1e-9));
        assertThat(here.bytes()).isEqualTo(50_000_000);
        Forecast three = Forecast.of(
                List.of(wanted(ReturnForm.DNG, false), wanted(ReturnForm.TIFF, true), wanted(ReturnForm.JPEG, true)),
                made,
                1,
                5,
                9);
        assertThat(three.megapixels()).as("denoised once").isEqualTo(24);
        assertThat(three.seconds()).isBetween(49.0, 90.0);
        Forecast larger = Forecast.of(
                List.of(new Forecast.Wanted("Patch", ReturnForm.DNG, 24, 96, EnlargeSettings.Edges.DRAWN, false)),
                made,
                1,
                5,
                9);
        assertThat(larger.restsOn()).isEqualTo(Forecast.Basis.MACHINE);
        // Another method, at the pace of this machine against a usual one: 96 s for what would take it 33.6.
        assertThat(larger.seconds()).isCloseTo((24 * 3.5 + 96 * 1.4) * 96 / 33.6, within(1e-6));
    }
}
