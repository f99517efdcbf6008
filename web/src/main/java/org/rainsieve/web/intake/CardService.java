package org.rainsieve.web.intake;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.rainsieve.file.Sha256;
import org.rainsieve.web.files.FolderService;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.Temporaries;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Service;

/**
 * Copies cards: every file is hashed while it is read, written, read back and compared; a file whose content was copied
 * before is left out. A copy that broke off goes on where it was. Nothing on a card is ever changed or deleted.
 */
@Service
public class CardService {
    private static final Logger LOG = LoggerFactory.getLogger(CardService.class);

    private static final int TRIES = 3;
    private static final int BUFFER = 1 << 18;
    private static final int JOBS_KEPT = 20;

    private final CardReader reader;
    private final CardRepository repository;
    private final IntakeService intake;
    private final ShootService shoots;
    private final Map<Long, Job> jobs = new ConcurrentHashMap<>();
    private final ExecutorService copies = Executors.newSingleThreadExecutor();

    CardService(CardReader reader, CardRepository repository, IntakeService intake, ShootService shoots) {
        this.reader = reader;
        this.repository = repository;
        this.intake = intake;
        this.shoots = shoots;
    }

    @PreDestroy
    void close() {
        jobs.values().forEach(job -> job.cancelled = true);
        copies.shutdown();
    }

    /** @param goesOn whether an earlier copy of it broke off */
    public record Card(int index, String name, int files, long bytes, boolean goesOn) {}

    public List<Card> cards() {
        List<Card> cards = new ArrayList<>();
        List<Path> found = reader.cards();
        for (int i = 0; i < found.size(); i++) {
            try {
                List<Path> files = reader.files(found.get(i));
                long bytes = 0;
                for (Path file : files) {
                    bytes += Files.size(file);
                }
                cards.add(new Card(
                        i,
                        found.get(i).getFileName().toString(),
                        files.size(),
                        bytes,
                        repository.unfinished(found.get(i).toString()).isPresent()));
            } catch (IOException e) {
                // Pulled out while it was looked at.
            }
        }
        return cards;
    }

    /** How far a copy is; read again and again while it goes on. */
    public static final class Job {
        private final long id;
        private final long shoot;
        private final int files;
        private final long bytes;
        private volatile int copied;
        private volatile int already;
        private volatile long bytesDone;
        private volatile boolean done;
        private volatile boolean cancelled;
        private final List<String> problems = java.util.Collections.synchronizedList(new ArrayList<>());
        private final List<String> readAgain = java.util.Collections.synchronizedList(new ArrayList<>());

        Job(long id, long shoot, int files, long bytes) {
            this.id = id;
            this.shoot = shoot;
            this.files = files;
            this.bytes = bytes;
        }

        public Map<String, Object> told() {
            return Map.of(
                    "id",
                    id,
                    "shoot",
                    shoot,
                    "files",
                    files,
                    "bytes",
                    bytes,
                    "copied",
                    copied,
                    "already",
                    already,
                    "bytesDone",
                    bytesDone,
                    "done",
                    done,
                    "problems",
                    List.copyOf(problems),
                    "readAgain",
                    List.copyOf(readAgain));
        }
    }

    /** Begins to copy a card into a shoot of its own, or goes on with a copy of it that broke off. */
    public Job begin(int index, String name) {
        List<Path> cards = reader.cards();
        if (index < 0 || index >= cards.size()) {
            throw new NotPossibleException("That card is not in the reader any more. Put it in and try again.");
        }
        Path card = cards.get(index);
        try {
            List<Path> files = reader.files(card);
            long bytes = 0;
            for (Path file : files) {
                bytes += Files.size(file);
            }
            if (files.isEmpty()) {
                throw new NotPossibleException("The card is empty.");
            }
            CardRepository.Copy copy = repository
                    .unfinished(card.toString())
                    .orElseGet(() -> repository.begin(
                            card.toString(),
                            intake.beginUpload(name == null || name.isBlank() ? "Card " + card.getFileName() : name)));
            if (jobs.containsKey(copy.id()) && !jobs.get(copy.id()).done) {
                return jobs.get(copy.id());
            }
            if (jobs.size() > JOBS_KEPT) {
                jobs.values().removeIf(job -> job.done);
            }
            Job job = new Job(copy.id(), copy.shootId(), files.size(), bytes);
            jobs.put(copy.id(), job);
            copies.submit(() -> copy(card, files, job));
            return job;
        } catch (IOException e) {
            throw new NotPossibleException("The card cannot be read. Put it in again and try again.");
        }
    }

    public Job job(long id) {
        Job job = jobs.get(id);
        if (job == null) {
            throw new NotFoundException("There is no such copy.");
        }
        return job;
    }

    /** Ends a copy after the file it is at; taken up again it goes on from there. */
    public void cancel(long id) {
        job(id).cancelled = true;
    }

    /** What stands in a way that is not a single file's. */
    private static final String NOT_COPIED =
            "The copy could not go on. Begin it again; what was copied is not copied twice.";

    private void copy(Path card, List<Path> files, Job job) {
        try {
            Path folder = Path.of(shoots.shoot(job.shoot).folder());
            for (Path file : files) {
                if (job.cancelled) {
                    break;
                }
                copy(card, file, folder, job);
            }
            if (!job.cancelled && job.problems.isEmpty()) {
                repository.finished(job.id);
            }
        } catch (RuntimeException e) {
            LOG.warn("The copy of {} could not go on", card, e);
            job.problems.add(NOT_COPIED);
        } finally {
            job.done = true;
        }
    }

    private void copy(Path card, Path file, Path folder, Job job) {
        String name = card.relativize(file).toString();
        try {
            long size = Files.size(file);
            copyOne(file, name, folder, job);
            job.bytesDone += size;
        } catch (NotPossibleException e) {
            job.problems.add(name + ": " + e.getMessage());
        } catch (UnreadableException e) {
            job.problems.add(
                    name + ": could not be read in " + TRIES + " tries. Clean the card's contacts and copy it again.");
        } catch (IOException | RuntimeException e) {
            LOG.warn("{} could not be copied", file, e);
            job.problems.add(name + ": could not be written into " + folder + ". Check the disk, and copy it again.");
        }
    }

    /** The card is at fault, not the disk. */
    private static final class UnreadableException extends IOException {
        private static final long serialVersionUID = 1L;

        UnreadableException(String message, Throwable cause) {
            super(message, cause);
        }
    }

    private static int read(InputStream in, byte[] buffer) throws UnreadableException {
        try {
            return in.read(buffer, 0, buffer.length);
        } catch (IOException e) {
            throw new UnreadableException("The card cannot be read", e);
        }
    }

    private InputStream opened(Path file) throws UnreadableException {
        try {
            return reader.open(file);
        } catch (IOException e) {
            throw new UnreadableException("The card cannot be read", e);
        }
    }

    private void copyOne(Path file, String name, Path folder, Job job) throws IOException {
        Path part = folder.resolve(Temporaries.FOLDER + "-card");
        for (int attempt = 1; ; attempt++) {
            try {
                intake.checkRoom(folder, Files.size(file));
                OwnFiles.remove(part); // of a copy that was cut short
                String hash = written(file, part);
                if (!hash.equals(Sha256.of(part))) {
                    throw new UnreadableException("What was written is not what was read", null);
                }
                publish(file, part, folder, hash, job);
                return;
            } catch (IOException e) {
                if (attempt == TRIES) {
                    throw e;
                }
                job.readAgain.add(name);
            } finally {
                OwnFiles.remove(part);
            }
        }
    }

    private String written(Path file, Path part) throws IOException {
        MessageDigest digest = Sha256.digest();
        byte[] buffer = new byte[BUFFER];
        try (InputStream in = opened(file);
                OutputStream out = OwnFiles.create(part)) {
            for (int n = read(in, buffer); n >= 0; n = read(in, buffer)) {
                digest.update(buffer, 0, n);
                out.write(buffer, 0, n);
            }
        }
        OwnFiles.forceFile(part);
        return Sha256.hex(digest);
    }

    /** Gives the file its name, with its folder on the card where that name is taken by another file. */
    private void publish(Path file, Path part, Path folder, String hash, Job job) throws IOException {
        boolean there = repository
                .copied(hash)
                .map(path -> Files.isRegularFile(Path.of(path)))
                .orElse(false);
        if (there) {
            job.already++;
            return;
        }
        Path target = folder.resolve(file.getFileName());
        try {
            OwnFiles.publish(part, target);
        } catch (FileAlreadyExistsException e) {
            target = folder.resolve(file.getParent().getFileName() + " " + file.getFileName());
            OwnFiles.publish(part, target);
        }
        OwnFiles.setTime(target, Files.getLastModifiedTime(file));
        repository.add(hash, target.toString());
        shoots.addFrames(job.shoot, List.of(new FolderService.Found(target, Files.size(target))));
        job.copied++;
    }
}
