package org.rainsieve.web.bench;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.Suggestion;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Region;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.run.FrameReturn;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.run.RunStarts;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
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
    private static final int SAMPLE_WIDTH = 300;
    private static final int SAMPLE_HEIGHT = 200;
    private static final int MILDER_PERCENT = 20;

    private final ShootService shoots;
    private final BookService book;
    private final LensService lenses;
    private final Pictures pictures;
    private final FrameChanges changes;
    private final ChangeOrder order;
    private final BenchStates states;
    private final FramePages pages;
    private final Cards cards;
    private final Partners partners;
    private final RunStarts runs;
    private final Returns returns;

    FrameController(
            ShootService shoots,
            BookService book,
            LensService lenses,
            Pictures pictures,
            FrameChanges changes,
            ChangeOrder order,
            BenchStates states,
            FramePages pages,
            Cards cards,
            Partners partners,
            RunStarts runs,
            Returns returns) {
        this.returns = returns;
        this.shoots = shoots;
        this.book = book;
        this.lenses = lenses;
        this.pictures = pictures;
        this.changes = changes;
        this.order = order;
        this.states = states;
        this.pages = pages;
        this.cards = cards;
        this.partners = partners;
        this.runs = runs;
    }

    @GetMapping("/frames/{id}")
    String show(@PathVariable long id, Model model) {
        FrameForWork frame = shoots.frame(id);
        FramePage page = pages.of(frame).orElse(null);
        if (page == null) {
            model.addAttribute("row", pages.waiting(frame));
            model.addAttribute("shoot", shoots.shoot(frame.shootId()));
            return "frame-waiting";
        }
        model.addAttribute("page", page);
        return "frame";
    }

    /** How its steps stand by now. */
    @GetMapping("/frames/{id}/state")
    @ResponseBody
    BenchState state(@PathVariable long id) {
        return states.of(shoots.frame(id), "");
    }

    @PostMapping("/frames/{id}/settings")
    String change(@PathVariable long id, @RequestParam String target, @RequestParam long version, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        Cards.Wanted wanted = cards.wanted(frame, form);
        order.together(frame, () -> changes.apply(frame, target, version, wanted, form.complete()));
        return "redirect:/frames/" + id;
    }

    /** The same for a page that stays where it is. */
    @PostMapping(value = "/frames/{id}/settings", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    BenchState changeInPlace(
            @PathVariable long id, @RequestParam String target, @RequestParam long version, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        LensChoice lens = lenses.choice(frame.camera(), frame.reportedLens());
        change(id, target, version, form);
        FrameForWork changed = shoots.frame(id);
        String words = changes.targets(frame, book.page(frame.camera()).page()).stream()
                .filter(t -> t.name().equals(target))
                .map(FrameChanges.Target::words)
                .findFirst()
                .orElse("this frame");
        boolean lensToo = form.complete() && !form.lensChoice().equals(lens);
        int frames = lensToo ? shoots.framesOf(frame.camera(), frame.reportedLens()) : 0;
        return states.of(
                changed,
                "Applied to " + words
                        + (lensToo
                                ? String.format(
                                        Locale.ROOT, "; the lens correction to all %,d frames of this lens", frames)
                                : ""));
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

    /** The same for a page that waits until it is made. */
    @PostMapping(value = "/frames/{id}/return", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    FrameReturn sendBack(@PathVariable long id, @RequestParam long version, StepsForm form) {
        makeReturn(id, version, form);
        return returns.newestOf(id);
    }

    @GetMapping("/frames/{id}/returned")
    @ResponseBody
    FrameReturn returned(@PathVariable long id) {
        return returns.newestOf(id);
    }

    /** How large the picture comes out with the cards as they stand, and which lens was found. */
    @GetMapping("/frames/{id}/shape")
    @ResponseBody
    Map<String, Object> shape(@PathVariable long id, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        Cards.Wanted wanted = cards.wanted(frame, form);
        try {
            EnlargeSettings enlarged = wanted.enlarged() == null ? EnlargeSettings.OFF : wanted.enlarged();
            EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), wanted.crop(), enlarged);
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
        Question.Subject subject;
        try {
            settings = cards.resolved(frame, form, without);
            subject = which.equals("partner")
                    ? partners.of(frame, partner, settings)
                    : new Question.Subject(id, settings.toJson());
        } catch (NotPossibleException e) {
            return Pictures.inWords(422, e.getMessage());
        }
        View view = new View(which.equals("partner") ? "after" : which, kind, x, y, w, h, look);
        return pictures.render(view.of(subject, new Question.Asker(viewer, asked)));
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
        Question.Subject subject = new Question.Subject(
                id, cards.resolved(shoots.frame(id), form, "").toJson());
        Question.Asker asker = new Question.Asker(viewer, asked);
        Region region = new Region(x, y, w, h);
        Question question = kind.equals("figures")
                ? new Question.Figures(subject, region, asker)
                : new Question.Histogram(subject, region, asker);
        return Pictures.answered(pictures.ask(question), MediaType.APPLICATION_JSON);
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
        // Where it is sharpest, for there people look.
        FocusMap.Place place = shoots.sharpest(other, shown.width(), shown.height())
                .orElse(new FocusMap.Place(shown.width() / 2, shown.height() / 2));
        return pictures.render(InForceParts.about(
                        shown,
                        settings,
                        (double) place.x() / shown.width(),
                        (double) place.y() / shown.height(),
                        SAMPLE_WIDTH,
                        SAMPLE_HEIGHT)
                .picture(ViewLook.lifted(shown.pushedStops())));
    }

    /** What a wider change would do: the numbers of each rung before and after, and up to three frames far apart in exposure. */
    @GetMapping("/frames/{id}/widen")
    @ResponseBody
    Map<String, Object> widen(@PathVariable long id, @RequestParam String target, StepsForm form) {
        FrameForWork frame = shoots.frame(id);
        List<Map<String, Object>> samples = changes.samples(frame, target).stream()
                .map(f -> Map.<String, Object>of("id", f.id(), "name", f.name(), "ei", Math.round(f.ei())))
                .toList();
        List<PageDifference.Line> rungs = PageDifference.between(
                book.page(frame.camera()).page(), changes.page(frame, target, cards.wanted(frame, form)));
        return Map.of("frames", samples, "rungs", rungs);
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
                shoots.setSteps(frame.id(), steps.with(steps.denoise(), steps.sharpen(), crop));
            }
        }
        return "redirect:/frames/" + id;
    }

    @PostMapping("/frames/{id}/follow")
    String follow(@PathVariable long id) {
        shoots.setSteps(id, ShootService.steps(shoots.frame(id).steps()).following());
        return "redirect:/frames/" + id;
    }

    @PostMapping(value = "/frames/{id}/follow", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    BenchState followInPlace(@PathVariable long id) {
        follow(id);
        FrameForWork frame = shoots.frame(id);
        return states.of(frame, "Follows " + frame.camera() + " again");
    }

    @PostMapping("/frames/{id}/undo")
    String undo(@PathVariable long id) {
        order.undo(shoots.frame(id));
        return "redirect:/frames/" + id;
    }

    @PostMapping(value = "/frames/{id}/undo", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    BenchState undoInPlace(@PathVariable long id) {
        String words = order.undo(shoots.frame(id));
        return states.of(shoots.frame(id), "Undone: " + words);
    }

    @PostMapping("/frames/{id}/redo")
    String redo(@PathVariable long id) {
        order.redo(shoots.frame(id));
        return "redirect:/frames/" + id;
    }

    @PostMapping(value = "/frames/{id}/redo", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    BenchState redoInPlace(@PathVariable long id) {
        String words = order.redo(shoots.frame(id));
        return states.of(shoots.frame(id), "Redone: " + words);
    }

    /** On the walk through returns: a fifth of the noise more is kept on this frame, as settings of its own. */
    @PostMapping(value = "/frames/{id}/milder", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    BenchState milder(@PathVariable long id) {
        FrameForWork frame = shoots.frame(id);
        FrameSteps steps = ShootService.steps(frame.steps());
        DenoiseSettings now = new InForce(book).settings(frame.camera(), frame.ei(), steps);
        double kept = Math.min(100, now.grainKeptPercent() + MILDER_PERCENT);
        shoots.setSteps(
                id,
                steps.withDenoise(new DenoiseSettings(
                        now.on(), now.method(), kept, now.colourNoiseKeptPercent(), now.detailPercent())));
        return states.of(
                shoots.frame(id),
                String.format(
                        Locale.ROOT,
                        "%s: grain kept %.0f %% from now on; make it again with the next run of changed frames",
                        frame.name(),
                        kept));
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

    /** The same for several frames of a shoot. */
    @PostMapping("/shoots/{shoot}/denoise-off")
    String denoiseOff(@PathVariable long shoot, @RequestParam List<Long> frames) {
        frames.forEach(this::denoiseOff);
        return "redirect:/shoots/" + shoot + "#strays";
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
