package org.rainsieve.web.run;

/**
 * A worker that was heard of lately.
 *
 * @param workingBytes see {@link HeldMemory}
 * @param heapBytes see {@link HeldMemory}
 * @param mostBytes see {@link HeldMemory}; 0 until its first heartbeat
 * @param frame that it makes a return of now; null without one
 * @param progress of that, 0 to 1
 * @param reading frame that it reads now; null without one
 */
public record WorkerRow(
        long id,
        String address,
        String secret,
        long workingBytes,
        long heapBytes,
        long mostBytes,
        String frame,
        Double progress,
        String reading) {
    public boolean busy() {
        return frame != null || reading != null;
    }

    /** In words. */
    public String doing() {
        return frame != null
                ? frame + ", " + Math.round(100 * progress) + " %"
                : reading != null ? "reads " + reading : "waits";
    }
}
