package org.rainsieve.pipeline;

import org.rainsieve.frame.CancelledException;

/** Asked between two tiles whether the work is still wanted. May also wait, to let more urgent work pass. */
@FunctionalInterface
public interface Cancel {
    Cancel NEVER = () -> false;

    boolean called();

    default void check() {
        if (called()) {
            throw new CancelledException();
        }
    }
}
