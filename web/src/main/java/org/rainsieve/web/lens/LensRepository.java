package org.rainsieve.web.lens;

import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** What was chosen for lenses on cameras; every choice is kept, the last one holds. */
@Repository
class LensRepository {
    private final JdbcClient db;

    LensRepository(JdbcClient db) {
        this.db = db;
    }

    Optional<String> choice(String camera, String lens) {
        return db.sql("SELECT choice FROM lens_choice WHERE camera = ? AND lens = ? ORDER BY id DESC LIMIT 1")
                .params(camera, lens)
                .query(String.class)
                .optional();
    }

    void add(String camera, String lens, String choice) {
        db.sql("INSERT INTO lens_choice (camera, lens, choice) VALUES (?, ?, ?)")
                .params(camera, lens, choice)
                .update();
    }
}
