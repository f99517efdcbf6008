package org.rainsieve.web.rendering;

import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.ReentrantReadWriteLock;

/**
 * Lets the person who is looking go before the run: between tiles, run work waits while pictures are asked for, but never longer
 * than twice as long as it has worked since it last waited: whoever looks all night does not hold a run up for good.
 */
public final class ViewerFirst {
    private static final long LONGEST_WAIT_MS = 5000;
    private static final int WAIT_FOR_WORK = 2;

    private final AtomicInteger looking = new AtomicInteger();
    /** Looking shares it; who needs all the room there is has it alone. */
    private final ReentrantReadWriteLock room = new ReentrantReadWriteLock(true);

    private long workedFrom = System.currentTimeMillis();

    void begin() {
        looking.incrementAndGet();
        room.readLock().lock();
    }

    void end() {
        room.readLock().unlock();
        looking.decrementAndGet();
    }

    /** Runs something while nobody looks; who wants to waits. */
    public void alone(Runnable work) {
        room.writeLock().lock();
        try {
            work.run();
        } finally {
            room.writeLock().unlock();
        }
    }

    public void waitForViewer() {
        if (room.isWriteLocked()) {
            return; // who has the room alone waits for nobody
        }
        long now = System.currentTimeMillis();
        long until;
        synchronized (this) {
            until = now + Math.min(LONGEST_WAIT_MS, WAIT_FOR_WORK * (now - workedFrom));
        }
        try {
            while (looking.get() > 0 && System.currentTimeMillis() < until) {
                Thread.sleep(5);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        synchronized (this) {
            long waited = System.currentTimeMillis();
            // Several threads wait at once: the work of all begins anew when the last one goes on.
            workedFrom = waited > now ? waited : workedFrom;
        }
    }
}
