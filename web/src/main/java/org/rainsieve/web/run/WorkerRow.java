package org.rainsieve.web.run;

/** A worker that was heard of lately. */
public record WorkerRow(long id, String address, String secret, boolean busy) {}
