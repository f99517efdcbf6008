package org.rainsieve.enlarge;

/** The windowed sinc of three lobes (Duchon 1979): smooth, and sharp enough for one resampling. */
public final class Lanczos {
    /** Pixels that count for one place, along each axis. */
    public static final int TAPS = 6;

    private Lanczos() {}

    /** @param offset from a pixel's centre, in pixels; nothing counts from 3 px on */
    public static double weight(double offset) {
        if (Math.abs(offset) < 1e-9) {
            return 1;
        }
        double x = Math.PI * offset;
        return Math.abs(offset) >= 3 ? 0 : 3 * Math.sin(x) * Math.sin(x / 3) / (x * x);
    }
}
