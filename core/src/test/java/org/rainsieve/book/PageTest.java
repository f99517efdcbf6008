package org.rainsieve.book;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import java.util.TreeSet;
import org.junit.jupiter.api.Test;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

class PageTest {
    /** Seeded random pages: exact at rungs, between their neighbours elsewhere, no jump at a rung, constant at the ends. */
    @Test
    void interpolatesOverLogEi() {
        SplittableRandom random = new SplittableRandom(42);
        for (int round = 0; round < 300; round++) {
            TreeSet<Integer> eis = new TreeSet<>();
            while (eis.size() < 1 + round % 6) {
                eis.add((int) (100 * Math.pow(2, random.nextDouble() * 9)));
            }
            List<Rung> rungs = new ArrayList<>();
            eis.forEach(ei -> rungs.add(new Rung(ei, amounts(random.nextDouble() * 100))));
            Page page = new Page("Ondrel 24", rungs);
            for (int i = 0; i < rungs.size(); i++) {
                Rung rung = rungs.get(i);
                double grain = rung.denoise().grainKeptPercent();
                assertThat(page.at(rung.ei())).isEqualTo(rung.denoise());
                assertThat(page.at(rung.ei() * (1 + 1e-9)).grainKeptPercent()).isCloseTo(grain, within(1e-4));
                assertThat(page.at(rung.ei() * (1 - 1e-9)).grainKeptPercent()).isCloseTo(grain, within(1e-4));
                if (i > 0) {
                    double before = rungs.get(i - 1).denoise().grainKeptPercent();
                    double middle =
                            Math.sqrt((double) rung.ei() * rungs.get(i - 1).ei());
                    assertThat(page.at(middle).grainKeptPercent()).isCloseTo((before + grain) / 2, within(1e-9));
                }
            }
            assertThat(page.at(1)).isEqualTo(rungs.get(0).denoise());
            assertThat(page.at(1e7)).isEqualTo(rungs.get(rungs.size() - 1).denoise());
        }
    }

    /** Between rungs whose amounts only fall, amounts only fall; with an offset they stay between 0 and 100. */
    @Test
    void monotoneBetweenMonotoneRungs() {
        SplittableRandom random = new SplittableRandom(7);
        for (int round = 0; round < 200; round++) {
            List<Rung> rungs = new ArrayList<>();
            double grain = 100;
            for (int ei = 100; ei <= 25_600; ei *= 2 + random.nextInt(3)) {
                grain *= random.nextDouble();
                rungs.add(new Rung(ei, amounts(grain)));
            }
            Page page = new Page("Ondrel 24", rungs).withOffset(new Offset(60 * random.nextDouble() - 30, 0));
            double before = 100;
            for (double ei = 50; ei < 60_000; ei *= 1.07) {
                double at = page.at(ei).grainKeptPercent();
                assertThat(at).isBetween(0.0, before + 1e-9);
                before = at;
            }
        }
    }

    private static DenoiseSettings amounts(double grain) {
        return new DenoiseSettings(true, "Quick", grain, 0);
    }

    @Test
    void refusesWhatMakesNoSense() {
        assertThatThrownBy(() -> amounts(101)).hasMessageContaining("0 to 100 %");
        assertThatThrownBy(() -> new DenoiseSettings(true, "Magic", 0, 0))
                .hasMessageContaining("no method called Magic");
        assertThatThrownBy(() -> new Page("x", List.of(new Rung(400, amounts(1)), new Rung(400, amounts(2)))))
                .hasMessageContaining("two rungs");
    }

    /** Sharpening follows the same rules: exact at rungs, amounts mixed between, shape and switch of the nearer one. */
    @Test
    void sharpeningIsInterpolatedToo() {
        SharpenSettings low = SharpenSettings.plain(new PointSpread(0.8, 0, 0, 0), 0, 80, 60, 2);
        SharpenSettings high = new SharpenSettings(
                false, new PointSpread(1.6, 3, 0, 0), 1, 20, 0, 6, SharpenSettings.Method.PLAIN, "");
        Page page = new Page(
                "Ondrel 24",
                List.of(new Rung(400, amounts(10), low, null, null), new Rung(6400, amounts(10), high, null, null)));
        assertThat(page.sharpenAt(400)).isEqualTo(low);
        assertThat(page.sharpenAt(6400)).isEqualTo(high);
        assertThat(page.sharpenAt(100)).isEqualTo(low);
        SharpenSettings quarter = page.sharpenAt(800);
        assertThat(quarter.on()).isTrue();
        assertThat(quarter.spread()).isEqualTo(new PointSpread(1.0, 0, 0, 0));
        assertThat(quarter.biteFinePercent()).isCloseTo(65, within(1e-9));
        assertThat(page.sharpenAt(3200).spread().discPx()).isEqualTo(3);
    }
}
