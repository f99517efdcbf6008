package org.rainsieve.web.shoot;

import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.web.files.FolderService;
import org.rainsieve.web.files.ThumbnailStore;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Shoots: taking folders in and saying where their frames stand. */
@Service
public class ShootService {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final ShootRepository repository;
    private final FolderService folders;
    private final ThumbnailStore thumbnails;
    private final SieveProperties properties;

    ShootService(
            ShootRepository repository, FolderService folders, ThumbnailStore thumbnails, SieveProperties properties) {
        this.thumbnails = thumbnails;
        this.repository = repository;
        this.folders = folders;
        this.properties = properties;
    }

    public long takeIn(int root, String path, String name) {
        return takeIn(root, path, name, false);
    }

    /**
     * Registers the files of a folder as frames of one shoot; a folder taken in before only adds what is new.
     *
     * @param deep with all folders below it
     */
    @Transactional
    public long takeIn(int root, String path, String name, boolean deep) {
        Path folder = folders.resolve(root, path);
        List<FolderService.Found> found = folders.candidates(root, path, deep);
        if (found.isEmpty()) {
            throw new NotPossibleException("There are no files in that folder. Choose another one.");
        }
        if (folder.toString().length() > FolderService.LONGEST_PATH) {
            throw new NotPossibleException(
                    "The path of that folder is longer than 2,000 letters, more than is taken in."
                            + " Give the folders above it shorter names.");
        }
        String own = folder.getFileName().toString();
        String title = name == null || name.isBlank() ? own.substring(0, Math.min(200, own.length())) : name.strip();
        if (title.length() > 200) {
            throw new NotPossibleException("The name of a shoot may have at most 200 letters.");
        }
        repository.lockIntake();
        long id = repository
                .shootOfFolder(folder.toString())
                .orElseGet(() -> repository.addShoot(title, folder.toString()));
        found.forEach(file -> repository.addFrame(id, file));
        if (deep) {
            repository.setDeep(id);
        }
        return id;
    }

    /** A shoot without frames yet. */
    public long addShoot(String name, Path folder) {
        return repository.addShoot(name.substring(0, Math.min(200, name.length())), folder.toString());
    }

    @Transactional
    public void addFrames(long shootId, List<FolderService.Found> found) {
        found.forEach(file -> repository.addFrame(shootId, file));
    }

    /** Takes a file in that was handed over, into the shoot of its folder; says which frame it is. */
    @Transactional
    public long takeInFile(Path file) {
        Path folder = file.getParent();
        repository.lockIntake();
        long shoot = repository
                .shootOfFolder(folder.toString())
                .orElseGet(() -> addShoot(folder.getFileName().toString(), folder));
        repository.addFrame(shoot, new FolderService.Found(file, file.toFile().length()));
        long frame = repository.frameOf(shoot, file.toString());
        repository.setHandedOver(frame);
        return frame;
    }

    private static final int PICTURES = 5;

    /** As the first page lists them. */
    public List<ShootLine> lines() {
        Map<Long, List<Long>> pictures = repository.pictures(PICTURES);
        return shoots().stream()
                .map(row -> ShootLine.of(row, pictures.getOrDefault(row.id(), List.of())))
                .toList();
    }

    public List<ShootRow> shoots() {
        return repository.shoots();
    }

    /** Forgets a shoot, its readings and its thumbnails; originals and returns stay where they are. */
    @Transactional
    public void forget(long shootId) {
        shoot(shootId);
        if (repository.inWork(shootId)) {
            throw new NotPossibleException(
                    "A run of this shoot is not finished. Stop it or wait for its end; then the shoot can be forgotten.");
        }
        List<ShootRepository.Place> frames = repository.places(shootId);
        repository.forget(shootId);
        for (ShootRepository.Place frame : frames) {
            thumbnails.remove(frame.id());
        }
    }

    /** Names of the frames whose files are no longer where they were. */
    public List<String> missing(long shootId) {
        return gone(shootId).stream().map(ShootRepository.Place::name).toList();
    }

    private List<ShootRepository.Place> gone(long shootId) {
        return repository.places(shootId).stream()
                .filter(place -> !Files.exists(Path.of(place.path()), LinkOption.NOFOLLOW_LINKS))
                .toList();
    }

    /**
     * Looks for missing originals by name and size; their content is checked whenever they are opened.
     *
     * @return how many were found
     */
    @Transactional
    public int relocate(long shootId, int root, String path) {
        shoot(shootId);
        Path folder = folders.resolve(root, path);
        Map<String, Path> there = new HashMap<>();
        Set<String> several = new HashSet<>();
        for (FolderService.Found found : folders.candidates(root, path, true)) {
            String key = found.path().getFileName() + "\n" + found.sizeBytes();
            if (there.put(key, found.path()) != null) {
                several.add(key);
            }
        }
        int moved = 0;
        for (ShootRepository.Place place : gone(shootId)) {
            String key = place.name() + "\n" + place.sizeBytes();
            Path now = several.contains(key) ? null : there.get(key);
            moved += now != null && repository.move(place.id(), now.toString()) ? 1 : 0;
        }
        if (moved == 0) {
            throw new NotPossibleException(
                    "None of the missing originals was found there by its name and size. Nothing was changed.");
        }
        if (!Files.isDirectory(Path.of(shoot(shootId).folder()))) {
            repository.moveShoot(shootId, folder.toString());
        }
        return moved;
    }

    /** The folders that were taken in. */
    public List<Path> takenInFolders() {
        return repository.folders().stream().map(Path::of).toList();
    }

    public ShootRow shoot(long id) {
        return repository.shoot(id).orElseThrow(() -> new NotFoundException("There is no such shoot."));
    }

    public List<FrameRow> frames(long shootId) {
        return repository.frames(shootId);
    }

    /** One decision on several frames: {@code hold}, {@code accept}, {@code follow}. */
    @Transactional
    public void decideAll(long shootId, List<Long> frames, String decision) {
        frames.forEach(frame -> decide(shootId, frame, decision));
    }

    /** What the owner decides about a stray: {@code hold} it back, {@code accept} it, or {@code follow} as before. */
    public void decide(long shootId, long frameId, String decision) {
        String verdict = switch (decision) {
            case "hold" -> "held";
            case "accept" -> "accepted";
            case "follow" -> null;
            default -> throw new NotPossibleException("A frame can be held back, accepted or be taken along again.");
        };
        if (!repository.decide(shootId, frameId, verdict)) {
            throw new NotFoundException("There is no such frame in this shoot.");
        }
    }

    /**
     * What the owner thinks of frames at first sight: {@code keep}, {@code drop} (they stay out of runs) or {@code none}. Those of other
     * shoots are left alone.
     */
    @Transactional
    public void mark(long shootId, List<Long> frameIds, String mark) {
        if (!List.of("keep", "drop", "none").contains(mark)) {
            throw new NotPossibleException("A frame can be kept, dropped or neither.");
        }
        repository.mark(shootId, frameIds, mark.equals("none") ? null : mark);
    }

    /** Where a frame of that size is sharpest; nothing where its reading tells no focus. */
    public Optional<FocusMap.Place> sharpest(long frameId, int widthPx, int heightPx) {
        return focusMap(frameId).flatMap(map -> map.sharpest(widthPx, heightPx));
    }

    public Optional<FocusMap> focusMap(long frameId) {
        return repository.focusMap(frameId).map(FocusMap::parse);
    }

    /** Exposure indices of a camera's frames that follow their rungs. */
    public List<Double> exposureIndices(String camera) {
        return repository.exposureIndices(camera);
    }

    /** @param push in stops, or null for none */
    public void setPush(long frameId, Double push) {
        repository.setPush(frameId, checked(push), push == null ? null : "typed");
    }

    /** The same as its brightness proposes. */
    void setProposedPush(long frameId, double push) {
        repository.setPush(frameId, checked(push), "proposed");
    }

    /** The same for all frames of a camera at one ISO in a shoot; says how many. */
    public int setPushOf(long shootId, String camera, int iso, Double push) {
        return repository.setPushOf(shootId, camera, iso, checked(push));
    }

    private static Double checked(Double push) {
        if (push != null && !(Math.abs(push) <= 8)) {
            throw new NotPossibleException("A push must lie between -8 and 8 stops. Nothing was changed.");
        }
        return push;
    }

    /** What a frame holds of its own from now on; the state before can be undone to. */
    @Transactional
    public void setSteps(long frameId, FrameSteps steps) {
        frame(frameId);
        repository.addSteps(frameId, JSON.writeValueAsString(steps));
    }

    /** What is stored of a frame's own settings, understood; null stands for nothing. */
    public static FrameSteps steps(String stored) {
        return stored == null ? FrameSteps.NONE : JSON.readValue(stored, FrameSteps.class);
    }

    @Transactional
    public void undoSteps(long frameId) {
        if (!repository.undoSteps(frameId)) {
            throw new NotPossibleException("There is nothing to undo on this frame.");
        }
    }

    @Transactional
    public void redoSteps(long frameId) {
        if (!repository.redoSteps(frameId)) {
            throw new NotPossibleException("There is nothing to redo on this frame.");
        }
    }

    public int framesOf(String camera, String lens) {
        return repository.framesOf(camera, lens);
    }

    /** All frames with light that were read, also what was dropped or held back. */
    public List<FrameForWork> readFrames(long shootId) {
        return repository.readFrames(shootId);
    }

    /** Those that a run would take. */
    public List<FrameForWork> readyFrames(long shootId) {
        return repository.readyFrames(shootId);
    }

    /** Frames of a shoot that no run takes: dropped, held back (dark frames are, until accepted), or not read yet. */
    public record LeftOut(int dropped, int held, int unread) {}

    public LeftOut leftOut(long shootId) {
        return repository.leftOut(shootId);
    }

    public FrameForWork frame(long id) {
        return repository.frameForWork(id).orElseThrow(() -> new NotFoundException("There is no such frame."));
    }

    public Optional<Long> takeUnread(long workerId) {
        return repository.takeUnread(workerId, Math.max(60_000, properties.leaseMs()));
    }

    public void endedWorker(long frameId) {
        repository.endedWorker(frameId);
    }

    public void read(long frameId, ReadFrame read) {
        repository.read(frameId, read);
    }

    public void refuse(long frameId, String reason, boolean ownReturn) {
        repository.refuse(frameId, ownReturn ? "own" : "refused", reason);
    }

    public void tryAgain(long shootId) {
        repository.tryAgain(shootId);
    }

    /** A frame to be looked at. read: it was read before, and only its picture is wanted anew. */
    public record ToLookAt(long id, Path file, boolean read) {}

    @Transactional
    public List<ToLookAt> takeToLookAt(int most) {
        return repository.takeToLookAt(most);
    }

    @Transactional
    public void glanced(List<GlancedFrame> frames) {
        frames.forEach(repository::glanced);
    }

    /** The small picture of a frame. One that had to make room for others is made again. */
    public byte[] thumbnail(long frameId) {
        return thumbnails.get(frameId).orElseThrow(() -> {
            repository.lookAgain(frameId);
            return new NotFoundException("There is no thumbnail yet.");
        });
    }

    @Transactional
    public void watch(long shootId, boolean watched) {
        shoot(shootId);
        repository.setWatched(shootId, watched);
    }

    /**
     * Takes in what is new in watched folders, but files that are still being written.
     *
     * @param changedBefore only files last changed before
     * @return how many were new
     */
    public int takeInNew(Instant changedBefore) {
        int added = 0;
        for (ShootRepository.Watched watched : repository.watched()) {
            for (FolderService.Found found :
                    folders.settled(Path.of(watched.folder()), watched.deep(), changedBefore)) {
                added += repository.addFrame(watched.id(), found) ? 1 : 0;
            }
        }
        return added;
    }
}
