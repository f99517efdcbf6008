package org.rainsieve.web.bench;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Consumer;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Origin;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.Rung;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.Mask;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** A frame's masks: kept as its own settings, so that they are undone like these. */
@Controller
@ConditionalOnWebApplication
class MaskController {
    private static final JsonMapper JSON = new JsonMapper();
    private static final int LONGEST = 4 << 20;

    private final ShootService shoots;
    private final Cards cards;
    private final Partners partners;
    private final Pictures pictures;
    private final BookService book;
    private final ChangeOrder order;

    MaskController(
            ShootService shoots,
            Cards cards,
            Partners partners,
            Pictures pictures,
            BookService book,
            ChangeOrder order) {
        this.book = book;
        this.order = order;
        this.shoots = shoots;
        this.cards = cards;
        this.partners = partners;
        this.pictures = pictures;
    }

    private record Masks(List<Mask> masks) {}

    /**
     * @param masks its own
     * @param book those of the camera's page at its exposure index
     * @param bookWords what they set, mask by mask
     * @param line the line of the ladder that they belong to, such as {@code ISO 1,600}
     * @param leaves whether the frame leaves out those of the book
     */
    private record Standing(List<Mask> masks, List<Mask> book, List<String> bookWords, String line, boolean leaves) {}

    @GetMapping(value = "/frames/{id}/masks", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    String masks(@PathVariable long id) {
        FrameForWork frame = shoots.frame(id);
        FrameSteps steps = ShootService.steps(frame.steps());
        Page page = book.page(frame.camera()).page();
        List<Mask> ofBook = page.masksAt(frame.ei());
        return JSON.writeValueAsString(new Standing(
                steps.masks(),
                ofBook,
                ofBook.stream().map(PageDifference::inWords).toList(),
                line(frame, page),
                steps.leavesMasks()));
    }

    private static String line(FrameForWork frame, Page page) {
        return String.format(
                Locale.ROOT,
                "%s near ISO %,d",
                frame.camera(),
                page.nearest(frame.ei()).ei());
    }

    /** Gives a mask of this frame to its line of the camera's ladder: it is found anew in every frame that follows that line. */
    @PostMapping(value = "/frames/{id}/masks/{index}/to-book", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    String toBook(@PathVariable long id, @PathVariable int index) {
        FrameForWork frame = shoots.frame(id);
        FrameSteps steps = ShootService.steps(frame.steps());
        List<Mask> own = new ArrayList<>(steps.masks());
        Mask mask = taken(own, index);
        order.together(frame, () -> {
            saveToBook(frame, list -> list.add(mask), "mask “" + mask.name() + "” of " + frame.name());
            shoots.setSteps(id, steps.with(own).leavingMasks(false));
        });
        return masks(id);
    }

    /** Takes a mask out of that line. */
    @PostMapping(value = "/frames/{id}/masks/{index}/out-of-book", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    String outOfBook(@PathVariable long id, @PathVariable int index) {
        FrameForWork frame = shoots.frame(id);
        order.together(
                frame, () -> saveToBook(frame, list -> taken(list, index), "a mask taken out on " + frame.name()));
        return masks(id);
    }

    /** Whether this frame takes the masks of the book; where it leaves them it can begin with copies of its own. */
    @PostMapping(value = "/frames/{id}/masks/leave", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    String leave(
            @PathVariable long id, @RequestParam boolean leaves, @RequestParam(defaultValue = "false") boolean copies) {
        FrameForWork frame = shoots.frame(id);
        FrameSteps steps = ShootService.steps(frame.steps());
        List<Mask> ofBook = book.page(frame.camera()).page().masksAt(frame.ei());
        List<Mask> own = copies ? steps.masksWith(ofBook) : steps.masks();
        try {
            shoots.setSteps(id, steps.with(own).leavingMasks(leaves));
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage());
        }
        return masks(id);
    }

    private void saveToBook(FrameForWork frame, Consumer<List<Mask>> change, String why) {
        BookService.PageInForce inForce = book.page(frame.camera());
        Rung rung = inForce.page().nearest(frame.ei());
        List<Mask> changed = new ArrayList<>(rung.masks());
        change.accept(changed);
        try {
            book.save(inForce.page().withRung(rung.with(changed, Origin.chosen(why))), inForce.version(), why);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was changed.");
        }
    }

    private static Mask taken(List<Mask> masks, int index) {
        if (index < 0 || index >= masks.size()) {
            throw new NotFoundException("There is no such mask.");
        }
        return masks.remove(index);
    }

    /** Takes all masks of a frame at once. */
    @PostMapping(value = "/frames/{id}/masks", produces = MediaType.APPLICATION_JSON_VALUE)
    @ResponseBody
    String change(@PathVariable long id, @RequestBody String body) {
        FrameSteps steps = ShootService.steps(shoots.frame(id).steps());
        if (body.length() > LONGEST) {
            throw new NotPossibleException("These strokes are too many. Begin another mask, or remove some.");
        }
        List<Mask> masks;
        try {
            masks = Mask.checked(JSON.readValue(body, Masks.class).masks());
        } catch (JacksonException | IllegalArgumentException e) {
            Throwable cause = e.getCause() instanceof IllegalArgumentException inner ? inner : e;
            throw new NotPossibleException(
                    cause instanceof JacksonException
                            ? "These masks cannot be understood. Nothing was changed."
                            : cause.getMessage() + ". Nothing was changed.");
        }
        if (!masks.equals(steps.masks())) {
            shoots.setSteps(id, steps.with(masks));
        }
        return masks(id);
    }

    /** Copies the masks to the other frames of the burst; what is found is found anew on each. */
    @PostMapping("/frames/{id}/masks/burst")
    @ResponseBody
    Map<String, Integer> copyToBurst(@PathVariable long id) {
        FrameForWork frame = shoots.frame(id);
        List<Mask> masks = ShootService.steps(frame.steps()).masks();
        List<FrameForWork> burst = partners.burst(frame);
        for (FrameForWork other : burst) {
            FrameSteps steps = ShootService.steps(other.steps());
            if (!steps.masks().equals(masks)) {
                shoots.setSteps(other.id(), steps.with(masks));
            }
        }
        return Map.of("frames", burst.size());
    }

    /** From places on the picture as shown to those on the frame, as JSON; x and y in turn. */
    @PostMapping("/frames/{id}/masks/place")
    ResponseEntity<byte[]> place(@PathVariable long id, @RequestBody List<Double> points, StepsForm form)
            throws InterruptedException {
        ResolvedSettings settings = cards.resolved(shoots.frame(id), form, "masks");
        return json(new Question.Places(new Question.Subject(id, settings.toJson()), points));
    }

    /** Of each mask the share of the frame that was found, in %; null where nothing is looked for. */
    @GetMapping("/frames/{id}/masks/found")
    ResponseEntity<byte[]> found(@PathVariable long id, StepsForm form) throws InterruptedException {
        ResolvedSettings settings = cards.resolved(shoots.frame(id), form, "");
        return json(new Question.Found(new Question.Subject(id, settings.toJson())));
    }

    private ResponseEntity<byte[]> json(Question question) throws InterruptedException {
        return Pictures.answered(pictures.ask(question), MediaType.APPLICATION_JSON);
    }

    /** How strong a mask is, white for full strength: a region, or ({@code edge}) the whole picture with that long edge. */
    @GetMapping("/frames/{id}/masks/{index}/strength")
    ResponseEntity<byte[]> strength(
            @PathVariable long id,
            @PathVariable int index,
            @RequestParam(defaultValue = "0") int edge,
            @RequestParam(defaultValue = "0") int x,
            @RequestParam(defaultValue = "0") int y,
            @RequestParam(defaultValue = "1") int w,
            @RequestParam(defaultValue = "1") int h,
            StepsForm form)
            throws InterruptedException {
        ResolvedSettings settings = cards.resolved(shoots.frame(id), form, "");
        if (index < 0 || index >= settings.masks().size()) {
            throw new NotFoundException("There is no such mask.");
        }
        Pictures.Answer answer = pictures.ask(new Question.Strength(
                new Question.Subject(id, settings.toJson()), index, edge, new Region(x, y, w, h)));
        return answer.ok()
                ? ResponseEntity.ok()
                        .contentType(MediaType.IMAGE_PNG)
                        .cacheControl(CacheControl.maxAge(java.time.Duration.ofMinutes(10))
                                .cachePrivate())
                        .body(answer.body())
                : Pictures.inWords(answer.status(), answer.words());
    }
}
