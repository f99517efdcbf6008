package org.rainsieve.web.shoot;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.rainsieve.book.FrameSteps;

/** What a shoot's page puts together: frames that stand out by reason, ISO by stops, and what comes next. */
class ShootWordsTest {
    @Test
    void oneReasonStandsOnce() {
        List<StrayGroup> groups = StrayGroup.of(List.of(
                frame(1, 1600, "noise 31 % above the book's for this ISO"),
                frame(2, 1600, "moved by 9 px at 120°; its group is sharp to 0.5 px"),
                frame(3, 1600, "noise 5 % above the book's for this ISO"),
                frame(4, 1600, "noise 104 % above the book's for this ISO"),
                frame(5, 1600, "noise 40 % below the book's for this ISO")));
        assertThat(groups)
                .extracting(StrayGroup::reason)
                .containsExactly(
                        "noise 5 to 104 % above the book's for this ISO",
                        "moved by 9 px at 120°; its group is sharp to 0.5 px",
                        "noise 40 % below the book's for this ISO");
        assertThat(groups.get(0).ids()).isEqualTo("1,3,4");
    }

    /** Settings in thirds of stops, 100 to 25,600, as cameras offer them: cells never lie over each other. */
    @Test
    void thirdsOfStopsAreFolded() {
        int[] thirds = {
            100, 125, 160, 200, 250, 320, 400, 500, 640, 800, 1000, 1250, 1600, 2000, 2500, 3200, 4000, 5000, 6400,
            8000, 10000, 12800, 16000, 20000, 25600
        };
        List<FrameOnSheet> frames = new ArrayList<>();
        for (int iso : thirds) {
            frames.add(frame(iso, iso, ""));
        }
        frames.add(frame(9, null, ""));
        Spread folded = new Spread(frames, new Spread.Chosen("Ondrel 24", 1600, true), false);
        assertThat(folded.crowded()).isTrue();
        assertThat(folded.cells()).hasSize(9).allMatch(Spread.Cell::stops);
        assertThat(folded.cells().stream().mapToInt(Spread.Cell::frames).sum()).isEqualTo(thirds.length);
        assertThat(folded.cells().stream().filter(Spread.Cell::chosen))
                .singleElement()
                .matches(cell -> cell.iso() == 1600 && cell.frames() == 3);
        Spread each = new Spread(frames, new Spread.Chosen(null, null, false), true);
        assertThat(each.cells()).hasSize(thirds.length);
        for (Spread spread : List.of(folded, each)) {
            for (int i = 1; i < spread.cells().size(); i++) {
                Spread.Cell before = spread.cells().get(i - 1);
                assertThat(spread.cells().get(i).x()).isGreaterThanOrEqualTo(before.x() + before.width());
            }
        }
        assertThat(Spread.isAt(1000, 1600, true)).isFalse();
        assertThat(Spread.isAt(1250, 1250, false)).isTrue();
        assertThat(Spread.isAt(2000, 1600, true)).isTrue();
        assertThat(Spread.isAt(null, 1600, true)).isFalse();
    }

    @Test
    void whatComesNext() {
        assertThat(next(10, 4, 0, 0)).isEqualTo("being read, 4 to go");
        assertThat(next(10, 0, 0, 0)).isEqualTo("choose and start a run");
        assertThat(next(10, 0, 3, 0)).isEqualTo("return the other 7");
        assertThat(next(10, 0, 9, 1)).isEqualTo("1 return failed: see why");
        assertThat(next(10, 0, 10, 0)).isEqualTo("look through the returns");
    }

    private static String next(int frames, int unread, int returned, int failed) {
        ShootRow row = new ShootRow(
                1, "S", "/s", false, 0, frames, unread, frames - unread, 0, returned, failed, "", 0, 0, "", 0, 0);
        return ShootLine.of(row, List.of()).next();
    }

    @Test
    void pushesAreProposedForAllOfAGroupOrNone() {
        FrameOnSheet one = frame(1, 800, "push unsure: 2.1 stops darker than its group, and no push is given", 2.1);
        FrameOnSheet other = frame(2, 800, "push unsure: 3.0 stops darker than its group, and no push is given", 2.6);
        FrameOnSheet bright = frame(3, 800, "push unsure: 2.2 stops darker than its group, and no push is given", null);
        assertThat(StrayGroup.of(List.of(one)).get(0).push()).isEqualTo("2.1 stops");
        assertThat(StrayGroup.of(List.of(one, other)).get(0).push()).isEqualTo("2.1 to 2.6 stops");
        assertThat(StrayGroup.of(List.of(one, bright)).get(0).push()).isEmpty();
    }

    private static FrameOnSheet frame(long id, Integer iso, String stray) {
        return frame(id, iso, stray, null);
    }

    private static FrameOnSheet frame(long id, Integer iso, String stray, Double proposedPush) {
        FrameRow row = new FrameRow(
                id,
                "F",
                "ready",
                null,
                "Ondrel 24",
                iso,
                null,
                1,
                1,
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                false,
                null,
                null,
                null,
                2,
                null,
                null,
                null,
                null);
        return new FrameOnSheet(row, null, stray, Double.NaN, "", null, null, FrameSteps.NONE, proposedPush);
    }
}
