package org.rainsieve.web.bench;

import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Undo and redo in one order, wherever a change reached: what a frame holds of its own, its camera's page, what was chosen for
 * its lens. The last change is the one that was made last; what one change wrote in several places is taken back together.
 */
@Component
@ConditionalOnWebApplication
class ChangeOrder {
    private final JdbcClient db;
    private final ShootService shoots;
    private final BookService book;
    private final LensService lenses;

    ChangeOrder(JdbcClient db, ShootService shoots, BookService book, LensService lenses) {
        this.db = db;
        this.shoots = shoots;
        this.book = book;
        this.lenses = lenses;
    }

    enum Reach {
        FRAME,
        PAGE,
        LENS
    }

    /** @param changeNo shared by what one change wrote; null for what was written by itself */
    private record Change(Reach reach, LocalDateTime at, Long changeNo) {}

    /** What would be taken back and what brought back, for people; null for nothing. */
    record Open(String undo, String redo) {}

    Open open(FrameForWork frame) {
        List<Change> done = done(frame);
        return new Open(
                words(last(done), frame).orElse(null),
                words(first(undone(frame, done)), frame).orElse(null));
    }

    /** @return what was taken back, for people */
    @Transactional
    public String undo(FrameForWork frame) {
        List<Change> changes = last(done(frame));
        String words = words(changes, frame)
                .orElseThrow(() ->
                        new NotPossibleException("There is nothing to undo on this frame, its camera or its lens."));
        for (Change change : changes) {
            switch (change.reach) {
                case FRAME -> shoots.undoSteps(frame.id());
                case PAGE -> book.undo(book.page(frame.camera()).version());
                case LENS -> lenses.undo(frame.camera(), frame.reportedLens());
            }
        }
        return words;
    }

    /** @return what was brought back, for people */
    @Transactional
    public String redo(FrameForWork frame) {
        List<Change> changes = first(undone(frame, done(frame)));
        String words = words(changes, frame)
                .orElseThrow(() ->
                        new NotPossibleException("There is nothing to redo on this frame, its camera or its lens."));
        for (Change change : changes) {
            switch (change.reach) {
                case FRAME -> shoots.redoSteps(frame.id());
                case PAGE -> book.redo(book.page(frame.camera()).version());
                case LENS -> lenses.redo(frame.camera(), frame.reportedLens());
            }
        }
        return words;
    }

    /** Makes what is written meanwhile one change, for this frame. */
    @Transactional
    public void together(FrameForWork frame, Runnable writing) {
        List<Long> before = newest(frame);
        writing.run();
        List<Long> after = newest(frame);
        long changeNo = db.sql("SELECT COALESCE(MAX(n), 0) + 1 FROM (SELECT MAX(change_no) AS n FROM frame_steps"
                        + " UNION ALL SELECT MAX(change_no) FROM page_version"
                        + " UNION ALL SELECT MAX(change_no) FROM lens_choice) AS all_of_them")
                .query(Long.class)
                .single();
        String[] tables = {"frame_steps", "page_version", "lens_choice"};
        for (int i = 0; i < tables.length; i++) {
            if (!after.get(i).equals(before.get(i))) {
                db.sql("UPDATE " + tables[i] + " SET change_no = ? WHERE id = ?")
                        .params(changeNo, after.get(i))
                        .update();
            }
        }
    }

    /** Numbers of the newest rows that a change of this frame may write; 0 where there is none. */
    private List<Long> newest(FrameForWork frame) {
        return List.of(
                db.sql("SELECT COALESCE(MAX(id), 0) FROM frame_steps WHERE frame_id = ?")
                        .param(frame.id())
                        .query(Long.class)
                        .single(),
                db.sql("SELECT COALESCE(MAX(id), 0) FROM page_version WHERE camera = ?")
                        .param(frame.camera())
                        .query(Long.class)
                        .single(),
                db.sql("SELECT COALESCE(MAX(id), 0) FROM lens_choice WHERE camera = ? AND lens = ?")
                        .params(frame.camera(), frame.reportedLens())
                        .query(Long.class)
                        .single());
    }

    /** In force: the last change of each reach. */
    private List<Change> done(FrameForWork frame) {
        List<Change> changes = new ArrayList<>();
        add(changes, Reach.FRAME, """
                SELECT s.created_at AS at, s.change_no FROM frame f JOIN frame_steps s ON s.id = f.steps_at WHERE f.id = ?
                """, frame.id());
        long version = book.page(frame.camera()).version();
        if (book.canUndo(version)) {
            add(changes, Reach.PAGE, """
                    SELECT c.created_at AS at, c.change_no FROM page_version v
                    JOIN page_version c ON c.id = COALESCE(v.of_id, v.id) WHERE v.id = ?
                    """, version);
        }
        add(changes, Reach.LENS, """
                SELECT created_at AS at, change_no FROM lens_choice
                WHERE camera = ? AND lens = ? AND NOT undone ORDER BY id DESC LIMIT 1
                """, frame.camera(), frame.reportedLens());
        return changes;
    }

    /** Taken back: the next change of each reach, as far as nothing else was changed since. */
    private List<Change> undone(FrameForWork frame, List<Change> done) {
        List<Change> changes = new ArrayList<>();
        add(changes, Reach.FRAME, """
                SELECT s.created_at AS at, s.change_no FROM frame f JOIN frame_steps s
                  ON s.frame_id = f.id AND s.parent_id <=> f.steps_at WHERE f.id = ? ORDER BY s.id DESC LIMIT 1
                """, frame.id());
        long version = book.page(frame.camera()).version();
        book.redoable(version)
                .ifPresent(id -> add(
                        changes, Reach.PAGE, "SELECT created_at AS at, change_no FROM page_version WHERE id = ?", id));
        add(changes, Reach.LENS, """
                SELECT created_at AS at, change_no FROM lens_choice
                WHERE camera = ? AND lens = ? AND undone ORDER BY id LIMIT 1
                """, frame.camera(), frame.reportedLens());
        LocalDateTime standing =
                done.stream().map(Change::at).max(Comparator.naturalOrder()).orElse(LocalDateTime.MIN);
        return changes.stream().filter(change -> !change.at.isBefore(standing)).toList();
    }

    private void add(List<Change> changes, Reach reach, String sql, Object... params) {
        db.sql(sql)
                .params(params)
                .query((row, n) ->
                        new Change(reach, row.getTimestamp("at").toLocalDateTime(), (Long) row.getObject("change_no")))
                .optional()
                .ifPresent(changes::add);
    }

    private static List<Change> last(List<Change> changes) {
        return with(changes, changes.stream().max(Comparator.comparing(Change::at)));
    }

    private static List<Change> first(List<Change> changes) {
        return with(changes, changes.stream().min(Comparator.comparing(Change::at)));
    }

    private static List<Change> with(List<Change> changes, Optional<Change> chosen) {
        return chosen.map(one -> changes.stream()
                        .filter(other -> other == one || one.changeNo != null && one.changeNo.equals(other.changeNo))
                        .toList())
                .orElse(List.of());
    }

    private static Optional<String> words(List<Change> changes, FrameForWork frame) {
        List<String> parts = changes.stream()
                .map(change -> switch (change.reach) {
                    case FRAME -> "this frame";
                    case PAGE -> frame.camera();
                    case LENS -> "this lens";
                })
                .toList();
        return parts.isEmpty() ? Optional.empty() : Optional.of("the last change of " + String.join(" and ", parts));
    }
}
