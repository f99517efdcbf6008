package org.rainsieve.web.run;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import org.rainsieve.web.files.Discarded;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.stereotype.Service;

/** Returns as versions of their frames: which there are, discarding them and bringing them back, and what a catalogue took. */
@Service
public class Returns {
    private final RunRepository repository;
    private final RunService runs;

    Returns(RunRepository repository, RunService runs) {
        this.repository = repository;
        this.runs = runs;
    }

    public ItemRow item(long id) {
        return repository.item(id).orElseThrow(() -> new NotFoundException("There is no such return."));
    }

    /** Moves all returns of an ended run out of the way; originals are never touched. */
    public void discard(long runId) {
        if (runs.run(runId).open()) {
            throw new NotPossibleException("This run is at work still. Stop it first.");
        }
        movedAll(
                runId,
                "returned",
                "discarded",
                Returns::put,
                " left alone: in the catalogue, not where it was put, or changed since.");
    }

    /** What a catalogue took is the catalogue's. */
    private static boolean put(ItemRow item) throws IOException {
        return !item.pickedUp() && Discarded.put(Path.of(item.finalPath()), item.id(), item.sizeBytes(), item.hash());
    }

    /** Puts what was discarded back where it lay. */
    public void bringBack(long runId) {
        movedAll(
                runId,
                "discarded",
                "returned",
                item -> Discarded.bringBack(Path.of(item.finalPath()), item.id()),
                " not put back: the name is taken, or the file is gone.");
    }

    /** A return as one of the versions of its frame. */
    public record Version(
            long id,
            long runId,
            long frameId,
            String frame,
            int version,
            ReturnForm form,
            String state,
            Long sizeBytes,
            Double noiseLeft,
            String settings,
            String path,
            boolean pickedUp,
            String destination) {}

    /** All returns of a shoot's frames, discarded ones too, frame by frame. */
    public List<Version> versions(long shootId) {
        return repository.versions(shootId);
    }

    public FrameReturn newestOf(long frameId) {
        return repository.newestOf(frameId).orElse(FrameReturn.NONE);
    }

    public List<Version> versionsOf(long frameId) {
        return repository.versionsOf(frameId);
    }

    /** A return that was put into a catalogue's inbox and not picked up as far as is known. */
    public record InInbox(long id, String path, String hash, long sizeBytes) {}

    public List<InInbox> inInbox() {
        return repository.inInbox();
    }

    public void pickedUp(long itemId, Path place) {
        repository.pickedUp(itemId, place.toString());
    }

    /** @return false when the file is not the one that was put there; it is left alone then */
    public boolean discardOne(long itemId) {
        ItemRow item = item(itemId);
        return movedOne(item, "returned", "discarded", Returns::put);
    }

    public boolean bringBackOne(long itemId) {
        ItemRow item = item(itemId);
        return movedOne(item, "discarded", "returned", one -> Discarded.bringBack(Path.of(one.finalPath()), one.id()));
    }

    private boolean movedOne(ItemRow item, String from, String to, Move move) {
        try {
            if (!item.state().equals(from) || item.finalPath() == null || !move.done(item)) {
                return false;
            }
            repository.setItemState(item.id(), from, to);
            return true;
        } catch (IOException e) {
            return false;
        }
    }

    private interface Move {
        boolean done(ItemRow item) throws IOException;
    }

    private void movedAll(long runId, String from, String to, Move move, String otherwise) {
        int left = 0;
        for (ItemRow item : repository.items(runId)) {
            if (!item.state().equals(from) || item.finalPath() == null) {
                continue;
            }
            if (!movedOne(item, from, to, move)) {
                left++;
            }
        }
        if (left > 0) {
            throw new NotPossibleException(left + (left == 1 ? " return" : " returns") + " of this run" + otherwise);
        }
    }
}
