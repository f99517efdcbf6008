package org.rainsieve.web.access;

import java.util.LinkedHashMap;
import java.util.Map;

/** Makes guessing slow: after five wrong passwords from one address each further one doubles the wait. */
final class Throttle {
    private static final int FREE = 5;
    private static final int LONGEST_SECONDS = 900;
    private static final int MOST_ADDRESSES = 10_000;

    private record Tries(int wrong, long untilMs) {}

    private final Map<String, Tries> tries = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Tries> eldest) {
            return size() > MOST_ADDRESSES;
        }
    };

    /**
     * Counts a try, as a wrong one until {@link #right} says otherwise.
     *
     * @return seconds that the address has to wait still; the try is not to be looked at then, and was not counted
     */
    synchronized long begin(String address, long nowMs) {
        Tries known = tries.get(address);
        long wait = known == null ? 0 : Math.max(0, (known.untilMs - nowMs + 999) / 1000);
        if (wait > 0) {
            return wait;
        }
        int wrong = known == null ? 1 : known.wrong + 1;
        long seconds = wrong < FREE ? 0 : Math.min(LONGEST_SECONDS, 1L << Math.min(20, wrong - FREE + 1));
        tries.put(address, new Tries(wrong, nowMs + 1000 * seconds));
        return 0;
    }

    synchronized void right(String address) {
        tries.remove(address);
    }
}
