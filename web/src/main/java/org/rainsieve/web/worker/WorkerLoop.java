package org.rainsieve.web.worker;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.ReentrantLock;
import javax.sql.DataSource;
import org.rainsieve.pipeline.SpeedTrial;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.catalogue.CatalogueClient;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.PausePoint;
import org.rainsieve.web.files.ThumbnailStore;
import org.rainsieve.web.rendering.PictureServer;
import org.rainsieve.web.rendering.ViewerFirst;
import org.rainsieve.web.run.HeldMemory;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.run.WorkQueue;
import org.rainsieve.web.run.Workers;
import org.rainsieve.web.setup.SieveProperties;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.annotation.Profile;
import org.springframework.context.event.EventListener;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * The worker process, until it is ended: looks at new frames and reads them, and does the items that it is woken for, one
 * thing at a time. Waits when the database is away.
 */
@Component
@Profile("worker")
class WorkerLoop {
    private static final Logger LOG = LoggerFactory.getLogger(WorkerLoop.class);
    private static final Duration LONGEST_TILE = Duration.ofSeconds(20);
    private static final long IDLE_MS = 300;
    private static final int IDLE_BEFORE_TRIAL = 5;

    /** Exit status of a process that ends itself after an error. */
    private static final int HALTED = 70;

    private final Returns returns;
    private final WorkQueue queue;
    private final Workers workers;
    private final ShootService shoots;
    private final BookService book;
    private final ThumbnailStore thumbnails;
    private final Destinations destinations;
    private final CatalogueClient catalogue;
    private final SieveProperties properties;
    private final PausePoint pausePoint;
    /** Whether this machine is to be tried out still. */
    private boolean trial;

    private final DataSource database;
    private final ReentrantLock turn = new ReentrantLock(true);
    private final ScheduledExecutorService heart = Executors.newSingleThreadScheduledExecutor();
    private volatile long frameAtHand;
    private volatile long itemAtHand;
    private volatile boolean ending;
    private volatile long id;
    private volatile PictureServer pictures;
    private final WorkingMemory memory = WorkingMemory.ofThisProcess();
    private volatile FrameLooking looking;
    private volatile FrameReading reading;
    private volatile ItemWork work;
    private volatile Waking waking;
    private volatile Thread thread;

    WorkerLoop(
            Returns returns,
            WorkQueue queue,
            Workers workers,
            ShootService shoots,
            BookService book,
            ThumbnailStore thumbnails,
            Destinations destinations,
            CatalogueClient catalogue,
            SieveProperties properties,
            DataSource database,
            @Value("${sieve.pause-in:}") String pauseIn,
            @Value("${sieve.trial:true}") boolean trial) {
        this.returns = returns;
        this.queue = queue;
        this.workers = workers;
        this.shoots = shoots;
        this.book = book;
        this.thumbnails = thumbnails;
        this.destinations = destinations;
        this.catalogue = catalogue;
        this.properties = properties;
        this.database = database;
        this.pausePoint = new PausePoint(pauseIn);
        this.trial = trial;
    }

    @EventListener(ApplicationReadyEvent.class)
    void start() throws IOException {
        // A worker that lost a thread to an error would go on beating without working: it ends, and is started again.
        Thread.setDefaultUncaughtExceptionHandler((thread, error) -> halt("in thread " + thread.getName(), error));
        ViewerFirst viewerFirst = new ViewerFirst();
        pictures = new PictureServer(returns, shoots, book, memory, viewerFirst);
        id = workers.addWorker(pictures.address(), pictures.secret());
        heart.scheduleAtFixedRate(
                this::beat, properties.heartbeatMs(), properties.heartbeatMs(), TimeUnit.MILLISECONDS);
        looking = new FrameLooking(shoots, book, thumbnails);
        reading = new FrameReading(shoots, book, thumbnails, memory);
        work = new ItemWork(
                queue, returns, shoots, book, destinations, catalogue, pausePoint, memory, viewerFirst, properties);
        waking = new Waking(database, queue, properties, LONGEST_TILE, "worker " + id, this::item);
        thread = new Thread(this::loop, "worker");
        thread.setDaemon(false);
        thread.start();
        LOG.info("Worker {} is ready", id);
    }

    /** Ends the process at once: after an error nothing in it is to be relied on. What it held is taken over by the next. */
    private void halt(String where, Throwable error) {
        try {
            // A frame that does this again and again is set aside, while others go on.
            if (frameAtHand != 0) {
                shoots.endedWorker(frameAtHand);
            }
            if (itemAtHand != 0) {
                queue.endedWorker(itemAtHand);
            }
            LOG.error("The worker ends {}: it met an error that it cannot go on after", where, error);
        } finally {
            Runtime.getRuntime().halt(HALTED);
        }
    }

    private void beat() {
        try {
            Runtime process = Runtime.getRuntime();
            workers.heartbeat(
                    id,
                    new HeldMemory(memory.used(), process.totalMemory() - process.freeMemory(), process.maxMemory()));
        } catch (DataAccessException e) {
            LOG.warn("The database does not answer; trying again");
        }
    }

    private void loop() {
        try {
            work.start();
        } catch (DataAccessException e) {
            LOG.warn("The database does not answer; temporary files are looked for at the next start");
        }
        waking.start();
        int idle = 0;
        while (!ending) {
            try {
                if (frame()) {
                    idle = 0;
                    continue;
                }
                waking.feed();
                Thread.sleep(IDLE_MS);
                if (++idle == IDLE_BEFORE_TRIAL) {
                    tryOut();
                }
            } catch (DataAccessException e) {
                LOG.warn("The database does not answer; trying again");
                pause();
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException e) {
                LOG.error("The worker goes on after an error", e);
                pause();
            } catch (Error e) {
                halt("while it looked at a frame", e);
            }
        }
    }

    /** Once for an engine: so that times can be told before anything was made. */
    private void tryOut() {
        turn.lock();
        try {
            if (ending || !trial) {
                return;
            }
            if (!queue.tried()) {
                queue.keepTrial(SpeedTrial.slower());
            }
            trial = false;
        } finally {
            turn.unlock();
        }
    }

    /** @return whether there was a frame to look at or to read */
    private boolean frame() {
        turn.lock();
        try {
            if (ending) {
                return false;
            }
            if (looking.lookAtSome()) {
                return true;
            }
            Optional<Long> unread = shoots.takeUnread(id);
            unread.ifPresent(frame -> {
                frameAtHand = frame;
                reading.read(frame);
            });
            frameAtHand = 0;
            return unread.isPresent();
        } finally {
            turn.unlock();
        }
    }

    private void item(long item) {
        turn.lock();
        try {
            while (frame()) {
                LOG.debug("New frames come before those of a run");
            }
            if (!ending) {
                itemAtHand = item;
                queue.take(item, id).ifPresent(work::work);
            }
        } catch (Error e) {
            halt("while it worked on item " + item, e);
        } finally {
            itemAtHand = 0;
            turn.unlock();
        }
    }

    private static void pause() {
        try {
            Thread.sleep(2000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** The tile at hand is finished: native code must not lose the ground under it while the process ends. */
    private void join() {
        if (thread != null) {
            try {
                thread.join(LONGEST_TILE.toMillis());
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }

    @PreDestroy
    void end() {
        ending = true;
        if (work != null) {
            work.end();
        }
        if (waking != null) {
            waking.stop();
        }
        join();
        heart.shutdownNow();
        if (pictures != null) {
            pictures.close();
        }
        if (id != 0) {
            try {
                workers.removeWorker(id);
            } catch (DataAccessException e) {
                LOG.debug("The database is gone already", e);
            }
        }
    }
}
