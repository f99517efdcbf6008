package org.rainsieve.web.book;

import java.util.List;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** Versions of the camera book's pages; rows are only ever added. */
@Repository
class BookRepository {
    /** A version of a page; the page as JSON. */
    record Version(
            long id, String camera, Long parentId, String reason, String page, java.time.LocalDateTime createdAt) {}

    private final JdbcClient db;

    BookRepository(JdbcClient db) {
        this.db = db;
    }

    List<String> cameras() {
        return db.sql("""
                        SELECT camera FROM page_version UNION
                        SELECT DISTINCT camera FROM frame WHERE camera IS NOT NULL AND state = 'ready' ORDER BY 1
                        """).query(String.class).list();
    }

    /** A reading and the ISO it was made at. */
    record ReadAtIso(int iso, String noise) {}

    List<ReadAtIso> readings(String camera) {
        return db.sql("SELECT iso, noise FROM frame WHERE camera = ? AND iso > 0 AND noise IS NOT NULL ORDER BY id")
                .param(camera)
                .query(ReadAtIso.class)
                .list();
    }

    Optional<String> pattern(String camera) {
        return db.sql("SELECT pattern FROM frame WHERE camera = ? AND pattern IS NOT NULL ORDER BY id DESC LIMIT 1")
                .param(camera)
                .query(String.class)
                .optional();
    }

    Optional<Version> newest(String camera) {
        return db.sql("SELECT * FROM page_version WHERE camera = ? ORDER BY id DESC LIMIT 1")
                .param(camera)
                .query(Version.class)
                .optional();
    }

    List<Version> history(String camera) {
        return db.sql("SELECT * FROM page_version WHERE camera = ? ORDER BY id DESC LIMIT 50")
                .param(camera)
                .query(Version.class)
                .list();
    }

    Optional<Version> version(long id) {
        return db.sql("SELECT * FROM page_version WHERE id = ?")
                .param(id)
                .query(Version.class)
                .optional();
    }

    /** Adds a version if the parent is still the newest one; says whether it did. */
    boolean add(String camera, Long parentId, String reason, String page) {
        return db.sql("""
                                INSERT INTO page_version (camera, parent_id, reason, page)
                                SELECT ?, ?, ?, ? FROM DUAL WHERE
                                  COALESCE((SELECT MAX(id) FROM page_version WHERE camera = ?), 0) = COALESCE(?, 0)
                                """)
                        .params(camera, parentId, reason, page, camera, parentId)
                        .update()
                == 1;
    }
}
