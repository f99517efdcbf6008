package org.rainsieve.web.worker;

import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.rainsieve.file.Sha256;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.web.catalogue.CatalogueClient;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.PausePoint;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.files.Temporaries;
import org.rainsieve.web.run.TakenItem;
import org.rainsieve.web.run.WorkQueue;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DuplicateKeyException;

/**
 * Puts a verified temporary file under its final name so that each item has exactly one return, whatever dies when:
 * the row records name, version and hash first; the name is given by a call that fails if it exists; whoever takes over
 * looks for the recorded name and hash and adopts what is there.
 */
final class Publisher {
    private static final Logger LOG = LoggerFactory.getLogger(Publisher.class);

    private final WorkQueue queue;
    private final Destinations destinations;
    private final CatalogueClient catalogue;
    private final PausePoint pausePoint;

    Publisher(WorkQueue queue, Destinations destinations, CatalogueClient catalogue, PausePoint pausePoint) {
        this.destinations = destinations;
        this.catalogue = catalogue;
        this.queue = queue;
        this.pausePoint = pausePoint;
    }

    /** The item belongs to someone else by now; nothing of ours was published. */
    static final class TakenOverException extends Exception {
        private static final long serialVersionUID = 1L;
    }

    /** Where the return will lie; made where it is missing. */
    Path folder(TakenItem item, Path original) throws IOException {
        return destinations.made(item.destination(), original);
    }

    /** The same, whether it is there or not. */
    Path wantedFolder(TakenItem item, Path original) {
        return destinations.folder(item.destination(), original);
    }

    /** Empties the folders for temporary files of what no worker holds any more; called when a worker starts. */
    void emptyTemporaries(List<Path> originals) {
        for (Path folder : destinations.all(originals)) {
            try {
                Temporaries.sweep(folder, queue::abandoned);
            } catch (IOException e) {
                LOG.info("The temporary files in {} cannot be removed now", folder);
            }
        }
    }

    /** Whether the original is in the catalogue already that returns go to. */
    boolean heldByCatalogue(TakenItem item, String sha256) {
        return item.destination().equals(Destinations.INBOX) && catalogue.held().containsKey(sha256);
    }

    /** If an earlier attempt had published already, the item is finished with its file. */
    boolean adopt(TakenItem item) throws IOException {
        if (item.finalPath() == null) {
            return false;
        }
        Optional<String> hash = ours(item, Path.of(item.finalPath()));
        if (hash.isEmpty()) {
            return false;
        }
        Temporaries.removeOf(Path.of(item.finalPath()).getParent(), item.id());
        queue.returned(item, hash.get());
        return true;
    }

    /** The hash of the file under that name if some attempt at this item made it. */
    private Optional<String> ours(TakenItem item, Path finalPath) throws IOException {
        List<String> known = queue.publications(item, finalPath.toString());
        if (known.isEmpty()) {
            return Optional.empty();
        }
        if (!Files.isRegularFile(finalPath)) {
            // A catalogue may have taken it out of its inbox before the row could say that it was returned.
            return item.destination().equals(Destinations.INBOX)
                    ? catalogue.held().keySet().stream().filter(known::contains).findFirst()
                    : Optional.empty();
        }
        String hash = Sha256.of(finalPath);
        return Set.copyOf(known).contains(hash) ? Optional.of(hash) : Optional.empty();
    }

    /** The first version from there on whose name nobody has. */
    int free(TakenItem item, Path folder, ReturnNames names, int from) throws IOException {
        int version = from;
        while (Files.exists(folder.resolve(names.name(version, item.form().ending())), LinkOption.NOFOLLOW_LINKS)) {
            version++;
        }
        return version;
    }

    /**
     * @param temporary a complete, verified and forced file
     * @param version that it tells of itself
     * @param hash of its bytes
     * @return false where the name of that version is somebody else's by now
     */
    boolean publish(
            TakenItem item,
            Path original,
            ReturnNames names,
            int version,
            Path temporary,
            String hash,
            ReturnWriter.Written written)
            throws IOException, TakenOverException {
        Path folder = folder(item, original);
        long size = Files.size(temporary);
        pausePoint.reach("verified");
        Path finalPath = folder.resolve(names.name(version, item.form().ending()));
        boolean recorded;
        try {
            recorded = queue.record(item, version, finalPath.toString(), hash, size, written);
        } catch (DuplicateKeyException e) {
            return false;
        }
        if (!recorded) {
            throw new TakenOverException();
        }
        pausePoint.reach("recorded");
        if (!queue.stillMine(item)) {
            throw new TakenOverException();
        }
        pausePoint.reach("checked");
        try {
            OwnFiles.publish(temporary, finalPath);
        } catch (FileAlreadyExistsException e) {
            Optional<String> before = ours(item, finalPath);
            if (before.isPresent()) {
                OwnFiles.remove(temporary);
                queue.returned(item, before.get());
                return true;
            }
            return false; // somebody else's file: never overwritten
        } catch (NoSuchFileException e) {
            throw new TakenOverException(); // whoever took over has removed our temporary file
        }
        OwnFiles.force(folder);
        pausePoint.reach("linked");
        OwnFiles.remove(temporary);
        Temporaries.removeOf(folder, item.id());
        pausePoint.reach("unlinked");
        queue.returned(item, hash);
        return true;
    }
}
