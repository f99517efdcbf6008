package org.rainsieve.web.run;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalTime;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What workers do to items: which come next, whose they are, and what became of them. */
@Service
public class WorkQueue {
    /** Of a return whose grain was all kept; with the room that its directories and previews take. */
    private static final double LARGEST_BYTES_PER_PIXEL = 6;

    private final RunRepository repository;
    private final Workers workers;
    private final Returns returns;
    private final SieveProperties properties;
    private final QuietHours quiet;

    WorkQueue(RunRepository repository, Workers workers, Returns returns, SieveProperties properties) {
        this.repository = repository;
        this.workers = workers;
        this.returns = returns;
        this.properties = properties;
        this.quiet = QuietHours.parse(properties.quiet());
    }

    /**
     * Whether there is room for a return and what must stay free. Without it the item's run is halted with the reason, until
     * there is.
     *
     * @param folder where the return goes, or its parent while it does not exist
     * @param pixels of the return
     * @param bytes of what comes along with it
     */
    public boolean room(TakenItem item, Path folder, double pixels, long bytes) {
        long free = RunPlanning.free(Files.isDirectory(folder) ? folder : folder.getParent());
        long kept = (long) properties.keepFreeMb() << 20;
        double needed = LARGEST_BYTES_PER_PIXEL * pixels + bytes;
        boolean room = free < 0 || free - needed >= kept;
        repository.setHalted(
                item.runId(),
                room
                        ? null
                        : String.format(
                                Locale.ROOT,
                                "The disk of the returns has %.1f GB free, the next return needs up to %.1f GB and %.1f GB are"
                                        + " kept free. The run goes on by itself when there is room.",
                                free / 1e9,
                                needed / 1e9,
                                kept / 1e9));
        return room;
    }

    /** Says of an item's run what it waits for; told no more when there is room. */
    public void halted(TakenItem item, String why) {
        repository.setHalted(item.runId(), why);
    }

    /** The database's clock, in milliseconds since 1970. */
    public long clockMs() {
        return repository.clockMs();
    }

    /** Items to be done next, at most one for each worker; none in quiet hours. */
    public List<Long> next() {
        return quiet.at(LocalTime.now())
                ? List.of()
                : repository.next(Math.max(1, workers.workers().size()));
    }

    /** Items that some worker is at work on, or was when it ended; none in quiet hours. */
    public List<Long> taken() {
        return quiet.at(LocalTime.now()) ? List.of() : repository.taken();
    }

    /** Empty when there is nothing to do for it any more, or not now. */
    @Transactional
    public Optional<TakenItem> take(long itemId, long workerId) {
        return quiet.at(LocalTime.now()) ? Optional.empty() : repository.take(itemId, workerId);
    }

    public void progress(TakenItem item, double share) {
        repository.progress(item.id(), item.attempt(), share);
    }

    public boolean stillMine(TakenItem item) {
        return repository.stillMine(item.id(), item.attempt());
    }

    /** Whether there was such an attempt at an item, and nobody is at it any more. */
    public boolean abandoned(long itemId, int attempt) {
        return repository.abandoned(itemId, attempt);
    }

    public boolean wanted(TakenItem item) {
        return repository.wanted(item.id());
    }

    public int nextVersion(TakenItem item) {
        return repository.nextVersion(item.frameId(), item.form(), item.id());
    }

    @Transactional
    public boolean record(
            TakenItem item, int version, String finalPath, String hash, long size, ReturnWriter.Written written) {
        return repository.record(item.id(), item.attempt(), version, finalPath, hash, size, written);
    }

    public List<String> publications(TakenItem item, String finalPath) {
        return repository.publications(item.id(), finalPath);
    }

    /** The return stands; where its run says so, those of before make room for it. */
    public boolean returned(TakenItem item, String hash) {
        boolean mine = repository.returned(item.id(), item.attempt(), hash);
        if (mine) {
            repository.replacedBy(item.id()).forEach(returns::discardOne);
        }
        return mine;
    }

    public void failed(TakenItem item, String reason) {
        repository.failed(item.id(), item.attempt(), reason);
    }

    public void endedWorker(long itemId) {
        repository.endedWorker(itemId);
    }

    public void giveBack(TakenItem item) {
        repository.giveBack(item.id(), item.attempt());
    }

    /** Whether this engine's speed on this machine is known. */
    public boolean tried() {
        return !Double.isNaN(repository.trial(ResolvedSettings.ENGINE));
    }

    public void keepTrial(double slower) {
        repository.keepTrial(ResolvedSettings.ENGINE, slower);
    }
}
