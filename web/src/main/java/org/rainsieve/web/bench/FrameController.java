package org.rainsieve.web.bench;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.Rung;
import org.rainsieve.book.Suggestion;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.run.RunStarts;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ContactSheet;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.FrameOnSheet;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** One frame: what was read on it, the settings it takes, and changing them for it, its rung or its camera. */
@Controller
@ConditionalOnWebApplication
class FrameController {
    private static final int MAP_WIDTH = 480;
    private static final int SAMPLE_WIDTH = 300;
    private static final int SAMPLE_HEIGHT = 200;
    private final ShootService shoots;
    private final ContactSheet sheets;
    private final BookService book;
    private final LensService lenses;
    private final Pictures pictures;
    private final FrameChanges changes;
    private final Cards cards;
    private final Partners partners;
    private final RunStarts runs;

    FrameController(
            ShootService shoots,
            ContactSheet sheets,
            BookService book,
            LensService lenses,
            Pictures pictures,
            FrameChanges changes,
            Cards cards,
            Partners partners,
            RunStarts runs) {
        this.shoots = shoots;
        this.sheets = sheets;
        this.book = book;
        this.lenses = lenses;
        this.pictures = pictures;
        this.changes = changes;
        this.cards = cards;
        this.partners = partners;
        this.runs = runs;
    }

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
        model.addAttribute("targets", changes.targets(frame, page.page()));
        model.addAttribute(
                "methods",
                Methods.names().stream()
                        .filter(method -> Methods.suits(method, pattern))
                        .toList());
        model.addAttribute(
                "cells", shoots.focusMap(id).map(map -> cells(map, frame)).orElse(List.of()));
        FrameSteps steps = on.steps();
        LensChoice lens = lenses.choice(frame.camera(), frame.reportedLens());
        model.addAttribute("sharpen", on.sharpen());
        model.addAttribute("suggestedSharpen", Suggestion.sharpen(on.reading()));
        model.addAttribute("lens", lens);
        model.addAttribute("lensFound", lenses.found(frame, lens));
        model.addAttribute("lensCandidates", lenses.candidates(frame));
        model.addAttribute("lensFrames", shoots.framesOf(frame.camera(), frame.reportedLens()));
        model.addAttribute("crop", steps.crop());
        SharpenSettings rungSharpen = page.page().sharpenAt(frame.ei());
        model.addAttribute("rungWords", PageDifference.inWords(page.page().at(frame.ei())));
        model.addAttribute("rungSharpenWords", PageDifference.inWords(rungSharpen));
        model.addAttribute("rungSharpen", rungSharpen);
        model.addAttribute("rungFields", StepsForm.fields(page.page().at(frame.ei()), rungSharpen));
        List<FrameForWork> burst = partners.burst(frame);
        model.addAttribute("partners", partners.choices(frame, burst));
        model.addAttribute("burst", burst.size());
        List<Rung> ladder = new ArrayList<>(page.page().rungs());
        Collections.reverse(ladder); // the highest stands on top, as on a ladder
        model.addAttribute("ladder", ladder);
        model.addAttribute("mapHeight", MAP_WIDTH * frame.height() / frame.width());
        return "frame";
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
    String change(@PathVariable long id, @RequestParam String target, @RequestParam long version, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        Cards.Wanted wanted = cards.wanted(frame, form);
        if (form.complete()) {
            lenses.choose(frame.camera(), frame.reportedLens(), wanted.lens());
        }
        changes.apply(
                frame, target, version, wanted.denoise(), wanted.sharpen(), wanted.crop(), "chosen on " + frame.name());
        return "redirect:/frames/" + id;
    }

    /** Applies what stands on the cards to this frame, where it is not in force yet, and makes its return. */
    @PostMapping("/frames/{id}/return")
    String makeReturn(@PathVariable long id, @RequestParam long version, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        ResolvedSettings inForce = cards.inForce(frame);
        ResolvedSettings shown = cards.resolved(frame, form, "");
        if (!shown.asked(true, false).equals(inForce.asked(true, false))) {
            change(id, "frame", version, form);
        }
        return "redirect:/runs/" + runs.startAsLast(frame.shootId(), Set.of(id));
    }

    /** How large the picture comes out with the cards as they stand, and which lens was found. */
    @GetMapping("/frames/{id}/shape")
    @ResponseBody
    Map<String, Object> shape(@PathVariable long id, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        Cards.Wanted wanted = cards.wanted(frame, form);
        try {
            EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), wanted.crop(), EnlargeSettings.OFF);
            return Map.of("width", size.width(), "height", size.height(), "lens", lenses.found(frame, wanted.lens()));
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage());
        }
    }

    /**
     * A region, or the whole picture reduced, as the cards stand: before, or after all steps but the one left out.
     *
     * @param viewer number of an open viewer, 0 for none; what it asked for before is given up
     */
    @GetMapping("/frames/{id}/picture/{which}")
    ResponseEntity<byte[]> picture(
            @PathVariable long id,
            @PathVariable String which,
            @RequestParam(defaultValue = "region") String kind,
            @RequestParam(defaultValue = "0") int x,
            @RequestParam(defaultValue = "0") int y,
            @RequestParam(defaultValue = "0") int w,
            @RequestParam(defaultValue = "0") int h,
            View.Look look,
            @RequestParam(defaultValue = "") String without,
            @RequestParam(defaultValue = "") String partner,
            @RequestParam(defaultValue = "0") long viewer,
            @RequestParam(defaultValue = "0") long asked,
            StepsForm form)
            throws InterruptedException {
        FrameForWork frame = shoots.frame(id);
        ResolvedSettings settings;
        String shown = "frame=" + id;
        try {
            settings = cards.resolved(frame, form, without);
            if (which.equals("partner")) {
                Partners.Partner other = partners.of(frame, partner, settings);
                settings = other.settings();
                shown = "frame=" + other.frame() + other.placed();
            }
        } catch (NotPossibleException e) {
            return Pictures.inWords(422, e.getMessage());
        }
        View view = new View(which.equals("partner") ? "after" : which, kind, x, y, w, h, look);
        return pictures.render(shown + by(viewer, asked), view, settings.toJson());
    }

    private static String by(long viewer, long asked) {
        return "&viewer=" + viewer + "&asked=" + asked;
    }

    /** As JSON of a place of the picture: the sensor's values ({@code histogram}), or what the steps do to it, measured. */
    @GetMapping("/frames/{id}/{kind:histogram|figures}")
    ResponseEntity<byte[]> told(
            @PathVariable long id,
            @PathVariable String kind,
            @RequestParam int x,
            @RequestParam int y,
            @RequestParam int w,
            @RequestParam int h,
            @RequestParam(defaultValue = "0") long viewer,
            @RequestParam(defaultValue = "0") long asked,
            StepsForm form)
            throws InterruptedException {
        String settings = cards.resolved(shoots.frame(id), form, "").toJson();
        return Pictures.answered(
                pictures.told(id, kind + by(viewer, asked), x, y, w, h, settings), MediaType.APPLICATION_JSON);
    }

    /** One frame that a wider change would change, in a small part of it: as it is now, or as it would be. */
    @GetMapping("/frames/{id}/widen/{other}")
    ResponseEntity<byte[]> widened(
            @PathVariable long id,
            @PathVariable long other,
            @RequestParam String target,
            @RequestParam boolean changed,
            StepsForm form)
            throws InterruptedException {
        FrameForWork frame = shoots.frame(id);
        FrameForWork shown = shoots.frame(other);
        ResolvedSettings settings = cards.inForce(shown);
        if (changed) {
            Page page = changes.page(frame, target, cards.wanted(frame, form));
            settings = cards.with(shown, settings, page.at(shown.ei()), page.sharpenAt(shown.ei()));
        }
        EnlargeSettings.Size size = Steps.size(shown.width(), shown.height(), settings.crop(), settings.enlarge());
        int w = Math.min(SAMPLE_WIDTH, size.width());
        int h = Math.min(SAMPLE_HEIGHT, size.height());
        return pictures.render(
                "frame=" + other,
                View.region((size.width() - w) / 2, (size.height() - h) / 2, w, h, 0),
                settings.toJson());
    }

    /** Up to three frames that a wider change would change, far apart in exposure index. */
    @GetMapping("/frames/{id}/widen")
    @ResponseBody
    List<Map<String, Object>> widen(@PathVariable long id, @RequestParam String target) {
        return changes.samples(shoots.frame(id), target).stream()
                .map(f -> Map.<String, Object>of("id", f.id(), "name", f.name(), "ei", Math.round(f.ei())))
                .toList();
    }

    /** The aspect for all kept frames of the shoot: each is cut to the largest such part about the middle of its own crop. */
    @PostMapping("/frames/{id}/aspect-all")
    String aspectForAll(@PathVariable long id, @RequestParam String aspect) {
        FrameForWork chosen = shoots.frame(id);
        for (FrameForWork frame : shoots.readyFrames(chosen.shootId())) {
            FrameSteps steps = ShootService.steps(frame.steps());
            CropSettings crop;
            try {
                crop = steps.crop().withAspect(aspect, frame.width(), frame.height());
            } catch (IllegalArgumentException e) {
                throw new NotPossibleException(e.getMessage() + ". Nothing was changed.");
            }
            if (!crop.equals(steps.crop())) {
                shoots.setSteps(frame.id(), new FrameSteps(steps.denoise(), steps.sharpen(), crop, steps.masks()));
            }
        }
        return "redirect:/frames/" + id;
    }

    @PostMapping("/frames/{id}/follow")
    String follow(@PathVariable long id) {
        shoots.setSteps(id, ShootService.steps(shoots.frame(id).steps()).following());
        return "redirect:/frames/" + id;
    }

    @PostMapping("/frames/{id}/undo")
    String undo(@PathVariable long id) {
        shoots.undoSteps(id);
        return "redirect:/frames/" + id;
    }

    @PostMapping("/frames/{id}/redo")
    String redo(@PathVariable long id) {
        shoots.redoSteps(id);
        return "redirect:/frames/" + id;
    }

    /** For a file that was denoised before: Denoise off, as this frame's own settings. */
    @PostMapping("/frames/{id}/denoise-off")
    String denoiseOff(@PathVariable long id) {
        FrameForWork frame = shoots.frame(id);
        shoots.setSteps(
                id,
                ShootService.steps(frame.steps())
                        .withDenoise(Suggestion.denoisedBefore(
                                book.page(frame.camera()).page().at(frame.ei()))));
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
