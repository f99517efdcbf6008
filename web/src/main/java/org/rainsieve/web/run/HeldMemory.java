package org.rainsieve.web.run;

/**
 * What a worker holds of its memory.
 *
 * @param workingBytes worked with, and kept for whoever looks next
 * @param heapBytes all that is in use, what is no longer needed among it
 * @param mostBytes that it may use
 */
public record HeldMemory(long workingBytes, long heapBytes, long mostBytes) {}
