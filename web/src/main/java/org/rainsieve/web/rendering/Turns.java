package org.rainsieve.web.rendering;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import org.rainsieve.pipeline.Cancel;

/** Whether what a viewer asked for is wanted still: not when it was left, nor when it has asked for the same kind of picture in a later turn. */
final class Turns {
    private static final int MOST_VIEWERS = 200;

    /** Viewers whose page was left; a page has a number of its own each time it is opened. */
    private final Set<Long> left = Collections.newSetFromMap(new LinkedHashMap<>() {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<Long, Boolean> eldest) {
            return size() > MOST_VIEWERS;
        }
    });
    /** Of each viewer and kind of picture the newest turn. */
    private final Map<String, Long> newest = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Long> eldest) {
            return size() > MOST_VIEWERS;
        }
    };

    synchronized void left(long viewer) {
        left.add(viewer);
    }

    /** @param kind of picture */
    Cancel stillAsked(Question.Asker asker, String kind) {
        if (!asker.looks()) {
            return Cancel.NEVER;
        }
        String asking = asker.viewer() + kind;
        synchronized (this) {
            newest.merge(asking, asker.turn(), Math::max);
        }
        Cancel cancel = () -> givenUp(asker, asking);
        cancel.check();
        return cancel;
    }

    private synchronized boolean givenUp(Question.Asker asker, String asking) {
        return left.contains(asker.viewer()) || newest.getOrDefault(asking, asker.turn()) > asker.turn();
    }
}
