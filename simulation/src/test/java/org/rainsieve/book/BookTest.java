package org.rainsieve.book;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.util.List;
import org.junit.jupiter.api.Test;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

/** Changes of pages, two people's changes together, starters, and pages as files. */
class BookTest {
    private static final Page PAGE = new Page(
            "Ondrel 24", List.of(new Rung(400, amounts(40)), new Rung(1600, amounts(30)), new Rung(6400, amounts(20))));

    private static final SharpenSettings SHARP = SharpenSettings.plain(new PointSpread(1.4, 0, 6, 30), 0.5, 60, 40, 4);

    private static DenoiseSettings amounts(double grain) {
        return new DenoiseSettings(true, "Quick", grain, 10);
    }

    /** Whatever a change is written to, the frame it was made on comes out with what was wanted. */
    @Test
    void aChangeComesOutAsWanted() {
        DenoiseSettings wanted = new DenoiseSettings(true, "Quick", 12, 3);
        Page shifted = PAGE.withOffset(new Offset(-5, 0));
        assertThat(Change.apply(shifted, Change.Target.RUNG, 1600, wanted, SHARP, "x")
                        .at(1600))
                .isEqualTo(wanted);
        Page between = Change.apply(shifted, Change.Target.NEW_RUNG, 1189.2, wanted, SHARP, "chosen on TN_1.dng");
        assertThat(between.rungs()).hasSize(4);
        assertThat(between.at(1189)).isEqualTo(wanted);
        assertThat(between.at(1600)).isEqualTo(shifted.at(1600));
        assertThat(between.sharpenAt(1189)).isEqualTo(SHARP);
        assertThat(between.sharpenAt(400)).isEqualTo(SharpenSettings.OFF);
        assertThat(between.nearest(1189).origin().from()).isEqualTo("chosen on TN_1.dng");
        Page camera = Change.apply(shifted, Change.Target.CAMERA, 3200, wanted, SHARP, "x");
        assertThat(camera.at(3200).grainKeptPercent()).isCloseTo(12, within(1e-9));
        assertThat(camera.sharpenAt(25_600)).isEqualTo(SHARP);
        // The other rungs move by as much: 25 % stood at EI 3,200, so 13 points less.
        assertThat(camera.at(400).grainKeptPercent()).isCloseTo(27, within(1e-9));
        DenoiseSettings off = new DenoiseSettings(false, "Quick", 12, 3);
        assertThat(Change.apply(PAGE, Change.Target.CAMERA, 3200, off, SHARP, "x")
                        .at(400)
                        .on())
                .isFalse();
    }

    /** A rung touches the frames between its neighbours and no others. */
    @Test
    void aRungTouchesWhatLiesBetweenItsNeighbours() {
        assertThat(PAGE.touches(1600, 401)).isTrue();
        assertThat(PAGE.touches(1600, 400)).isFalse();
        assertThat(PAGE.touches(1600, 6399)).isTrue();
        assertThat(PAGE.touches(6400, 100_000)).isTrue();
        for (double ei : new double[] {150, 401, 1000, 5000, 20_000}) {
            Page changed = PAGE.withRung(new Rung(1600, amounts(90)));
            assertThat(!changed.at(ei).equals(PAGE.at(ei))).isEqualTo(PAGE.touches(1600, ei));
        }
    }

    /** Changes of different rungs are kept both; of one rung they contradict each other, and both are told. */
    @Test
    void twoChangesTogether() {
        Page theirs = PAGE.withRung(new Rung(400, amounts(55)));
        Page mine = PAGE.withRung(new Rung(6400, amounts(5))).withRung(new Rung(12_800, amounts(1)));
        PageDifference.Merged both = PageDifference.merge(PAGE, theirs, mine);
        assertThat(both.contradictions()).isEmpty();
        assertThat(both.page().at(400).grainKeptPercent()).isEqualTo(55);
        assertThat(both.page().at(6400).grainKeptPercent()).isEqualTo(5);
        assertThat(both.page().at(12_800).grainKeptPercent()).isEqualTo(1);

        Page also = PAGE.withRung(new Rung(400, amounts(33)));
        PageDifference.Merged torn = PageDifference.merge(PAGE, theirs, also);
        assertThat(torn.contradictions()).singleElement().satisfies(line -> {
            assertThat(line.what()).isEqualTo("ISO 400");
            assertThat(line.before()).contains("grain kept 55 %");
            assertThat(line.after()).contains("grain kept 33 %");
        });
        assertThat(torn.page().at(400).grainKeptPercent()).isEqualTo(55);
        Page removed = PAGE.withRungs(List.of(PAGE.rungs().get(1), PAGE.rungs().get(2)));
        assertThat(PageDifference.merge(PAGE, removed, mine).page().rungs())
                .extracting(Rung::ei)
                .containsExactly(1600, 6400, 12_800);
        assertThat(PageDifference.merge(PAGE, theirs, removed).contradictions()).hasSize(1);
    }

    private static NoiseLaw law(SimulatedCamera camera) {
        return NoiseLaw.fit(List.of(
                new NoiseLaw.AtIso(800, camera.noiseAt(800)), new NoiseLaw.AtIso(12_800, camera.noiseAt(12_800))));
    }

    /** A starter leaves the same noise on every camera, whatever its sensor; less is kept where there is more. */
    @Test
    void startersLeaveTheSameNoiseOnEveryCamera() {
        assertThat(Starter.shipped())
                .extracting(Starter::name)
                .containsExactly("Fur and feather", "Stage and street", "Stars");
        for (Starter starter : Starter.shipped()) {
            double kept = 101;
            for (Rung rung : starter.rungs(law(SimulatedCamera.ONDREL_24), "Quick", "x", true)) {
                assertThat(rung.denoise().grainKeptPercent()).isLessThan(kept).isBetween(10.0, 90.0);
                kept = rung.denoise().grainKeptPercent();
            }
        }
        // A page kept as a starter comes back on its own camera, and on another leaves as much at equal noise.
        Page page = new Page("a", Starter.shipped().get(1).rungs(law(SimulatedCamera.ONDREL_24), "Quick", "x", true));
        Starter own = Starter.of("Mine", page, law(SimulatedCamera.ONDREL_24));
        for (Rung rung : own.rungs(law(SimulatedCamera.ONDREL_24), "Quick", "x", true)) {
            assertThat(rung.denoise().grainKeptPercent())
                    .isCloseTo(page.at(rung.ei()).grainKeptPercent(), within(1.0));
        }
        NoiseLaw noisier = law(SimulatedCamera.PILBO_S);
        double noise = noisier.sigma(1600);
        double ei = 100;
        while (law(SimulatedCamera.ONDREL_24).sigma(ei) < noise) {
            ei *= 1.01;
        }
        Page other = new Page("b", own.rungs(noisier, "Quick", "x", true));
        assertThat(other.at(1600).grainKeptPercent()).isCloseTo(page.at(ei).grainKeptPercent(), within(3.0));
    }

    /** Suggested values say why, and wait to be looked at; without readings they say that there were none. */
    @Test
    void suggestionsSayWhy() {
        Page suggested = Suggestion.page("Ondrel 24", law(SimulatedCamera.ONDREL_24), "Quick");
        assertThat(suggested.rungs()).allSatisfy(rung -> {
            assertThat(rung.origin().lookedAt()).isFalse();
            assertThat(rung.origin().whyGrain()).contains("of mid-grey");
            assertThat(rung.origin().whyColour()).isNotEmpty();
        });
        assertThat(Suggestion.page("New", null, "Quick").rungs().get(0).origin().whyGrain())
                .contains("no frame");
        assertThat(Suggestion.denoisedBefore(amounts(30)).on()).isFalse();
    }

    /** What is written is read as it was; schema 1, without offset and versions, is read too; a newer one is refused. */
    @Test
    void pagesAsFiles() throws RefusedException {
        Page page = PAGE.withOffset(new Offset(-4, 2)).pinned("Rain Sieve 0.1.0", "bayer-1");
        assertThat(BookFile.readPage(BookFile.write(page))).isEqualTo(page);
        Starter starter = Starter.shipped().get(2).named("Mine");
        assertThat(BookFile.readStarter(BookFile.write(starter))).isEqualTo(starter);
        String first = """
                {"kind": "rain-sieve-page", "camera": "Ondrel 24", "rungs": [{"ei": 800, "denoise":
                  {"on": true, "method": "Quick", "grainKeptPercent": 22, "colourNoiseKeptPercent": 1}}]}""";
        Page old = BookFile.readPage(first);
        assertThat(old.schema()).isEqualTo(Page.SCHEMA);
        assertThat(old.at(800).grainKeptPercent()).isEqualTo(22);
        assertThat(old.offset()).isEqualTo(Offset.NONE);
        for (String wrong : new String[] {
            "",
            "[]",
            "{}",
            "words",
            first.replace("22", "122"),
            first.replace("\"camera\"", "\"schema\": 9, \"camera\""),
            first.replace("rain-sieve-page", "other"),
            first.replace("800", "-800")
        }) {
            assertThatThrownBy(() -> BookFile.readPage(wrong))
                    .isInstanceOf(RefusedException.class)
                    .hasMessageMatching(".*(is not|Nothing was changed).*");
        }
    }
}
