package org.rainsieve.pipeline;

import java.util.Map;
import java.util.OptionalDouble;
import java.util.concurrent.ConcurrentHashMap;

/** How long this process took for each kind of work, told from what it made so far; what it has not made yet is unknown. */
public final class Pace {
    private record Done(double seconds, double megapixels) {}

    private static final Map<String, Done> DONE = new ConcurrentHashMap<>();

    private Pace() {}

    /** Notes one piece of work that one thread did. */
    static void note(String work, long nanos, long pixels) {
        DONE.merge(
                work,
                new Done(nanos / 1e9, pixels / 1e6),
                (p, q) -> new Done(p.seconds + q.seconds, p.megapixels + q.megapixels));
    }

    /** @return seconds of one thread per megapixel of the frame */
    private static OptionalDouble of(String work) {
        Done done = DONE.get(work);
        return done == null ? OptionalDouble.empty() : OptionalDouble.of(done.seconds / done.megapixels);
    }

    /**
     * What the steps of a frame take with all processors at work.
     *
     * @return seconds for the whole frame; empty while one of them was never made
     */
    public static OptionalDouble seconds(Steps steps) {
        double sum = 0;
        for (String work : steps.work()) {
            OptionalDouble each = of(work);
            if (each.isEmpty()) {
                return OptionalDouble.empty();
            }
            sum += each.getAsDouble();
        }
        double megapixels = steps.denoise().width() * (double) steps.denoise().height() / 1e6;
        return OptionalDouble.of(sum * megapixels / Runtime.getRuntime().availableProcessors());
    }
}
