package org.rainsieve.web.catalogue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.UnreadableSettingsException;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.stereotype.Service;

/** Originals and their returns: which versions there are, where they lie, and keeping one of them. */
@Service
class CatalogueService {
    /** An original with its versions. */
    record Pair(long frameId, String name, List<ReturnOnPage> versions) {
        public long kept() {
            return versions.stream().filter(version -> !version.discarded()).count();
        }

        /** The newest linear return that is there; null without one. */
        public Long newest() {
            return versions.stream()
                    .filter(version -> version.there() && version.form().linear())
                    .max(Comparator.comparingLong(ReturnOnPage::id))
                    .map(ReturnOnPage::id)
                    .orElse(null);
        }
    }

    private final Returns returns;

    CatalogueService(Returns returns) {
        this.returns = returns;
    }

    List<Pair> pairs(long shootId) {
        Map<Long, Pair> pairs = new LinkedHashMap<>();
        for (Returns.Version row : returns.versions(shootId)) {
            pairs.computeIfAbsent(row.frameId(), id -> new Pair(id, row.frame(), new ArrayList<>()))
                    .versions()
                    .add(onPage(row));
        }
        return List.copyOf(pairs.values());
    }

    private static ReturnOnPage onPage(Returns.Version row) {
        Path file = Path.of(row.path());
        boolean discarded = row.state().equals("discarded");
        boolean there = !discarded && Files.exists(file);
        String where;
        if (discarded) {
            where = "discarded";
        } else if (!there) {
            where = "■ not where it was put";
        } else if (row.pickedUp()) {
            where = "picked up: " + lastNames(file.getParent());
        } else {
            where = switch (row.destination()) {
                case Destinations.INBOX -> "waits in the inbox";
                case Destinations.BESIDE -> "beside its original";
                default -> "in " + lastNames(file.getParent());
            };
        }
        return new ReturnOnPage(
                row.id(),
                row.version(),
                row.form(),
                row.state(),
                file.getFileName().toString(),
                row.sizeBytes(),
                row.noiseLeft(),
                words(row.settings()),
                where,
                file.getParent().toString(),
                there);
    }

    private static String words(String settings) {
        try {
            return ReturnOnPage.inWords(ResolvedSettings.ofJson(settings));
        } catch (UnreadableSettingsException e) {
            return "settings of another version";
        }
    }

    /** A folder by its own name and its parent's; the page has the whole way down at hand. */
    private static String lastNames(Path folder) {
        int names = folder.getNameCount();
        return names <= 2 ? folder.toString() : folder.subpath(names - 2, names).toString();
    }

    /**
     * Keeps one version of a frame, in all forms that its run made of it, and moves the others out of the way; the original, and what a
     * catalogue took, is never touched.
     */
    void keep(long itemId) {
        long frame = returns.item(itemId).frameId();
        long run = returns.item(itemId).runId();
        int left = 0;
        for (Returns.Version other : returns.versionsOf(frame)) {
            if (other.runId() != run
                    && other.state().equals("returned")
                    && !other.pickedUp()
                    && !returns.discardOne(other.id())) {
                left++;
            }
        }
        if (left > 0) {
            throw new NotPossibleException(left + (left == 1 ? " version was" : " versions were")
                    + " left alone: not where it was put, or changed since.");
        }
    }

    void discard(long itemId) {
        if (!returns.discardOne(itemId)) {
            throw new NotPossibleException(
                    "This return was left alone: the catalogue has taken it, it is not where it was put, or it was changed since.");
        }
    }

    void bringBack(long itemId) {
        if (!returns.bringBackOne(itemId)) {
            throw new NotPossibleException("This return was not put back: its name is taken, or the file is gone.");
        }
    }
}
