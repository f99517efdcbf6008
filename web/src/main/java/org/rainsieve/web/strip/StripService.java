package org.rainsieve.web.strip;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.SameLook;
import org.rainsieve.book.Suggestion;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.reading.Reading;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.strip.Candidate;
import org.rainsieve.strip.Candidates;
import org.rainsieve.strip.Spot;
import org.rainsieve.web.bench.FrameBasis;
import org.rainsieve.web.bench.FrameChanges;
import org.rainsieve.web.bench.Pictures;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ContactSheet;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
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

    private final Map<String, StripSession> open = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, StripSession> eldest) {
            return size() > MOST_OPEN;
        }
    };

    StripService(
            ShootService shoots,
            ContactSheet sheets,
            BookService book,
            LensService lenses,
            FrameBasis basis,
            FrameChanges changes,
            Pictures pictures,
            StripRepository repository) {
        this.shoots = shoots;
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
        InForce inForce = new InForce(shoots, book);
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
                inForce.pattern(frame.camera()));
        EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), steps.crop(), enlarge);
        String kept = repository.spots(id).orElse(null);
        List<Spot> spots =
                kept == null ? found(frame, candidates.get(0)) : JSON.readValue(kept, new TypeReference<>() {});
        StripSession session = new StripSession(id, of, candidates, spots, blind, size.width(), size.height());
        String token = UUID.randomUUID().toString();
        synchronized (open) {
            open.put(token, session);
        }
        return shown(token, session);
    }

    private List<Spot> found(FrameForWork frame, Candidate candidate) throws InterruptedException {
        Pictures.Answer answer = pictures.told(frame.id(), "spots", 0, 0, 1, 1, settings(frame, candidate));
        if (!answer.ok()) {
            throw new NotPossibleException(answer.words());
        }
        return JSON.readValue(answer.body(), new TypeReference<>() {});
    }

    private Shown shown(String token, StripSession session) {
        boolean hidden = session.hidden();
        return new Shown(
                token,
                session.width,
                session.height,
                session.rows().stream().map(row -> hidden ? "" : row.words()).toList(),
                session.untried(),
                hidden,
                session.spots,
                // Nobody is told what they liked before while they are to judge unswayed.
                hidden
                        ? List.of()
                        : repository.tally(shoots.frame(session.frame).camera(), session.of.name()));
    }

    private StripSession session(String token) {
        synchronized (open) {
            StripSession session = open.get(token);
            if (session == null) {
                throw new NotFoundException("This strip is not open any more. Open it again.");
            }
            return session;
        }
    }

    private String settings(FrameForWork frame, Candidate candidate) {
        return basis.resolved(
                        frame,
                        candidate.denoise(),
                        candidate.sharpen(),
                        lenses.settings(frame, lenses.choice(frame.camera(), frame.reportedLens())),
                        ShootService.steps(frame.steps()).crop(),
                        candidate.enlarge())
                .toJson();
    }

    /** A part of the result about a spot, moved inside it where it would look over its rim. */
    private record Place(int x, int y, int w, int h) {
        static Place of(StripSession session, int spot, int w, int h) {
            if (spot < 0 || spot >= session.spots.size()) {
                throw new NotFoundException("There is no such spot on this strip.");
            }
            if (w < 1 || h < 1 || w > LARGEST_CELL_PX || h > LARGEST_CELL_PX) {
                throw new NotPossibleException("A cell has 1 to " + LARGEST_CELL_PX + " px on each side.");
            }
            Spot at = session.spots.get(spot);
            int width = Math.min(w, session.width);
            int height = Math.min(h, session.height);
            int x = (int) Math.round(at.x() * session.width - width / 2.0);
            int y = (int) Math.round(at.y() * session.height - height / 2.0);
            return new Place(
                    Math.max(0, Math.min(session.width - width, x)),
                    Math.max(0, Math.min(session.height - height, y)),
                    width,
                    height);
        }
    }

    Pictures.Answer cell(String token, int row, int spot, int w, int h, double lift) throws InterruptedException {
        StripSession session = session(token);
        session.row(row);
        Place place = Place.of(session, spot, w, h);
        if (!session.hidden()) {
            return render(session.frame, session.row(row), place, lift);
        }
        // All rows of the column first: which one takes longest must not be told by when it comes.
        List<Candidate> rows = session.rows();
        return session.columns
                .computeIfAbsent(
                        place + " " + lift,
                        key -> CompletableFuture.supplyAsync(
                                () -> rows.stream()
                                        .map(each -> renderQuietly(session.frame, each, place, lift))
                                        .toList(),
                                blindColumns))
                .join()
                .get(row);
    }

    private Pictures.Answer renderQuietly(long frame, Candidate candidate, Place place, double lift) {
        try {
            return render(frame, candidate, place, lift);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return new Pictures.Answer(503, "The picture was not finished.".getBytes(StandardCharsets.UTF_8));
        }
    }

    private Pictures.Answer render(long frame, Candidate candidate, Place place, double lift)
            throws InterruptedException {
        return pictures.region(
                frame, place.x, place.y, place.w, place.h, lift, settings(shoots.frame(frame), candidate));
    }

    Pictures.Answer figures(String token, int row, int spot, int w, int h) throws InterruptedException {
        StripSession session = session(token);
        if (session.hidden()) {
            throw new NotPossibleException("Figures are hidden until a choice is made.");
        }
        Place place = Place.of(session, spot, w, h);
        return pictures.told(
                session.frame,
                "figures",
                place.x,
                place.y,
                place.w,
                place.h,
                settings(shoots.frame(session.frame), session.row(row)));
    }

    Shown replace(String token, int row) {
        StripSession session = session(token);
        if (!session.replace(row)) {
            throw new NotPossibleException("Every candidate was on the strip already.");
        }
        return shown(token, session);
    }

    /** Moves a spot, adds one ({@code index} behind the last) or, without a place, removes it. */
    Shown spot(String token, int index, Double x, Double y) {
        StripSession session = session(token);
        List<Spot> spots = new ArrayList<>(session.spots);
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
        session.spots = List.copyOf(spots);
        session.columns.clear();
        repository.keepSpots(session.frame, JSON.writeValueAsString(spots));
        return shown(token, session);
    }

    /** Goes back to the spots that are found. */
    Shown findSpots(String token) throws InterruptedException {
        StripSession session = session(token);
        repository.forgetSpots(session.frame);
        session.spots = found(shoots.frame(session.frame), session.row(0));
        session.columns.clear();
        return shown(token, session);
    }

    private static double inside(double share) {
        return Math.max(0, Math.min(1, share));
    }

    /** Writes a row's settings to their target, with what it was chosen from as the reason. */
    Shown choose(String token, int row, String target, long version) {
        StripSession session = session(token);
        Candidate chosen = session.row(row);
        FrameForWork frame = shoots.frame(session.frame);
        boolean wasHidden = session.hidden();
        if (session.of != Candidates.Of.EDGES) {
            FrameSteps steps = ShootService.steps(frame.steps());
            changes.apply(
                    frame,
                    target,
                    version,
                    chosen.denoise(),
                    chosen.sharpen(),
                    steps.crop(),
                    "chosen on a strip of " + frame.name() + (wasHidden ? ", blind" : ""));
            session.undo = new StripSession.Undo(target.equals("frame"), frame.camera());
        }
        repository.add(
                frame.id(),
                frame.camera(),
                session.of.name(),
                wasHidden,
                chosen.words(),
                JSON.writeValueAsString(
                        session.rows().stream().map(Candidate::words).toList()),
                JSON.writeValueAsString(session.spots),
                session.of == Candidates.Of.EDGES ? "run" : target);
        session.reveal();
        return shown(token, session);
    }

    void undo(String token) {
        StripSession session = session(token);
        StripSession.Undo undo = session.undo;
        if (undo == null) {
            throw new NotPossibleException("Nothing was chosen on this strip that could be undone.");
        }
        if (undo.onFrame()) {
            shoots.undoSteps(session.frame);
        } else {
            book.undo(book.page(undo.camera()).version());
        }
        session.undo = null;
    }

    long version(String token) {
        return book.page(shoots.frame(session(token).frame).camera()).version();
    }

    /** What the other rungs would take so that their frames look like this row. */
    List<RungLook> sameLook(String token, int row) {
        StripSession session = session(token);
        Page page = book.page(shoots.frame(session.frame).camera()).page();
        Page after = alike(session, row, page);
        List<RungLook> looks = new ArrayList<>();
        for (int i = 0; i < page.rungs().size(); i++) {
            int ei = page.rungs().get(i).ei();
            looks.add(new RungLook(ei, PageDifference.inWords(page.at(ei)), PageDifference.inWords(after.at(ei))));
        }
        return looks;
    }

    void takeSameLook(String token, int row, long version) {
        StripSession session = session(token);
        FrameForWork frame = shoots.frame(session.frame);
        book.save(
                alike(session, row, book.page(frame.camera()).page()),
                version,
                "same look at all rungs as on a strip of " + frame.name());
        session.undo = new StripSession.Undo(false, frame.camera());
    }

    private Page alike(StripSession session, int row, Page page) {
        if (session.hidden()) {
            throw new NotPossibleException("Choose first; until then rows are hidden.");
        }
        Candidate chosen = session.row(row);
        FrameForWork frame = shoots.frame(session.frame);
        return SameLook.of(page, frame.ei(), chosen.denoise(), chosen.sharpen(), book.law(frame.camera()));
    }
}
