package org.rainsieve.web.run;

/** An item that this worker holds; version, path and hash are what an earlier attempt had recorded, if any. */
public record TakenItem(
        long id,
        long runId,
        long frameId,
        int attempt,
        String settings,
        Integer version,
        String finalPath,
        String hash,
        String destination) {}
