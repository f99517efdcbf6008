package org.rainsieve.web.strip;

import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.strip.Candidate;
import org.rainsieve.strip.Candidates;
import org.rainsieve.strip.Spot;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.setup.NotFoundException;

/** One strip on somebody's screen: its rows in the order shown, what was not tried yet, and what is hidden. */
final class OpenStrip {
    static final int ROWS = 4;

    private final List<Candidate> candidates;
    private final List<Integer> shown = new ArrayList<>();
    private int next;
    private boolean hidden;
    /** By spot and size: all rows of a column, so that none is seen before the others. */
    final Map<String, CompletableFuture<List<Pictures.Answer>>> columns = new ConcurrentHashMap<>();

    final long frame;
    final Candidates.Of of;
    final boolean blind;
    final int width;
    final int height;
    volatile List<Spot> spots;
    /** What the last choice changed, so that it can be undone; null when there is none. */
    volatile Undo undo;

    record Undo(boolean onFrame, String camera) {}

    OpenStrip(
            long frame,
            Candidates.Of of,
            List<Candidate> candidates,
            List<Spot> spots,
            boolean blind,
            int width,
            int height) {
        this.frame = frame;
        this.of = of;
        this.candidates = List.copyOf(candidates);
        this.spots = spots;
        this.blind = blind;
        this.hidden = blind;
        this.width = width;
        this.height = height;
        this.next = Math.min(ROWS, candidates.size());
        for (int i = 0; i < next; i++) {
            shown.add(i);
        }
        if (blind) {
            Collections.shuffle(shown, new SecureRandom());
        }
    }

    synchronized List<Candidate> rows() {
        return shown.stream().map(candidates::get).toList();
    }

    synchronized Candidate row(int row) {
        if (row < 0 || row >= shown.size()) {
            throw new NotFoundException("There is no such row on this strip.");
        }
        return candidates.get(shown.get(row));
    }

    synchronized int untried() {
        return candidates.size() - next;
    }

    /** Puts the next untried candidate into a row; false when all were tried. */
    synchronized boolean replace(int row) {
        if (next >= candidates.size()) {
            return false;
        }
        row(row);
        shown.set(row, next++);
        columns.clear();
        return true;
    }

    synchronized boolean hidden() {
        return hidden;
    }

    synchronized void reveal() {
        hidden = false;
    }
}
