package org.rainsieve.web.bench;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.rainsieve.book.Page;
import org.rainsieve.book.Suggestion;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.reading.Reading;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.shoot.ContactSheet;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.FrameOnSheet;
import org.rainsieve.web.shoot.FrameRow;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Component;

/** Makes the bench of a frame. */
@Component
@ConditionalOnWebApplication
class FramePages {
    private static final int MAP_WIDTH = 480;

    private final ShootService shoots;
    private final ContactSheet sheets;
    private final BookService book;
    private final LensService lenses;
    private final BenchStates states;
    private final Partners partners;

    FramePages(
            ShootService shoots,
            ContactSheet sheets,
            BookService book,
            LensService lenses,
            BenchStates states,
            Partners partners) {
        this.shoots = shoots;
        this.sheets = sheets;
        this.book = book;
        this.lenses = lenses;
        this.states = states;
        this.partners = partners;
    }

    /** @return nothing for a frame that was not read yet or cannot be */
    Optional<FramePage> of(FrameForWork frame) {
        List<FrameOnSheet> all = sheets.frames(frame.shootId()).stream()
                .filter(on -> "ready".equals(on.row().state()))
                .toList();
        int place = 0;
        while (place < all.size() && all.get(place).row().id() != frame.id()) {
            place++;
        }
        return place == all.size() ? Optional.empty() : Optional.of(of(frame, all, place));
    }

    /** The row of a frame that has no bench yet. */
    FrameRow waiting(FrameForWork frame) {
        return sheets.frames(frame.shootId()).stream()
                .map(FrameOnSheet::row)
                .filter(row -> row.id() == frame.id())
                .findFirst()
                .orElseThrow(() -> new NotFoundException("This file is no frame but a return."));
    }

    private FramePage of(FrameForWork frame, List<FrameOnSheet> all, int place) {
        FrameOnSheet on = all.get(place);
        FrameRow row = on.row();
        Reading reading = on.reading();
        CfaPattern pattern = book.pattern(frame.camera());
        LensChoice lens = lenses.choice(frame.camera(), frame.reportedLens());
        Optional<FocusMap> focus = shoots.focusMap(frame.id());
        List<FramePage.Cell> cells = focus.map(map -> cells(map, frame)).orElse(List.of());
        boolean rendered = reading != null && !reading.notes().isEmpty();
        List<FrameForWork> burst = partners.burst(frame);
        return new FramePage(
                frame,
                shoots.shoot(frame.shootId()).name(),
                String.join(
                        " · ",
                        List.of(frame.camera(), on.sensitivity(), row.exposure()).stream()
                                .filter(part -> !part.isEmpty())
                                .toList()),
                row.mark() == null ? "" : row.mark(),
                on.stray(),
                reading != null && reading.denoisedBefore(),
                place > 0 ? all.get(place - 1).row().id() : null,
                place + 1 < all.size() ? all.get(place + 1).row().id() : null,
                place + 1,
                all.size(),
                row.returnedItem(),
                states.of(frame, ""),
                Methods.names().stream()
                        .filter(method -> Methods.suits(method, pattern))
                        .toList(),
                reading == null ? List.of() : lines(reading, on.noiseOff()),
                push(row),
                cells,
                MAP_WIDTH * frame.height() / frame.width(),
                !cells.isEmpty()
                        ? "the whiter, the sharper; unmarked: no edges to tell it from"
                        : rendered ? "focus is read from sensor mosaics only" : "no edges to tell focus from",
                focus.flatMap(map -> map.sharpest(frame.width(), frame.height()))
                        .orElse(null),
                Suggestion.sharpen(reading),
                rendered || reading != null && reading.denoisedBefore()
                        ? "sharpened before it came here: little or none is right"
                        : "",
                ladder(book.page(frame.camera()).page(), frame.ei()),
                new FramePage.Lens(
                        frame.reportedLens(),
                        lenses.found(frame, lens),
                        frame.ownOptics() != null,
                        lenses.candidates(frame),
                        shoots.framesOf(frame.camera(), frame.reportedLens())),
                partners.choices(frame, burst),
                burst.size());
    }

    private static List<FramePage.Rung> ladder(Page page, double ei) {
        List<FramePage.Rung> ladder = new ArrayList<>();
        int nearest = page.nearest(ei).ei();
        page.rungs()
                .forEach(rung -> ladder.add(new FramePage.Rung(
                        String.format(Locale.ROOT, "%,d", rung.ei()),
                        rung.denoise().on()
                                ? rung.denoise().method() + ", grain "
                                        + Math.round(rung.denoise().grainKeptPercent()) + " %"
                                : "off",
                        rung.ei() == nearest)));
        Collections.reverse(ladder); // the highest stands on top, as on a ladder
        return ladder;
    }

    private static FramePage.Push push(FrameRow row) {
        Double compensation = row.compensation();
        return new FramePage.Push(
                row.push() == null ? "" : String.format(Locale.ROOT, "%.2f", row.push()),
                row.push() == null
                        ? "none: amounts go by its ISO"
                        : String.format(
                                Locale.ROOT,
                                "amounts as for ISO %,d, %s",
                                Math.round(row.ei()),
                                switch (row.pushFrom()) {
                                    case "sidecar" -> "from the sidecar's exposure";
                                    case "proposed" -> "as its brightness proposed";
                                    default -> "typed";
                                }),
                compensation == null || compensation == 0
                        ? ""
                        : String.format(
                                Locale.ROOT,
                                "exposure compensation in the file %.1f stops: only a hint, never applied by itself",
                                compensation));
    }

    private static List<FramePage.Line> lines(Reading r, double noiseOff) {
        List<FramePage.Line> lines = new ArrayList<>();
        line(lines, "Noise", noise(r, noiseOff));
        if (r.profile() != null) {
            line(
                    lines,
                    "Told by the file",
                    String.format(
                            Locale.ROOT,
                            "a %.3g, b %.3g (green)",
                            r.profile().a().get(1),
                            r.profile().b().get(1)));
        }
        line(lines, "Blur where sharpest", r.blur() == null ? "can't tell" : blur(r));
        if (r.blur() != null) {
            double corners = r.blur().cornersPx();
            line(
                    lines,
                    "To the corners",
                    Double.isNaN(corners)
                            ? "can't tell"
                            : String.format(Locale.ROOT, "%s%.1f px", corners >= 0 ? "+" : "−", Math.abs(corners)));
        }
        line(
                lines,
                "Clipped, empty",
                String.format(Locale.ROOT, "%.2f %%, %.2f %%", r.clippedPercent(), r.emptyPercent()));
        line(
                lines,
                "Brightness",
                String.format(
                        Locale.ROOT,
                        "%s%.1f stops from mid-grey in the middle",
                        r.middleStops() >= 0 ? "+" : "−",
                        Math.abs(r.middleStops())));
        if (!r.notes().isEmpty()) {
            lines.add(new FramePage.Line("Before it came here", r.notes(), "note"));
        } else {
            line(lines, "Defects seen", String.format(Locale.ROOT, "%,d photosites", r.defects()));
        }
        if (!r.remarks().isEmpty()) {
            lines.add(new FramePage.Line("Left out", r.remarks(), "remark"));
        }
        return lines;
    }

    private static void line(List<FramePage.Line> lines, String term, String words) {
        lines.add(new FramePage.Line(term, List.of(words), ""));
    }

    private static String noise(Reading r, double noiseOff) {
        if (r.noise() == null) {
            return "not readable from the pixels";
        }
        if (r.noise().uncertain()) {
            return "uncertain: too much texture or too little light";
        }
        long percent = Math.round(100 * noiseOff) - 100;
        return (percent == 0
                        ? "as this camera's at this ISO"
                        : (percent > 0 ? "+" : "−") + Math.abs(percent) + " % against this camera's at this ISO")
                + String.format(Locale.ROOT, ", ± %.0f %%", r.noise().sigmaErrorPercent());
    }

    private static String blur(Reading r) {
        return String.format(Locale.ROOT, "soft by %.1f px", r.blur().sigmaPx())
                + (r.blur().discPx() > 0
                        ? String.format(
                                Locale.ROOT,
                                ", out of focus by %.1f px",
                                r.blur().discPx())
                        : "")
                + (r.blur().moved()
                        ? String.format(
                                Locale.ROOT,
                                ", moved %.0f px at %.0f°",
                                r.blur().linePx(),
                                r.blur().lineAngleDegrees())
                        : "");
    }

    /** Sharp places are drawn strong; cells without an edge are left out. */
    private static List<FramePage.Cell> cells(FocusMap map, FrameForWork frame) {
        List<FramePage.Cell> cells = new ArrayList<>();
        double scale = (double) MAP_WIDTH / frame.width();
        double size = map.cellPx() * scale;
        for (int row = 0; row < map.rows(); row++) {
            for (int column = 0; column < map.columns(); column++) {
                double sigma = map.sigmaPx(column, row);
                if (!Double.isNaN(sigma)) {
                    cells.add(new FramePage.Cell(
                            column * size,
                            row * size,
                            size,
                            Math.max(0.08, Math.min(1, 1.2 / (0.4 + sigma) - 0.2)),
                            String.format(Locale.ROOT, "soft by %.1f px", sigma)));
                }
            }
        }
        return cells;
    }
}
