package org.rainsieve.web.run;

/**
 * An item that this worker holds; delivery are the run's settings for forms other than linear DNG, as JSON; version, path and hash are what an earlier attempt had recorded, if any; madeFrom is the return that a copy is made of, null for the original.
 */
public record TakenItem(
        long id,
        long runId,
        long frameId,
        int attempt,
        String settings,
        Integer version,
        String finalPath,
        String hash,
        String destination,
        ReturnForm form,
        String delivery,
        String naming,
        boolean carryEdits,
        boolean notePush,
        boolean copyOriginals,
        Long madeFrom) {}
