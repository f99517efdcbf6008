package org.rainsieve.web.worker;

import java.util.concurrent.atomic.AtomicInteger;

/** Lets the person who is looking go before the run: between tiles, run work waits while pictures are asked for. */
final class ViewerFirst {
    private static final long LONGEST_WAIT_MS = 5000;

    private final AtomicInteger looking = new AtomicInteger();

    void begin() {
        looking.incrementAndGet();
    }

    void end() {
        looking.decrementAndGet();
    }

    void waitForViewer() {
        long until = System.currentTimeMillis() + LONGEST_WAIT_MS;
        try {
            while (looking.get() > 0 && System.currentTimeMillis() < until) {
                Thread.sleep(5);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
