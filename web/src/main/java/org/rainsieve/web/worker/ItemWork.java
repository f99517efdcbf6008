package org.rainsieve.web.worker;

import java.io.IOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.FileSystemException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.delivery.Delivery;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.delivery.DeliveryVerifier;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.CancelledException;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.opening.Glance;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.source.ShotTags;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.catalogue.CatalogueClient;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.Obstacle;
import org.rainsieve.web.files.OriginalAlong;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.PausePoint;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.files.SharedDecoder;
import org.rainsieve.web.files.Temporaries;
import org.rainsieve.web.rendering.ViewerFirst;
import org.rainsieve.web.run.ItemRow;
import org.rainsieve.web.run.ReturnForm;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.run.TakenItem;
import org.rainsieve.web.run.WorkQueue;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.transaction.TransactionException;
import tools.jackson.databind.json.JsonMapper;

/** Takes one item through: open, write to a temporary file, verify, publish. Every way out is recorded. */
final class ItemWork {
    private static final Logger LOG = LoggerFactory.getLogger(ItemWork.class);
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final WorkQueue queue;
    private final Returns returns;
    private final ShootService shoots;
    private final BookService book;
    private final Publisher publisher;
    private static final long LOOK_FOR_ROOM_MS = 2000;

    private final PausePoint pausePoint;
    private final WorkingMemory memory;
    private final ViewerFirst viewerFirst;
    private final SieveProperties properties;
    private volatile boolean ending;

    ItemWork(
            WorkQueue queue,
            Returns returns,
            ShootService shoots,
            BookService book,
            Destinations destinations,
            CatalogueClient catalogue,
            PausePoint pausePoint,
            WorkingMemory memory,
            ViewerFirst viewerFirst,
            SieveProperties properties) {
        this.queue = queue;
        this.returns = returns;
        this.shoots = shoots;
        this.book = book;
        this.publisher = new Publisher(queue, destinations, catalogue, pausePoint);
        this.pausePoint = pausePoint;
        this.memory = memory;
        this.viewerFirst = viewerFirst;
        this.properties = properties;
    }

    /** Gives back what is worked on, after the tile at hand. */
    void end() {
        ending = true;
    }

    void start() {
        publisher.emptyTemporaries(shoots.takenInFolders());
    }

    void work(TakenItem item) {
        try {
            tried(item);
        } catch (OutOfMemoryError e) {
            // Once more with all the room there is, before a frame is called too large.
            LOG.warn("Item {} ran out of memory and is tried again alone", item.id(), e);
            viewerFirst.alone(() -> {
                memory.clear();
                try {
                    tried(item);
                } catch (OutOfMemoryError again) {
                    queue.failed(
                            item,
                            "The frame is too large for the memory that the worker may use. Give it more with SIEVE_MEMORY_MB.");
                }
            });
        }
    }

    private void tried(TakenItem item) {
        FrameForWork frame = shoots.frame(item.frameId());
        Path folder = null;
        try {
            if (publisher.adopt(item)) {
                return;
            }
            ResolvedSettings settings = ResolvedSettings.ofJson(item.settings());
            folder = publisher.folder(item, frame.file());
            EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), settings.crop(), settings.enlarge());
            long along = item.copyOriginals() && Files.exists(frame.file()) ? Files.size(frame.file()) : 0;
            if (!queue.room(item, folder, (double) size.width() * size.height(), along)) {
                queue.giveBack(item);
                waitForRoom();
                return;
            }
            ReturnNames names = ReturnNames.of(item.naming(), frame.named()).of(settings, delivered(item, frame, size));
            int version = item.version() != null ? item.version() : queue.nextVersion(item);
            while (true) {
                version = publisher.free(item, folder, names, version);
                Path temporary = Temporaries.prepare(folder, item.id(), item.attempt());
                Made made;
                try (WorkingMemory.Hold room = memory.hold(room(frame))) {
                    made = made(item, frame, settings, version, folder, temporary);
                }
                if (publisher.publish(item, frame.file(), names, version, temporary, made.hash, made.written)) {
                    return;
                }
                // The name was taken meanwhile; what stands in the file is the version that its name tells.
                OwnFiles.remove(temporary);
                version++;
            }
        } catch (Publisher.TakenOverException e) {
            LOG.info("Item {} was taken over by another worker", item.id());
            remove(item, folder);
        } catch (CancelledException e) {
            remove(item, folder);
            queue.giveBack(item);
        } catch (RefusedException | NotPossibleException e) {
            remove(item, folder);
            queue.failed(item, e.getMessage());
        } catch (IOException e) {
            remove(item, folder);
            String obstacle = Obstacle.inWords(publisher.wantedFolder(item, frame.file()));
            if (obstacle != null) {
                // Not this frame's fault, and not its end.
                queue.halted(item, obstacle);
                queue.giveBack(item);
                waitForRoom();
            } else if (!(e instanceof NoSuchFileException) || queue.stillMine(item)) {
                LOG.warn("Item {} failed", item.id(), e);
                queue.failed(item, inWords(e));
            }
        } catch (DataAccessException | TransactionException e) {
            // The frame is not at fault: it is taken again when the database answers.
            remove(item, folder);
            throw e;
        } catch (RuntimeException e) {
            LOG.error("Item {} failed", item.id(), e);
            remove(item, folder);
            queue.failed(
                    item, "Something went wrong inside Rain Sieve. Try again; if it stays, report it with the log.");
        } catch (OutOfMemoryError e) {
            remove(item, folder);
            throw e;
        }
    }

    /**
     * What working on a frame takes beside its tiles, in bytes: the file, its pixels and, while it is opened, once more as many.
     */
    private static long room(FrameForWork frame) {
        boolean colour = frame.pattern() == null || frame.pattern().equals(CfaPattern.NONE.toString());
        return frame.sizeBytes() + (colour ? 12L : 4L) * frame.width() * frame.height();
    }

    /** The size of a return in its form: copies may be reduced. */
    private static EnlargeSettings.Size delivered(TakenItem item, FrameForWork frame, EnlargeSettings.Size size) {
        if (item.form().linear() || item.delivery() == null || frame.comesBackAsTiff()) {
            return size;
        }
        double longest = Math.max(size.width(), size.height());
        int edge = JSON.readValue(item.delivery(), DeliverySettings.class).longEdgePx();
        double scale = edge == 0 ? 1 : Math.min(1, edge / longest);
        return new EnlargeSettings.Size((int) Math.max(1, Math.round(scale * size.width())), (int)
                Math.max(1, Math.round(scale * size.height())));
    }

    /** A complete, verified temporary file. */
    private record Made(String hash, ReturnWriter.Written written) {}

    private Made made(
            TakenItem item, FrameForWork frame, ResolvedSettings settings, int version, Path folder, Path temporary)
            throws IOException, RefusedException {
        for (int attempt = 0; ; attempt++) {
            try {
                ItemRow source = item.madeFrom() == null ? null : returns.item(item.madeFrom());
                boolean ofThisRun = source != null && source.runId() == item.runId();
                // Without the linear DNG of its run it is made from the original, as if it were the only form.
                return source == null || ofThisRun && !stands(source)
                        ? fromOriginal(item, frame, settings, version, folder, temporary)
                        : fromReturn(item, source, settings.enlarge(), temporary);
            } catch (NoSuchFileException e) {
                // Another worker has just removed the empty folder for temporary files.
                if (attempt > 5 || Files.exists(temporary.getParent()) || !queue.stillMine(item)) {
                    throw e;
                }
                Temporaries.make(folder);
            }
        }
    }

    private Made fromOriginal(
            TakenItem item, FrameForWork frame, ResolvedSettings settings, int version, Path folder, Path temporary)
            throws IOException, RefusedException {
        RawOpener.Opened opened = RawOpener.open(frame.file(), SharedDecoder.get());
        if (!opened.sha256().equals(frame.sha256())) {
            throw new RefusedException("The original has changed since it was read. Take its folder in again.");
        }
        boolean developed = !item.form().linear();
        Path linear = developed ? linear(temporary) : temporary;
        ReturnWriter.Written written = write(item, frame, opened, settings, version, linear);
        String hash = ReturnVerifier.verify(linear, written.width(), written.height(), properties.verifyEveryTile());
        if (developed) {
            hash = develop(item, frame, opened, settings.enlarge(), linear, temporary);
        }
        if (item.copyOriginals() && !publisher.heldByCatalogue(item, opened.sha256())) {
            // Before the return is there: a catalogue that finds it finds its original, too.
            OriginalAlong.copy(frame.file(), opened.sha256(), folder, beside(temporary, "-original"));
        }
        return new Made(hash, written);
    }

    private static boolean stands(ItemRow from) {
        return from.state().equals("returned")
                && from.finalPath() != null
                && Files.isRegularFile(Path.of(from.finalPath()), LinkOption.NOFOLLOW_LINKS);
    }

    /** A copy for delivery, or a further form of the same run: developed from a return that was made before. */
    private static Made fromReturn(TakenItem item, ItemRow from, EnlargeSettings enlarge, Path temporary)
            throws IOException, RefusedException {
        Path returned = Path.of(from.finalPath());
        if (!stands(from)) {
            throw new RefusedException("The return that this is a copy of is not there any more.");
        }
        if (!Sha256.of(returned).equals(from.hash())) {
            throw new RefusedException(
                    "The return that this is a copy of was changed by another program. Make it again first.");
        }
        CameraColour colour;
        try (LinearDngFile file = LinearDngFile.open(returned)) {
            colour = ShotTags.colour(file.main());
        }
        DeliverySettings settings = item.form().of(JSON.readValue(item.delivery(), DeliverySettings.class));
        if (from.runId() == item.runId() && enlarge.on() && enlarge.by() == EnlargeSettings.By.PRINT_CM) {
            settings = settings.atPpi(enlarge.ppi());
        }
        Delivery.Size size = Delivery.writeReturn(returned, colour, settings, null, temporary);
        String hash = DeliveryVerifier.verify(temporary, settings.form(), size.width(), size.height());
        return new Made(
                hash,
                new ReturnWriter.Written(
                        from.noiseLeft() == null ? Double.NaN : from.noiseLeft(),
                        from.grain() == null ? Double.NaN : from.grain(),
                        size.width(),
                        size.height(),
                        List.of()));
    }

    /** The linear DNG that a return of another form is developed from. */
    private static Path linear(Path temporary) {
        return beside(temporary, "-linear");
    }

    private static Path beside(Path temporary, String what) {
        return temporary.resolveSibling(temporary.getFileName().toString().replace(".part", what + ".part"));
    }

    /** @return hash of the verified file */
    private static String develop(
            TakenItem item, FrameForWork frame, RawOpener.Opened opened, EnlargeSettings enlarge, Path linear, Path to)
            throws IOException, RefusedException {
        try {
            DeliverySettings run = JSON.readValue(item.delivery(), DeliverySettings.class);
            DeliverySettings settings = item.form().of(frame.comesBackAsTiff() ? run.atOwnSize() : run);
            if (enlarge.on() && enlarge.by() == EnlargeSettings.By.PRINT_CM) {
                settings = settings.atPpi(enlarge.ppi());
            }
            Delivery.Size size = Delivery.writeReturn(
                    linear,
                    opened.frame().colour(),
                    settings,
                    item.form() == ReturnForm.TIFF ? opened.frame().profile() : null,
                    to);
            return DeliveryVerifier.verify(to, settings.form(), size.width(), size.height());
        } finally {
            OwnFiles.remove(linear);
        }
    }

    private static String inWords(IOException e) {
        if (e instanceof NoSuchFileException) {
            return "The destination folder is not there any more.";
        }
        if (e instanceof AccessDeniedException) {
            return "Rain Sieve is not allowed to write into the destination folder. Check its permissions.";
        }
        return e instanceof FileSystemException
                ? "The return could not be written. Check the disk that it was to go to, and try again."
                : String.valueOf(e.getMessage());
    }

    /** Room is looked for again in a while, by whoever takes the item next. */
    private static void waitForRoom() {
        try {
            Thread.sleep(LOOK_FOR_ROOM_MS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private ReturnWriter.Written write(
            TakenItem item,
            FrameForWork frame,
            RawOpener.Opened opened,
            ResolvedSettings settings,
            int version,
            Path file)
            throws IOException, RefusedException {
        Cancel cancel = () -> {
            viewerFirst.waitForViewer();
            return ending || !queue.wanted(item);
        };
        ReturnWriter.Order order = new ReturnWriter.Order(
                frame.name(),
                opened.sha256(),
                settings,
                book.defectMap(settings.defects()),
                version,
                item.form() == ReturnForm.COMPACT,
                new ReturnWriter.Carried(Glance.sidecar(frame.file()), item.carryEdits(), item.notePush()));
        return ReturnWriter.write(opened.frame(), order, file, memory, cancel, share -> {
            queue.progress(item, share);
            pausePoint.reach("writing");
        });
    }

    private static void remove(TakenItem item, Path folder) {
        if (folder != null) {
            try {
                Temporaries.removeOf(folder, item.id(), item.attempt());
            } catch (IOException e) {
                LOG.warn("A temporary file could not be removed", e);
            }
        }
    }
}
