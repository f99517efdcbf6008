package org.rainsieve.pipeline;

import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Supplier;
import org.rainsieve.denoise.DenoisedTile;

/**
 * Denoised tiles kept for whoever asks next, viewer or writer, up to a number of bytes; the one not used for longest goes
 * first. A tile that is being made is waited for, never made twice.
 */
public final class TileCache {
    private final long maxBytes;
    private final LinkedHashMap<Object, CompletableFuture<DenoisedTile>> tiles = new LinkedHashMap<>(16, 0.75f, true);
    private long bytes;
    private long made;

    public TileCache(long maxBytes) {
        this.maxBytes = maxBytes;
    }

    public DenoisedTile get(Object key, Supplier<DenoisedTile> maker) {
        CompletableFuture<DenoisedTile> mine = null;
        CompletableFuture<DenoisedTile> tile;
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
                return tile.join();
            } catch (CompletionException e) {
                // Whoever was making it gave up; that is no answer for us.
                return get(key, maker);
            }
        }
        try {
            DenoisedTile value = maker.get();
            mine.complete(value);
            synchronized (tiles) {
                bytes += size(value);
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
        Iterator<Map.Entry<Object, CompletableFuture<DenoisedTile>>> eldest =
                tiles.entrySet().iterator();
        while (bytes > maxBytes && eldest.hasNext()) {
            CompletableFuture<DenoisedTile> tile = eldest.next().getValue();
            if (tile.isDone() && !tile.isCompletedExceptionally()) {
                bytes -= size(tile.join());
                eldest.remove();
            }
        }
    }

    private static long size(DenoisedTile tile) {
        return 24L * tile.estimate().region().area();
    }

    /** How many tiles were made so far, for showing that nothing is made twice. */
    public long made() {
        synchronized (tiles) {
            return made;
        }
    }
}
