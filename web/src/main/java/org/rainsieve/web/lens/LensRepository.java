package org.rainsieve.web.lens;

import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** What was chosen for lenses on cameras; every choice is kept, the last one that was not undone holds. */
@Repository
class LensRepository {
    private final JdbcClient db;

    LensRepository(JdbcClient db) {
        this.db = db;
    }

    Optional<String> choice(String camera, String lens) {
        return db.sql(
                        "SELECT choice FROM lens_choice WHERE camera = ? AND lens = ? AND NOT undone ORDER BY id DESC LIMIT 1")
                .params(camera, lens)
                .query(String.class)
                .optional();
    }

    /** What was undone before cannot be redone any more. */
    void add(String camera, String lens, String choice) {
        db.sql("DELETE FROM lens_choice WHERE camera = ? AND lens = ? AND undone")
                .params(camera, lens)
                .update();
        db.sql("INSERT INTO lens_choice (camera, lens, choice) VALUES (?, ?, ?)")
                .params(camera, lens, choice)
                .update();
    }

    /** The choice before the last one holds again. */
    void undo(String camera, String lens) {
        db.sql(
                        "UPDATE lens_choice SET undone = TRUE WHERE camera = ? AND lens = ? AND NOT undone ORDER BY id DESC LIMIT 1")
                .params(camera, lens)
                .update();
    }

    void redo(String camera, String lens) {
        db.sql("UPDATE lens_choice SET undone = FALSE WHERE camera = ? AND lens = ? AND undone ORDER BY id LIMIT 1")
                .params(camera, lens)
                .update();
    }
}
