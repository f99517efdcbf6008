package org.rainsieve.web.run;

/** What an open page shows of an item while its run goes on. Unknown values are null. */
record ItemEvent(
        long id,
        String state,
        double progress,
        String returnName,
        Double noiseLeft,
        Long sizeBytes,
        Double seconds,
        String reason) {}
