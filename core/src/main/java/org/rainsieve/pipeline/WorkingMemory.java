package org.rainsieve.pipeline;

import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.Semaphore;
import java.util.function.Supplier;
import java.util.function.ToLongFunction;

/**
 * What a process works with, against a number of bytes. <em>Kept</em> for whoever asks next, viewer or writer, are tiles of costly
 * steps and opened frames; the one not used for longest goes first, and one that is being made is waited for, never made twice.
 * <em>Held</em> is what somebody works with and cannot be taken away: whatever is held makes so much less room for what is kept.
 */
public final class WorkingMemory {
    private record Held(Object tile, long bytes) {}

    /**
     * What a step works with for a moment, up to 90 MB a tile, is not counted; so no more are made at once than there are cores. Who
     * looks while a run is on waits for a tile at most.
     */
    private final Semaphore makers =
            new Semaphore(Math.max(2, Runtime.getRuntime().availableProcessors()), true);

    private final ThreadLocal<Boolean> making = ThreadLocal.withInitial(() -> false);
    private final long maxBytes;
    private final LinkedHashMap<Object, CompletableFuture<Held>> tiles = new LinkedHashMap<>(16, 0.75f, true);
    private long bytes;
    private long held;
    private long made;

    /**
     * Of a process's heap: what lasts must fit the older generation, which is two thirds of it, beside what the process is made of
     * and what a step works with for a moment.
     */
    private static final double SHARE_OF_HEAP = 0.35;

    /** As much as a process of this size can give. */
    public static WorkingMemory ofThisProcess() {
        return new WorkingMemory((long) (SHARE_OF_HEAP * Runtime.getRuntime().maxMemory()));
    }

    public WorkingMemory(long maxBytes) {
        this.maxBytes = maxBytes;
    }

    /**
     * @param key equal only for tiles of one kind that are the same
     * @param size of a tile in bytes
     */
    @SuppressWarnings("unchecked") // a key says what kind of tile it stands for
    public <T> T get(Object key, Supplier<T> maker, ToLongFunction<T> size) {
        CompletableFuture<Held> there;
        synchronized (tiles) {
            there = tiles.get(key);
        }
        if (there != null) {
            try {
                return (T) there.join().tile;
            } catch (CompletionException e) {
                // Whoever was making it gave up; that is no answer for us.
                return get(key, maker, size);
            }
        }
        // Who makes something may need another that is made: only the outermost takes a place, and before it is waited
        // for.
        boolean outermost = !making.get();
        if (outermost) {
            makers.acquireUninterruptibly();
            making.set(true);
        }
        try {
            return make(key, maker, size);
        } finally {
            if (outermost) {
                making.set(false);
                makers.release();
            }
        }
    }

    private <T> T make(Object key, Supplier<T> maker, ToLongFunction<T> size) {
        CompletableFuture<Held> mine = new CompletableFuture<>();
        synchronized (tiles) {
            if (tiles.putIfAbsent(key, mine) != null) {
                mine = null;
            } else {
                made++;
            }
        }
        if (mine == null) {
            return get(key, maker, size);
        }
        try {
            T value = maker.get();
            Held done = new Held(value, size.applyAsLong(value));
            synchronized (tiles) {
                mine.complete(done);
                bytes += done.bytes;
                evict();
            }
            return value;
        } catch (Throwable e) {
            synchronized (tiles) {
                tiles.remove(key);
            }
            mine.completeExceptionally(e);
            throw e;
        }
    }

    private void evict() {
        Iterator<Map.Entry<Object, CompletableFuture<Held>>> eldest =
                tiles.entrySet().iterator();
        while (bytes > Math.max(0, maxBytes - held) && eldest.hasNext()) {
            CompletableFuture<Held> tile = eldest.next().getValue();
            if (tile.isDone() && !tile.isCompletedExceptionally()) {
                bytes -= tile.join().bytes;
                eldest.remove();
            }
        }
    }

    /** What is worked with until it is closed. */
    public final class Hold implements AutoCloseable {
        private long own;

        private Hold(long bytes) {
            own = bytes;
        }

        @Override
        public void close() {
            synchronized (tiles) {
                held -= own;
                own = 0;
            }
        }
    }

    /** Makes room for so many bytes of something that is about to be worked with. */
    public Hold hold(long bytes) {
        synchronized (tiles) {
            held += bytes;
            evict();
        }
        return new Hold(bytes);
    }

    /** Lets everything go that is only kept: before something is called too large it is tried with all the room there is. */
    public void clear() {
        synchronized (tiles) {
            tiles.values().removeIf(CompletableFuture::isDone);
            bytes = 0;
        }
    }

    /** Bytes that are kept and held. */
    public long used() {
        synchronized (tiles) {
            return bytes + held;
        }
    }

    /** How many tiles were made so far, for showing that nothing is made twice. */
    public long made() {
        synchronized (tiles) {
            return made;
        }
    }
}
