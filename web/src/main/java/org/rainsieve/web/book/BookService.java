package org.rainsieve.web.book;

import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.Starter;
import org.rainsieve.book.Suggestion;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** The camera book: one page per body, kept as versions that are only ever added. */
@Service
public class BookService {
    private static final JsonMapper JSON = JsonMapper.builder()
            .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES) // what older versions did not write
            .build();

    /** So many frames tell a body's defects. */
    private static final int MOST_MAPS = 60;

    private final BookRepository repository;
    private final BodyNoise noise;

    BookService(BookRepository repository, BodyNoise noise) {
        this.repository = repository;
        this.noise = noise;
    }

    /** A page and the version it stands in; version 0 is the suggestion a new camera begins with. */
    public record PageInForce(long version, Page page) {}

    /** One entry of a page's history. */
    public record HistoryEntry(long version, String reason, LocalDateTime at) {}

    /** A body's defects and what they were taken from. */
    public record Defects(DefectMap map, int frames, boolean fromDarks) {}

    public List<String> cameras() {
        return repository.cameras();
    }

    public PageInForce page(String camera) {
        return repository
                .newest(camera)
                .map(version -> new PageInForce(version.id(), page(version)))
                .orElseGet(() -> new PageInForce(0, suggested(camera)));
    }

    private static Page page(BookRepository.Version version) {
        return JSON.readValue(version.page(), Page.class);
    }

    /**
     * Lets a camera's page stand from now on, bound to the present engine and model. A page that is bound already stays so.
     *
     * @throws NotPossibleException when the page is bound to another engine than this one
     */
    public Page begin(String camera) {
        PageInForce inForce = page(camera);
        Page page = inForce.page();
        if (page.engine().isEmpty()) {
            page = page.pinned(ResolvedSettings.ENGINE, Methods.newestModel(pattern(camera)));
            bound(inForce.version(), page);
        } else if (!page.engine().equals(ResolvedSettings.ENGINE)) {
            throw new NotPossibleException("The page of " + camera + " is bound to " + page.engine() + ", and this is "
                    + ResolvedSettings.ENGINE + ", whose results may differ a little. Open the camera book and bind the"
                    + " page to this version, or install the other one again. Nothing was started.");
        }
        return page;
    }

    /** Binding is no step of its own: undo goes back to what was before the change that it was made on. */
    private void bound(long version, Page page) {
        String json = JSON.writeValueAsString(page);
        if (version == 0) {
            repository.add(page.camera(), null, "begun with the suggestion, for a first run", json, null, 0L);
            return;
        }
        BookRepository.Version standing = version(version);
        Long base =
                standing.contentId() == 0 ? null : version(standing.contentId()).baseId();
        repository.add(page.camera(), version, standing.reason(), json, base, standing.contentId() == 0 ? 0L : null);
    }

    /** What a camera's frames tell of its noise; to be asked for once for many of them. */
    public BodyNoise.Body noise(String camera) {
        return noise.of(camera);
    }

    /** The noise of a camera's frames over ISO. */
    public NoiseChart noiseChart(String camera) {
        return NoiseChart.of(noise(camera).readings());
    }

    /** What a new camera begins with. */
    public Page suggested(String camera) {
        return Suggestion.page(camera, noise(camera).line().orElse(null), Methods.best(pattern(camera)));
    }

    /** The colour filters of a camera's frames; 2×2 while nothing was read. */
    public CfaPattern pattern(String camera) {
        return repository.pattern(camera).map(CfaPattern::parse).orElse(CfaPattern.RGGB);
    }

    public List<HistoryEntry> history(String camera) {
        return repository.history(camera).stream()
                .map(version -> new HistoryEntry(version.id(), version.reason(), version.createdAt()))
                .toList();
    }

    /**
     * Saves a change. One made elsewhere meanwhile is kept too, as long as the two do not contradict each other.
     *
     * @param shownVersion the version that the change was made on
     * @throws ChangedElsewhereException when they do
     */
    public void save(Page page, long shownVersion, String reason) {
        if (add(page, shownVersion, reason)) {
            return;
        }
        PageInForce newest = page(page.camera());
        Page base = shownVersion == 0
                ? suggested(page.camera())
                : page(repository
                        .version(shownVersion)
                        .orElseThrow(() -> new NotFoundException("There is no such page.")));
        PageDifference.Merged merged = PageDifference.merge(base, newest.page(), page);
        if (merged.contradictions().isEmpty()
                && add(merged.page(), newest.version(), reason + ", beside a change made elsewhere")) {
            return;
        }
        Page mine = PageDifference.merge(base, page, newest.page()).page();
        throw new ChangedElsewhereException(mine, newest.version(), merged.contradictions());
    }

    private boolean add(Page page, long shownVersion, String reason) {
        Long parent = shownVersion == 0 ? null : shownVersion;
        Long base = shownVersion == 0
                ? null
                : repository
                        .version(shownVersion)
                        .map(BookRepository.Version::contentId)
                        .orElse(null);
        return repository.add(page.camera(), parent, reason, JSON.writeValueAsString(page), base, null);
    }

    /** Appends a copy of what the shown version was made on. */
    public String undo(long shownVersion) {
        BookRepository.Version shown = version(shownVersion);
        if (!canUndo(shownVersion)) {
            throw new NotPossibleException("There is nothing to undo on this page.");
        }
        BookRepository.Version content = version(shown.contentId());
        if (content.baseId() == null || content.baseId() == 0) {
            Page begun = suggested(shown.camera())
                    .pinned(page(shown).engine(), page(shown).model());
            repeat(shown, begun, null, "undone to the suggestion");
        } else {
            BookRepository.Version before = version(content.baseId());
            repeat(shown, bound(page(before), page(shown)), before.id(), "undone: " + content.reason());
        }
        return shown.camera();
    }

    /** A page of before its first run takes the versions that it was bound to since. */
    private static Page bound(Page old, Page standing) {
        return old.engine().isEmpty() ? old.pinned(standing.engine(), standing.model()) : old;
    }

    /** Appends a copy of what was undone last. */
    public String redo(long shownVersion) {
        BookRepository.Version shown = version(shownVersion);
        BookRepository.Version undone =
                undone(shown).orElseThrow(() -> new NotPossibleException("There is nothing to redo on this page."));
        repeat(shown, bound(page(undone), page(shown)), undone.id(), "redone: " + undone.reason());
        return shown.camera();
    }

    /** Whether something was undone that can be redone. */
    public boolean canRedo(long shownVersion) {
        return redoable(shownVersion).isPresent();
    }

    /** The version that a redo would bring back. */
    public Optional<Long> redoable(long shownVersion) {
        return shownVersion == 0
                ? Optional.empty()
                : undone(version(shownVersion)).map(BookRepository.Version::id);
    }

    public boolean canUndo(long shownVersion) {
        return shownVersion != 0 && version(shownVersion).contentId() != 0;
    }

    private Optional<BookRepository.Version> undone(BookRepository.Version shown) {
        return repository.newestOnTopOf(shown.camera(), shown.contentId());
    }

    /** Appends a copy of any version of the past. */
    public String back(long shownVersion, long to) {
        BookRepository.Version shown = version(shownVersion);
        BookRepository.Version wanted = version(to);
        if (!wanted.camera().equals(shown.camera())) {
            throw new NotPossibleException("That version belongs to another camera.");
        }
        repeat(
                shown,
                bound(page(wanted), page(shown)),
                wanted.contentId(),
                "back to version " + to + ": " + wanted.reason());
        return shown.camera();
    }

    /** @param of the version whose content it is; null for the suggestion, which no version holds */
    private void repeat(BookRepository.Version shown, Page page, Long of, String reason) {
        boolean added = repository.add(
                shown.camera(),
                shown.id(),
                reason,
                JSON.writeValueAsString(page),
                null,
                of == null ? Long.valueOf(0) : of);
        if (!added) {
            PageInForce newest = page(shown.camera());
            throw new ChangedElsewhereException(page, newest.version(), PageDifference.between(newest.page(), page));
        }
    }

    private BookRepository.Version version(long id) {
        return repository.version(id).orElseThrow(() -> new NotFoundException("There is no such version of a page."));
    }

    /** Marks the suggested values of all rungs as looked at. */
    public void lookedAt(String camera, long shownVersion) {
        Page page = page(camera).page();
        save(
                page.withRungs(page.rungs().stream()
                        .map(rung -> rung.with(rung.origin().seen()))
                        .toList()),
                shownVersion,
                "suggested values looked at");
    }

    /** The frame of a camera that a newer model is best judged on. */
    Optional<Long> noisiest(String camera) {
        return repository.noisiest(camera);
    }

    /** Binds a page to the present engine and one of the models, on purpose. */
    public void bind(String camera, long shownVersion, String model) {
        if (!Methods.models(pattern(camera)).contains(model)) {
            throw new NotPossibleException("There is no such model.");
        }
        save(
                page(camera).page().pinned(ResolvedSettings.ENGINE, model),
                shownVersion,
                "bound to " + ResolvedSettings.ENGINE + " and " + model);
    }

    /** The starters that ship, then the owner's. */
    public record NamedStarter(long id, Starter starter) {
        public boolean own() {
            return id > 0;
        }
    }

    public List<NamedStarter> starters() {
        List<NamedStarter> all = new ArrayList<>();
        Starter.shipped().forEach(starter -> all.add(new NamedStarter(0, starter)));
        repository
                .starters()
                .forEach(own -> all.add(new NamedStarter(own.id(), JSON.readValue(own.starter(), Starter.class))));
        return all;
    }

    public NamedStarter starter(String name) {
        return starters().stream()
                .filter(named -> named.starter().name().equals(name))
                .findFirst()
                .orElseThrow(() -> new NotFoundException("There is no starter of that name."));
    }

    /** Puts a starter's rungs in place of a page's. */
    public void start(String camera, long shownVersion, String starter) {
        Page page = page(camera).page();
        String method = page.rungs().get(0).denoise().method();
        save(
                page.withRungs(starter(starter).starter().rungs(law(camera), method, "starter " + starter, true)),
                shownVersion,
                "begun from the starter " + starter);
    }

    public NoiseLaw law(String camera) {
        return noise(camera)
                .line()
                .orElseThrow(() -> new NotPossibleException(
                        "Starters tell how much noise is to be left, and no frame of this camera was"
                                + " read yet. Take in a few frames of it first."));
    }

    /** Keeps what a page leaves as a starter of the owner's. */
    public void keepStarter(String camera, String name) {
        keepStarter(Starter.of(name, page(camera).page(), law(camera)));
    }

    public void keepStarter(Starter starter) {
        boolean shipped =
                Starter.shipped().stream().anyMatch(other -> other.name().equals(starter.name()));
        if (shipped || !repository.addStarter(starter.name(), JSON.writeValueAsString(starter))) {
            throw new NotPossibleException("There is a starter called " + starter.name()
                    + " already. Choose another name; nothing was saved.");
        }
    }

    public void renameStarter(long id, String name) {
        NamedStarter old = starters().stream()
                .filter(named -> named.id() == id && named.own())
                .findFirst()
                .orElseThrow(() -> new NotFoundException("There is no such starter of your own."));
        Starter renamed = old.starter().named(name);
        if (!repository.renameStarter(id, renamed.name(), JSON.writeValueAsString(renamed))) {
            throw new NotPossibleException("There is a starter called " + renamed.name() + " already.");
        }
    }

    public void removeStarter(long id) {
        repository.removeStarter(id);
    }

    /** The body's defects, pooled over its frames, for pictures of one size. */
    public Defects defects(String camera, int width, int height) {
        List<DefectMap> frames = new ArrayList<>();
        List<DefectMap> darks = new ArrayList<>();
        for (BookRepository.FrameDefects found : repository.defects(camera, width, height, MOST_MAPS)) {
            (found.dark() ? darks : frames).add(DefectMap.ofBytes(found.defects()));
        }
        return new Defects(
                DefectMap.pooled(frames, darks), darks.isEmpty() ? frames.size() : darks.size(), !darks.isEmpty());
    }

    /** The same, kept under its hash, by which a run's settings name it. */
    public DefectMap defectsForRun(String camera, int width, int height) {
        DefectMap map = defects(camera, width, height).map();
        if (map.size() > 0) {
            repository.keepDefectMap(map.hash(), camera, map.size(), map.toBytes());
        }
        return map;
    }

    /** A body's defects for the size that most frames have; empty without frames. */
    public Optional<Defects> defects(String camera) {
        return repository.commonSize(camera).map(size -> defects(camera, size.width(), size.height()));
    }

    /** A defect map that settings name by its hash. */
    public DefectMap defectMap(String hash) {
        return hash.isEmpty()
                ? DefectMap.EMPTY
                : DefectMap.ofBytes(repository
                        .defectMap(hash)
                        .orElseThrow(() -> new NotPossibleException(
                                "The defect map that these settings name is not in this camera book.")));
    }

    /** Whether each serial number of a camera's body has a page of its own. */
    public record Apart(String body, int serials, boolean apart) {}

    public Optional<Apart> apart(String camera) {
        return repository.body(camera).map(body -> new Apart(body, repository.serials(body), repository.apart(body)));
    }

    /** The name of the page that a frame belongs to. */
    public String camera(String body, String serial) {
        return serial.isEmpty() || !repository.apart(body) ? body : body + " no. " + serial;
    }

    @Transactional
    public void setApart(String body, boolean apart) {
        repository.setApart(body, apart);
    }
}
