package org.rainsieve.web.shoot;

/**
 * A frame with what the book makes of it.
 *
 * @param stray why its rung does not fit; empty for a frame that fits or was accepted
 * @param noiseOff its noise against the book's, 1 when alike; NaN when unread
 * @param amounts the amounts in force, in words
 */
public record FrameOnSheet(FrameRow row, String stray, double noiseOff, String amounts) {}
