package org.rainsieve.web.bench;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.rainsieve.book.Change;
import org.rainsieve.book.Page;
import org.rainsieve.book.Suggestion;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ContactSheet;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.FrameOnSheet;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** One frame: what was read on it, the settings it takes, and changing them for it, its rung or its camera. */
@Controller
@ConditionalOnWebApplication
class FrameController {
    private static final int MAP_WIDTH = 480;

    private final ShootService shoots;
    private final ContactSheet sheets;
    private final BookService book;

    FrameController(ShootService shoots, ContactSheet sheets, BookService book) {
        this.shoots = shoots;
        this.sheets = sheets;
        this.book = book;
    }

    /** What a change can be written to, and how many frames that follows. */
    public record Target(String name, String words, int frames) {}

    /** A cell of the focus map, laid out for drawing. */
    public record Cell(double x, double y, double size, double strength, String title) {}

    @GetMapping("/frames/{id}")
    String show(@PathVariable long id, Model model) {
        FrameForWork frame = shoots.frame(id);
        List<FrameOnSheet> sheet = sheets.frames(frame.shootId());
        List<FrameOnSheet> all =
                sheet.stream().filter(on -> "ready".equals(on.row().state())).toList();
        int place = 0;
        while (place < all.size() && all.get(place).row().id() != id) {
            place++;
        }
        if (place == all.size()) {
            FrameOnSheet waiting = sheet.stream()
                    .filter(on -> on.row().id() == id)
                    .findFirst()
                    .orElseThrow(() -> new NotFoundException("This file is no frame but a return."));
            model.addAttribute("row", waiting.row());
            model.addAttribute("shoot", shoots.shoot(frame.shootId()));
            return "frame-waiting";
        }
        FrameOnSheet on = all.get(place);
        BookService.PageInForce page = book.page(frame.camera());
        CfaPattern pattern = book.pattern(frame.camera());
        model.addAttribute("on", on);
        model.addAttribute("frame", frame);
        model.addAttribute("shoot", shoots.shoot(frame.shootId()));
        model.addAttribute("previous", place > 0 ? all.get(place - 1).row().id() : null);
        model.addAttribute(
                "next", place + 1 < all.size() ? all.get(place + 1).row().id() : null);
        model.addAttribute("place", place + 1);
        model.addAttribute("count", all.size());
        model.addAttribute("version", page.version());
        model.addAttribute("rungSettings", page.page().at(frame.ei()));
        model.addAttribute("nearest", page.page().nearest(frame.ei()));
        model.addAttribute("targets", targets(frame, page.page()));
        model.addAttribute(
                "methods",
                Methods.names().stream()
                        .filter(method -> Methods.suits(method, pattern))
                        .toList());
        model.addAttribute(
                "cells", shoots.focusMap(id).map(map -> cells(map, frame)).orElse(List.of()));
        model.addAttribute("mapHeight", MAP_WIDTH * frame.height() / frame.width());
        return "frame";
    }

    private List<Target> targets(FrameForWork frame, Page page) {
        double ei = frame.ei();
        int nearest = page.nearest(ei).ei();
        List<Double> followers = shoots.exposureIndices(frame.camera());
        List<Target> targets = new ArrayList<>();
        targets.add(new Target("frame", "this frame only, as its own settings", 1));
        targets.add(new Target(
                "rung", String.format(Locale.ROOT, "the rung at EI %,d", nearest), touched(page, nearest, followers)));
        int here = (int) Math.max(1, Math.round(ei));
        if (here != nearest) {
            targets.add(new Target(
                    "new-rung",
                    String.format(Locale.ROOT, "a new rung here, at EI %,d", here),
                    touched(page, here, followers)));
        }
        targets.add(new Target("camera", "the whole camera, as an offset", followers.size()));
        return targets;
    }

    private static int touched(Page page, int rung, List<Double> exposureIndices) {
        return (int)
                exposureIndices.stream().filter(ei -> page.touches(rung, ei)).count();
    }

    /** Sharp places are drawn strong; cells without an edge are left out. */
    private static List<Cell> cells(FocusMap map, FrameForWork frame) {
        List<Cell> cells = new ArrayList<>();
        double scale = (double) MAP_WIDTH / frame.width();
        double size = map.cellPx() * scale;
        for (int row = 0; row < map.rows(); row++) {
            for (int column = 0; column < map.columns(); column++) {
                double sigma = map.sigmaPx(column, row);
                if (!Double.isNaN(sigma)) {
                    cells.add(new Cell(
                            column * size,
                            row * size,
                            size,
                            Math.max(0.08, Math.min(1, 1.2 / (0.4 + sigma) - 0.2)),
                            String.format(Locale.ROOT, "blur σ %.1f px", sigma)));
                }
            }
        }
        return cells;
    }

    @PostMapping("/frames/{id}/settings")
    String change(
            @PathVariable long id,
            @RequestParam String target,
            @RequestParam long version,
            @RequestParam boolean on,
            @RequestParam String method,
            @RequestParam double grainKept,
            @RequestParam double colourNoiseKept) {
        FrameForWork frame = shoots.frame(id);
        DenoiseSettings wanted;
        try {
            wanted = new DenoiseSettings(on, method, grainKept, colourNoiseKept);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was saved; go back and correct it.");
        }
        Change.Target wider = switch (target) {
            case "frame" -> null;
            case "rung" -> Change.Target.RUNG;
            case "new-rung" -> Change.Target.NEW_RUNG;
            case "camera" -> Change.Target.CAMERA;
            default ->
                throw new NotPossibleException(
                        "A change applies to this frame, its rung, a new rung or the whole camera.");
        };
        if (wider == null) {
            shoots.setOwnSettings(id, wanted);
        } else {
            Page page = book.page(frame.camera()).page();
            String from = "chosen on " + frame.name();
            book.save(
                    Change.apply(page, wider, frame.ei(), wanted, from),
                    version,
                    from + ", for " + target.replace("-", " "));
            if (frame.ownSettings() != null) {
                shoots.setOwnSettings(id, null); // it follows what was just chosen on it
            }
        }
        return "redirect:/frames/" + id;
    }

    @PostMapping("/frames/{id}/follow")
    String follow(@PathVariable long id) {
        shoots.setOwnSettings(id, null);
        return "redirect:/frames/" + id;
    }

    /** For a file that was denoised before: Denoise off, as this frame's own settings. */
    @PostMapping("/frames/{id}/denoise-off")
    String denoiseOff(@PathVariable long id) {
        FrameForWork frame = shoots.frame(id);
        shoots.setOwnSettings(
                id, Suggestion.denoisedBefore(book.page(frame.camera()).page().at(frame.ei())));
        return "redirect:/shoots/" + frame.shootId() + "#strays";
    }

    @PostMapping("/frames/{id}/push")
    String push(@PathVariable long id, @RequestParam String push) {
        shoots.setPush(id, stops(push));
        return "redirect:/frames/" + id;
    }

    @PostMapping("/shoots/{id}/push")
    String pushOf(
            @PathVariable long id, @RequestParam String camera, @RequestParam int iso, @RequestParam String push) {
        shoots.setPushOf(id, camera, iso, stops(push));
        return "redirect:/shoots/" + id + "?camera=" + org.springframework.web.util.UriUtils.encode(camera, "UTF-8")
                + "&iso=" + iso;
    }

    private static Double stops(String typed) {
        try {
            return typed.isBlank()
                    ? null
                    : Double.valueOf(typed.strip().replace(',', '.').replace('−', '-'));
        } catch (NumberFormatException e) {
            throw new NotPossibleException("The push is not a number of stops. Nothing was changed.");
        }
    }
}
