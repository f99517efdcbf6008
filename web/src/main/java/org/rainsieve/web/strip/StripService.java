package org.rainsieve.web.strip;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.SameLook;
import org.rainsieve.book.Suggestion;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Region;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.reading.Reading;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.strip.Candidate;
import org.rainsieve.strip.Candidates;
import org.rainsieve.strip.Spot;
import org.rainsieve.web.bench.FrameBasis;
import org.rainsieve.web.bench.FrameChanges;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ContactSheet;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
import org.rainsieve.web.shoot.ProofLooks;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Service;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Test strips: rows of candidates over the spots of one frame, and what was chosen on them. */
@Service
@ConditionalOnWebApplication
class StripService {
    private static final JsonMapper JSON = new JsonMapper();
    private static final int MOST_OPEN = 40;
    private static final int MOST_SPOTS = 4;
    private static final int LARGEST_CELL_PX = 1600;

    private final ShootService shoots;
    private final ProofLooks proofs;
    private final ContactSheet sheets;
    private final BookService book;
    private final LensService lenses;
    private final FrameBasis basis;
    private final FrameChanges changes;
    private final Pictures pictures;
    private final StripRepository repository;
    private final ExecutorService blindColumns = Executors.newFixedThreadPool(2, task -> {
        Thread thread = new Thread(task, "blind-columns");
        thread.setDaemon(true);
        return thread;
    });

    private final Map<String, OpenStrip> open = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, OpenStrip> eldest) {
            return size() > MOST_OPEN;
        }
    };

    StripService(
            ShootService shoots,
            ProofLooks proofs,
            ContactSheet sheets,
            BookService book,
            LensService lenses,
            FrameBasis basis,
            FrameChanges changes,
            Pictures pictures,
            StripRepository repository) {
        this.shoots = shoots;
        this.proofs = proofs;
        this.sheets = sheets;
        this.book = book;
        this.lenses = lenses;
        this.basis = basis;
        this.changes = changes;
        this.pictures = pictures;
        this.repository = repository;
    }

    public record Tally(String words, int times) {}

    /**
     * A strip as a browser shows it.
     *
     * @param rows what each row is; empty words while they are hidden
     */
    public record Shown(
            String token,
            int width,
            int height,
            List<String> rows,
            int untried,
            boolean hidden,
            List<Spot> spots,
            List<Tally> tally) {}

    /** A rung before and after the same look is taken over to it. */
    public record RungLook(int ei, String before, String after) {}

    Shown begin(long id, Candidates.Of of, boolean equalNoise, boolean blind, double factor)
            throws InterruptedException {
        FrameForWork frame = shoots.frame(id);
        InForce inForce = new InForce(book);
        FrameSteps steps = ShootService.steps(frame.steps());
        DenoiseSettings denoise = inForce.settings(frame.camera(), frame.ei(), steps);
        SharpenSettings sharpen = inForce.sharpen(frame.camera(), frame.ei(), steps);
        Reading reading = sheets.frames(frame.shootId()).stream()
                .filter(on -> on.row().id() == id)
                .findFirst()
                .map(on -> on.reading())
                .orElse(null);
        EnlargeSettings enlarge = of == Candidates.Of.EDGES ? EnlargeSettings.factor(factor) : EnlargeSettings.OFF;
        List<Candidate> candidates = Candidates.of(
                of,
                denoise,
                book.suggested(frame.camera()).at(frame.ei()),
                equalNoise,
                sharpen,
                Suggestion.sharpen(reading),
                enlarge,
                inForce.pattern(frame.camera()),
                inForce.page(frame.camera()).model());
        EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), steps.crop(), enlarge);
        String kept = repository.spots(id).orElse(null);
        List<Spot> spots =
                kept == null ? found(frame, candidates.get(0)) : JSON.readValue(kept, new TypeReference<>() {});
        OpenStrip strip = new OpenStrip(id, of, candidates, spots, blind, size.width(), size.height());
        String token = UUID.randomUUID().toString();
        synchronized (open) {
            open.put(token, strip);
        }
        return shown(token, strip);
    }

    private List<Spot> found(FrameForWork frame, Candidate candidate) throws InterruptedException {
        Pictures.Answer answer =
                pictures.ask(new Question.Spots(new Question.Subject(frame.id(), settings(frame, candidate))));
        if (!answer.ok()) {
            throw new NotPossibleException(answer.words());
        }
        List<Spot> spots = JSON.readValue(answer.body(), new TypeReference<>() {});
        return onSubject(frame, spots, candidate.enlarge().on());
    }

    /** The finest structure is looked at where the frame is sharpest: fine things out of focus are no subject. */
    private List<Spot> onSubject(FrameForWork frame, List<Spot> spots, boolean enlarged) {
        CropSettings crop = ShootService.steps(frame.steps()).crop();
        Optional<FocusMap.Place> sharpest = shoots.sharpest(frame.id(), frame.width(), frame.height());
        if (sharpest.isEmpty() || crop.turns()) {
            return spots;
        }
        // Spots are shares of the result, which is not cut here but where it is enlarged.
        double x = inside(sharpest.get().x() / (double) frame.width());
        double y = inside(sharpest.get().y() / (double) frame.height());
        if (crop.on()
                && !(x > crop.left()
                        && y > crop.top()
                        && x < crop.left() + crop.width()
                        && y < crop.top() + crop.height())) {
            return spots;
        }
        boolean cut = enlarged && !crop.idle();
        Spot fine = new Spot(
                Spot.Kind.FINE,
                cut ? inside((x - crop.left()) / crop.width()) : x,
                cut ? inside((y - crop.top()) / crop.height()) : y);
        return spots.stream()
                .map(spot -> spot.kind() == Spot.Kind.FINE ? fine : spot)
                .toList();
    }

    private Shown shown(String token, OpenStrip strip) {
        boolean hidden = strip.hidden();
        return new Shown(
                token,
                strip.width,
                strip.height,
                strip.rows().stream().map(row -> hidden ? "" : row.words()).toList(),
                strip.untried(),
                hidden,
                strip.spots,
                // Nobody is told what they liked before while they are to judge unswayed.
                hidden ? List.of() : repository.tally(shoots.frame(strip.frame).camera(), strip.of.name()));
    }

    private OpenStrip strip(String token) {
        synchronized (open) {
            OpenStrip strip = open.get(token);
            if (strip == null) {
                throw new NotFoundException("This strip is not open any more. Open it again.");
            }
            return strip;
        }
    }

    private String settings(FrameForWork frame, Candidate candidate) {
        ResolvedSettings settings = basis.resolved(
                frame,
                candidate.denoise(),
                candidate.sharpen(),
                lenses.settings(frame, lenses.choice(frame.camera(), frame.reportedLens())),
                ShootService.steps(frame.steps()).crop(),
                candidate.enlarge(),
                new InForce(book).masks(frame.camera(), frame.ei(), ShootService.steps(frame.steps())));
        // Where another method takes over from a trained one there is no model to set.
        return (candidate.model().isEmpty() || settings.model().isEmpty()
                        ? settings
                        : settings.withModel(Methods.modelHash(
                                settings.denoise().method(), candidate.model(), book.pattern(frame.camera()))))
                .toJson();
    }

    /** A part of the result about a spot, moved inside it where it would look over its rim. */
    private record Place(int x, int y, int w, int h) {
        Region region() {
            return new Region(x, y, w, h);
        }

        static Place of(OpenStrip strip, int spot, int w, int h) {
            if (spot < 0 || spot >= strip.spots.size()) {
                throw new NotFoundException("There is no such spot on this strip.");
            }
            if (w < 1 || h < 1 || w > LARGEST_CELL_PX || h > LARGEST_CELL_PX) {
                throw new NotPossibleException("A cell has 1 to " + LARGEST_CELL_PX + " px on each side.");
            }
            Spot at = strip.spots.get(spot);
            int width = Math.min(w, strip.width);
            int height = Math.min(h, strip.height);
            int x = (int) Math.round(at.x() * strip.width - width / 2.0);
            int y = (int) Math.round(at.y() * strip.height - height / 2.0);
            return new Place(
                    Math.max(0, Math.min(strip.width - width, x)),
                    Math.max(0, Math.min(strip.height - height, y)),
                    width,
                    height);
        }
    }

    /** @param proof with the tones that the shoot will be edited to */
    Pictures.Answer cell(String token, int row, int spot, int w, int h, double lift, boolean proof)
            throws InterruptedException {
        OpenStrip strip = strip(token);
        ViewLook look = proofs.look(shoots.frame(strip.frame), lift, proof);
        strip.row(row);
        Place place = Place.of(strip, spot, w, h);
        if (!strip.hidden()) {
            return render(strip.frame, strip.row(row), place, look);
        }
        // All rows of the column first: which one takes longest must not be told by when it comes.
        List<Candidate> rows = strip.rows();
        String column = place + " " + look;
        List<Pictures.Answer> answers = strip.columns
                .computeIfAbsent(
                        column,
                        key -> CompletableFuture.supplyAsync(
                                () -> rows.stream()
                                        .map(each -> renderQuietly(strip.frame, each, place, look))
                                        .toList(),
                                blindColumns))
                .join();
        if (!answers.stream().allMatch(Pictures.Answer::ok)) {
            strip.columns.remove(column); // what went wrong once is tried again when it is asked for again
        }
        return answers.get(row);
    }

    private Pictures.Answer renderQuietly(long frame, Candidate candidate, Place place, ViewLook look) {
        try {
            return render(frame, candidate, place, look);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return new Pictures.Answer(503, "The picture was not finished.".getBytes(StandardCharsets.UTF_8));
        }
    }

    private Pictures.Answer render(long frame, Candidate candidate, Place place, ViewLook look)
            throws InterruptedException {
        return pictures.ask(new Question.OfFrame(
                new Question.Subject(frame, settings(shoots.frame(frame), candidate)),
                Question.Which.AFTER,
                place.region(),
                look,
                Question.Asker.NOBODY));
    }

    Pictures.Answer figures(String token, int row, int spot, int w, int h) throws InterruptedException {
        OpenStrip strip = strip(token);
        if (strip.hidden()) {
            throw new NotPossibleException("Figures are hidden until a choice is made.");
        }
        Place place = Place.of(strip, spot, w, h);
        return pictures.ask(new Question.Figures(
                new Question.Subject(strip.frame, settings(shoots.frame(strip.frame), strip.row(row))),
                place.region(),
                Question.Asker.NOBODY));
    }

    Shown replace(String token, int row) {
        OpenStrip strip = strip(token);
        if (!strip.replace(row)) {
            throw new NotPossibleException("Every candidate was on the strip already.");
        }
        return shown(token, strip);
    }

    /** Moves a spot, adds one ({@code index} behind the last) or, without a place, removes it. */
    Shown spot(String token, int index, Double x, Double y) {
        OpenStrip strip = strip(token);
        List<Spot> spots = new ArrayList<>(strip.spots);
        if (index < 0 || index > spots.size()) {
            throw new NotFoundException("There is no such spot on this strip.");
        }
        if (x == null || y == null) {
            if (spots.size() <= 1 || index == spots.size()) {
                throw new NotPossibleException("A strip needs at least one spot.");
            }
            spots.remove(index);
        } else if (index == spots.size()) {
            if (spots.size() == MOST_SPOTS) {
                throw new NotPossibleException("A strip shows at most " + MOST_SPOTS + " spots.");
            }
            spots.add(new Spot(Spot.Kind.OWN, inside(x), inside(y)));
        } else {
            spots.set(index, new Spot(Spot.Kind.OWN, inside(x), inside(y)));
        }
        strip.spots = List.copyOf(spots);
        strip.columns.clear();
        repository.keepSpots(strip.frame, JSON.writeValueAsString(spots));
        return shown(token, strip);
    }

    /** Goes back to the spots that are found. */
    Shown findSpots(String token) throws InterruptedException {
        OpenStrip strip = strip(token);
        repository.forgetSpots(strip.frame);
        strip.spots = found(shoots.frame(strip.frame), strip.row(0));
        strip.columns.clear();
        return shown(token, strip);
    }

    private static double inside(double share) {
        return Math.max(0, Math.min(1, share));
    }

    /** Writes a row's settings to their target, with what it was chosen from as the reason. */
    Shown choose(String token, int row, String target, long version) {
        OpenStrip strip = strip(token);
        Candidate chosen = strip.row(row);
        FrameForWork frame = shoots.frame(strip.frame);
        boolean wasHidden = strip.hidden();
        if (strip.of == Candidates.Of.MODELS) {
            book.bind(frame.camera(), version, chosen.model());
            strip.undo = new OpenStrip.Undo(false, frame.camera());
        } else if (strip.of != Candidates.Of.EDGES) {
            FrameSteps steps = ShootService.steps(frame.steps());
            changes.apply(
                    frame,
                    target,
                    version,
                    chosen.denoise(),
                    chosen.sharpen(),
                    steps.crop(),
                    "chosen on a strip of " + frame.name() + (wasHidden ? ", blind" : ""));
            strip.undo = new OpenStrip.Undo(target.equals("frame"), frame.camera());
        }
        repository.add(
                frame.id(),
                frame.camera(),
                strip.of.name(),
                wasHidden,
                chosen.words(),
                JSON.writeValueAsString(
                        strip.rows().stream().map(Candidate::words).toList()),
                JSON.writeValueAsString(strip.spots),
                switch (strip.of) {
                    case EDGES -> "run";
                    case MODELS -> "camera";
                    default -> target;
                });
        strip.reveal();
        return shown(token, strip);
    }

    void undo(String token) {
        OpenStrip strip = strip(token);
        OpenStrip.Undo undo = strip.undo;
        if (undo == null) {
            throw new NotPossibleException("Nothing was chosen on this strip that could be undone.");
        }
        if (undo.onFrame()) {
            shoots.undoSteps(strip.frame);
        } else {
            book.undo(book.page(undo.camera()).version());
        }
        strip.undo = null;
    }

    long version(String token) {
        return book.page(shoots.frame(strip(token).frame).camera()).version();
    }

    /** What the other rungs would take so that their frames look like this row. */
    List<RungLook> sameLook(String token, int row) {
        OpenStrip strip = strip(token);
        Page page = book.page(shoots.frame(strip.frame).camera()).page();
        Page after = alike(strip, row, page);
        List<RungLook> looks = new ArrayList<>();
        for (int i = 0; i < page.rungs().size(); i++) {
            int ei = page.rungs().get(i).ei();
            looks.add(new RungLook(ei, PageDifference.inWords(page.at(ei)), PageDifference.inWords(after.at(ei))));
        }
        return looks;
    }

    void takeSameLook(String token, int row, long version) {
        OpenStrip strip = strip(token);
        FrameForWork frame = shoots.frame(strip.frame);
        book.save(
                alike(strip, row, book.page(frame.camera()).page()),
                version,
                "same look at all rungs as on a strip of " + frame.name());
        strip.undo = new OpenStrip.Undo(false, frame.camera());
    }

    private Page alike(OpenStrip strip, int row, Page page) {
        if (strip.hidden()) {
            throw new NotPossibleException("Choose first; until then rows are hidden.");
        }
        Candidate chosen = strip.row(row);
        FrameForWork frame = shoots.frame(strip.frame);
        return SameLook.of(page, frame.ei(), chosen.denoise(), chosen.sharpen(), book.law(frame.camera()));
    }
}
