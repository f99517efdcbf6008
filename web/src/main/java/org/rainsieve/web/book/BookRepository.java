package org.rainsieve.web.book;

import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** Versions of the camera book's pages; rows are only ever added. */
@Repository
class BookRepository {
    /** A version of a page; the page as JSON. */
    record Version(
            long id,
            String camera,
            Long parentId,
            String reason,
            String page,
            LocalDateTime createdAt,
            Long baseId,
            Long ofId) {

        /** The version whose content this is; 0 for the suggestion, which no version holds. */
        long contentId() {
            return ofId == null ? id : ofId;
        }
    }

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

    /** What a frame tells of its body's noise; the law as JSON, errors null in frames read long ago. */
    record NoiseRow(
            int iso, String noise, boolean pooled, boolean told, Double error, Double blackError, Double greyError) {}

    /** Of the frames whose noise was not changed. */
    List<NoiseRow> noise(String camera) {
        return db.sql("""
                        SELECT iso, noise, pooled, noise_told AS told, noise_error AS error, noise_black_error AS black_error,
                          noise_grey_error AS grey_error
                        FROM frame WHERE camera = ? AND iso IS NOT NULL AND noise IS NOT NULL ORDER BY id
                        """).param(camera).query(NoiseRow.class).list();
    }

    /** Changes whenever {@link #noise} does. */
    String noiseState(String camera) {
        return db.sql("""
                        SELECT CONCAT(COUNT(*), ' ', COALESCE(SUM(CRC32(CONCAT_WS(' ', id, iso, pooled, noise))), 0))
                        FROM frame WHERE camera = ? AND noise IS NOT NULL
                        """).param(camera).query(String.class).single();
    }

    Optional<String> pattern(String camera) {
        return db.sql("SELECT pattern FROM frame WHERE camera = ? AND pattern IS NOT NULL ORDER BY id DESC LIMIT 1")
                .param(camera)
                .query(String.class)
                .optional();
    }

    /** The frame of a camera on which most noise is to be seen. */
    Optional<Long> noisiest(String camera) {
        return db.sql(
                        "SELECT id FROM frame WHERE camera = ? AND state = 'ready' AND NOT dark ORDER BY iso DESC, id LIMIT 1")
                .param(camera)
                .query(Long.class)
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

    /** The newest version made on top of that content: what a redo brings back. */
    Optional<Version> newestOnTopOf(String camera, long contentId) {
        return db.sql("""
                        SELECT * FROM page_version WHERE camera = ? AND of_id IS NULL AND COALESCE(base_id, 0) = ?
                        ORDER BY id DESC LIMIT 1
                        """).params(camera, contentId).query(Version.class).optional();
    }

    /**
     * Adds a version if the parent is still the newest one; says whether it did.
     *
     * @param baseId the version whose content it was made on; null for the suggestion
     * @param ofId the version whose content it repeats, or null
     */
    boolean add(String camera, Long parentId, String reason, String page, Long baseId, Long ofId) {
        return db.sql("""
                                INSERT INTO page_version (camera, parent_id, reason, page, base_id, of_id)
                                SELECT ?, ?, ?, ?, ?, ? FROM DUAL WHERE
                                  COALESCE((SELECT MAX(id) FROM page_version WHERE camera = ?), 0) = COALESCE(?, 0)
                                """)
                        .params(camera, parentId, cut(reason), page, baseId, ofId, camera, parentId)
                        .update()
                == 1;
    }

    private static String cut(String reason) {
        return reason.substring(0, Math.min(400, reason.length()));
    }

    /** Defects that single frames of a camera show, of pictures of one size, newest first. */
    record FrameDefects(boolean dark, byte[] defects) {}

    List<FrameDefects> defects(String camera, int width, int height, int most) {
        return db.sql("""
                        SELECT dark, defects FROM frame WHERE camera = ? AND width = ? AND height = ? AND defects IS NOT NULL
                        ORDER BY dark DESC, id DESC LIMIT ?
                        """)
                .params(camera, width, height, most)
                .query(FrameDefects.class)
                .list();
    }

    /** The size that most frames of a camera have. */
    record Size(int width, int height) {}

    Optional<Size> commonSize(String camera) {
        return db.sql("""
                        SELECT width, height FROM frame WHERE camera = ? AND state = 'ready' AND width IS NOT NULL
                        GROUP BY width, height ORDER BY COUNT(*) DESC LIMIT 1
                        """).param(camera).query(Size.class).optional();
    }

    void keepDefectMap(String hash, String camera, int defects, byte[] places) {
        db.sql("INSERT IGNORE INTO defect_map (hash, camera, defects, places) VALUES (?, ?, ?, ?)")
                .params(hash, camera, defects, places)
                .update();
    }

    Optional<byte[]> defectMap(String hash) {
        return db.sql("SELECT places FROM defect_map WHERE hash = ?")
                .param(hash)
                .query((row, number) -> row.getBytes(1))
                .optional();
    }

    /** A starter of the owner's; the starter as JSON. */
    record OwnStarter(long id, String name, String starter) {}

    List<OwnStarter> starters() {
        return db.sql("SELECT id, name, starter FROM starter ORDER BY name")
                .query(OwnStarter.class)
                .list();
    }

    boolean addStarter(String name, String starter) {
        return db.sql("INSERT IGNORE INTO starter (name, starter) VALUES (?, ?)")
                        .params(name, starter)
                        .update()
                == 1;
    }

    boolean renameStarter(long id, String name, String starter) {
        return db.sql("UPDATE IGNORE starter SET name = ?, starter = ? WHERE id = ?")
                        .params(name, starter, id)
                        .update()
                == 1;
    }

    void removeStarter(long id) {
        db.sql("DELETE FROM starter WHERE id = ?").param(id).update();
    }

    /** Bodies of which frames were read, with how many serial numbers. */
    Optional<String> body(String camera) {
        return db.sql("SELECT body FROM frame WHERE camera = ? AND body IS NOT NULL LIMIT 1")
                .param(camera)
                .query(String.class)
                .optional();
    }

    boolean apart(String body) {
        return db.sql("SELECT COUNT(*) FROM apart WHERE body = ?")
                        .param(body)
                        .query(Integer.class)
                        .single()
                == 1;
    }

    int serials(String body) {
        return db.sql("SELECT COUNT(DISTINCT serial) FROM frame WHERE body = ? AND COALESCE(serial, '') <> ''")
                .param(body)
                .query(Integer.class)
                .single();
    }

    void setApart(String body, boolean apart) {
        db.sql(apart ? "INSERT IGNORE INTO apart (body) VALUES (?)" : "DELETE FROM apart WHERE body = ?")
                .param(body)
                .update();
        db.sql(
                        apart
                                ? "UPDATE frame SET camera = CONCAT(body, ' no. ', serial) WHERE body = ? AND COALESCE(serial, '') <> ''"
                                : "UPDATE frame SET camera = body WHERE body = ?")
                .param(body)
                .update();
    }
}
