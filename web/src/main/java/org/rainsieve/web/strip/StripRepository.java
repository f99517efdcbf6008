package org.rainsieve.web.strip;

import java.util.List;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** Spots as they were left, and every choice made on a strip. */
@Repository
class StripRepository {
    private final JdbcClient db;

    StripRepository(JdbcClient db) {
        this.db = db;
    }

    Optional<String> spots(long frame) {
        return db.sql("SELECT spots FROM strip_spot WHERE frame_id = ?")
                .param(frame)
                .query(String.class)
                .optional();
    }

    void keepSpots(long frame, String spots) {
        db.sql("INSERT INTO strip_spot (frame_id, spots) VALUES (?, ?) ON DUPLICATE KEY UPDATE spots = VALUES(spots)")
                .params(frame, spots)
                .update();
    }

    void forgetSpots(long frame) {
        db.sql("DELETE FROM strip_spot WHERE frame_id = ?").param(frame).update();
    }

    void add(
            long frame,
            String camera,
            String rowsOf,
            boolean blind,
            String chosen,
            String candidates,
            String spots,
            String target) {
        db.sql("INSERT INTO strip_choice (frame_id, camera, rows_of, blind, chosen, candidates, spots, target)"
                        + " VALUES (?, ?, ?, ?, ?, ?, ?, ?)")
                .params(frame, camera, rowsOf, blind, chosen, candidates, spots, target)
                .update();
    }

    List<StripService.Tally> tally(String camera, String rowsOf) {
        return db.sql(
                        "SELECT chosen AS words, COUNT(*) AS times FROM strip_choice"
                                + " WHERE camera = ? AND rows_of = ? AND blind GROUP BY chosen ORDER BY times DESC, chosen LIMIT 8")
                .params(camera, rowsOf)
                .query(StripService.Tally.class)
                .list();
    }
}
