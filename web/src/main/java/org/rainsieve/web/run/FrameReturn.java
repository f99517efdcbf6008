package org.rainsieve.web.run;

/**
 * What became of a frame in its newest run.
 *
 * @param item 0 where it was in none
 * @param path of its return; empty while there is none
 * @param reason why there is none; empty otherwise
 */
public record FrameReturn(long item, String state, String path, String reason) {
    static final FrameReturn NONE = new FrameReturn(0, "", "", "");
}
