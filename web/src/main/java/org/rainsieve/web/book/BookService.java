package org.rainsieve.web.book;

import java.time.LocalDateTime;
import java.util.List;
import org.rainsieve.book.Page;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.stereotype.Service;
import tools.jackson.databind.json.JsonMapper;

/** The camera book: one page per body, kept as versions that are only ever added. */
@Service
public class BookService {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final BookRepository repository;

    BookService(BookRepository repository) {
        this.repository = repository;
    }

    /** A page and the version it stands in; version 0 is the suggestion a new camera begins with. */
    public record PageInForce(long version, Page page) {}

    /** One entry of a page's history. */
    public record HistoryEntry(long version, String reason, LocalDateTime at) {}

    public List<String> cameras() {
        return repository.cameras();
    }

    public PageInForce page(String camera) {
        return repository
                .newest(camera)
                .map(version -> new PageInForce(version.id(), JSON.readValue(version.page(), Page.class)))
                .orElseGet(() -> new PageInForce(0, suggested(camera)));
    }

    /** The noise of a camera's frames over ISO. */
    public NoiseChart noiseChart(String camera) {
        return NoiseChart.of(repository.readings(camera).stream()
                .map(read -> new NoiseLaw.AtIso(read.iso(), JSON.readValue(read.noise(), NoiseModel.class)))
                .toList());
    }

    private Page suggested(String camera) {
        return Page.suggested(camera, Methods.best(pattern(camera)));
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

    /** @throws NotPossibleException when someone changed the page since the given version was shown */
    public void save(Page page, long shownVersion, String reason) {
        Long parent = shownVersion == 0 ? null : shownVersion;
        if (!repository.add(page.camera(), parent, reason, JSON.writeValueAsString(page))) {
            throw new NotPossibleException("This page was changed elsewhere since you opened it. Nothing was saved; "
                    + "open it again, look at the change, and make yours on top of it.");
        }
    }

    /** Appends a copy of the version before the newest one. */
    public String undo(long shownVersion) {
        BookRepository.Version shown =
                repository.version(shownVersion).orElseThrow(() -> new NotFoundException("There is nothing to undo."));
        if (shown.parentId() == null) {
            save(suggested(shown.camera()), shownVersion, "undone to the suggestion");
        } else {
            BookRepository.Version before = repository.version(shown.parentId()).orElseThrow();
            save(JSON.readValue(before.page(), Page.class), shownVersion, "undone: " + shown.reason());
        }
        return shown.camera();
    }
}
