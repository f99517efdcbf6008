package org.rainsieve.web.intake;

import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.support.GeneratedKeyHolder;
import org.springframework.stereotype.Repository;

/** Copies of cards and what they copied. */
@Repository
class CardRepository {
    private final JdbcClient db;

    CardRepository(JdbcClient db) {
        this.db = db;
    }

    record Copy(long id, long shootId) {}

    /** A copy of that card that did not come to its end, if its shoot still exists. */
    Optional<Copy> unfinished(String card) {
        return db.sql("SELECT c.id, c.shoot_id FROM card_copy c JOIN shoot s ON s.id = c.shoot_id"
                        + " WHERE c.card = ? AND NOT c.finished ORDER BY c.id DESC LIMIT 1")
                .param(card)
                .query(Copy.class)
                .optional();
    }

    Copy begin(String card, long shootId) {
        GeneratedKeyHolder keys = new GeneratedKeyHolder();
        db.sql("INSERT INTO card_copy (card, shoot_id) VALUES (?, ?)")
                .params(card, shootId)
                .update(keys);
        return new Copy(keys.getKey().longValue(), shootId);
    }

    void finished(long id) {
        db.sql("UPDATE card_copy SET finished = TRUE WHERE id = ?").param(id).update();
    }

    Optional<String> copied(String hash) {
        return db.sql("SELECT path FROM card_file WHERE hash = ?")
                .param(hash)
                .query(String.class)
                .optional();
    }

    void add(String hash, String path) {
        db.sql("REPLACE INTO card_file (hash, path) VALUES (?, ?)")
                .params(hash, path)
                .update();
    }
}
