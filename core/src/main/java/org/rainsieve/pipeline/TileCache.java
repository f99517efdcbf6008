package org.rainsieve.pipeline;

import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Supplier;
import java.util.function.ToLongFunction;

/**
 * Tiles of costly steps kept for whoever asks next, viewer or writer, up to a number of bytes; the one not used for longest goes
 * first. A tile that is being made is waited for, never made twice.
 */
public final class TileCache {
    private record Held(Object tile, long bytes) {}

    private final long maxBytes;
    private final LinkedHashMap<Object, CompletableFuture<Held>> tiles = new LinkedHashMap<>(16, 0.75f, true);
    private long bytes;
    private long made;

    public TileCache(long maxBytes) {
        this.maxBytes = maxBytes;
    }

    /**
     * @param key equal only for tiles of one kind that are the same
     * @param size of a tile in bytes
     */
    @SuppressWarnings("unchecked") // a key says what kind of tile it stands for
    public <T> T get(Object key, Supplier<T> maker, ToLongFunction<T> size) {
        CompletableFuture<Held> mine = null;
        CompletableFuture<Held> tile;
        synchronized (tiles) {
            tile = tiles.get(key);
            if (tile == null) {
                mine = new CompletableFuture<>();
                tiles.put(key, mine);
                made++;
            }
        }
        if (mine == null) {
            try {
                return (T) tile.join().tile;
            } catch (CompletionException e) {
                // Whoever was making it gave up; that is no answer for us.
                return get(key, maker, size);
            }
        }
        try {
            T value = maker.get();
            Held held = new Held(value, size.applyAsLong(value));
            mine.complete(held);
            synchronized (tiles) {
                bytes += held.bytes;
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
        while (bytes > maxBytes && eldest.hasNext()) {
            CompletableFuture<Held> tile = eldest.next().getValue();
            if (tile.isDone() && !tile.isCompletedExceptionally()) {
                bytes -= tile.join().bytes;
                eldest.remove();
            }
        }
    }

    /** How many tiles were made so far, for showing that nothing is made twice. */
    public long made() {
        synchronized (tiles) {
            return made;
        }
    }
}
