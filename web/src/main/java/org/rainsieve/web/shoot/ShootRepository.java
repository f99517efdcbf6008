package org.rainsieve.web.shoot;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.opening.Glance;
import org.rainsieve.web.files.FolderService;
import org.springframework.jdbc.core.RowMapper;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** Shoots and their frames. */
@Repository
class ShootRepository {
    private static final int MOST_ENDED_WORKERS = 3;

    private final JdbcClient db;

    ShootRepository(JdbcClient db) {
        this.db = db;
    }

    long addShoot(String name, String folder) {
        var keys = new org.springframework.jdbc.support.GeneratedKeyHolder();
        db.sql("INSERT INTO shoot (name, folder) VALUES (?, ?)")
                .params(name, folder)
                .update(keys);
        return keys.getKey().longValue();
    }

    /** Until the end of the transaction nobody else takes frames in: two at once would make two shoots of one folder. */
    void lockIntake() {
        db.sql("SELECT id FROM intake_lock FOR UPDATE").query(Integer.class).single();
    }

    Optional<Long> shootOfFolder(String folder) {
        return db.sql("SELECT id FROM shoot WHERE folder = ? ORDER BY id LIMIT 1")
                .param(folder)
                .query(Long.class)
                .optional();
    }

    List<String> folders() {
        return db.sql("SELECT DISTINCT folder FROM shoot").query(String.class).list();
    }

    /** Adds a frame unless the shoot has that path already. */
    boolean addFrame(long shootId, FolderService.Found found) {
        String path = found.path().toString();
        String unusable = found.unusable();
        return db.sql("""
                                INSERT IGNORE INTO frame (shoot_id, path, path_hash, name, size_bytes, state, reason, looked)
                                VALUES (?, ?, ?, ?, ?, ?, ?, ?)
                                """)
                        .params(
                                shootId,
                                path.substring(0, Math.min(FolderService.LONGEST_PATH, path.length())),
                                // Names that are no text may look alike; the address keeps their bytes.
                                sha256(
                                        unusable == null
                                                ? path
                                                : found.path().toUri().toString()),
                                found.path().getFileName().toString(),
                                found.sizeBytes(),
                                unusable == null ? "unread" : "refused",
                                unusable,
                                unusable == null ? 0 : 1)
                        .update()
                > 0;
    }

    long frameOf(long shootId, String path) {
        return db.sql("SELECT id FROM frame WHERE shoot_id = ? AND path_hash = ?")
                .params(shootId, sha256(path))
                .query(Long.class)
                .single();
    }

    private static byte[] sha256(String text) {
        return Sha256.digest().digest(text.getBytes(StandardCharsets.UTF_8));
    }

    private static final String ROWS = """
            SELECT s.id, s.name, s.folder, s.watched,
                   COALESCE(SUM(f.state = 'unread' AND f.looked = 0), 0) AS unseen,
                   COUNT(f.id) AS frames,
                   COALESCE(SUM(f.state = 'unread'), 0) AS unread,
                   COALESCE(SUM(f.state = 'ready'), 0) AS ready,
                   COALESCE(SUM(f.state = 'refused'), 0) AS refused,
                   COALESCE(SUM(f.id IN (SELECT frame_id FROM item WHERE state = 'returned')), 0) AS returned,
                   COALESCE(SUM(f.id IN (SELECT frame_id FROM item WHERE state = 'failed')
                        AND f.id NOT IN (SELECT frame_id FROM item WHERE state = 'returned')), 0) AS failed,
                   COALESCE(GROUP_CONCAT(DISTINCT f.camera ORDER BY f.camera SEPARATOR ', '), '') AS cameras,
                   COALESCE(MIN(f.iso), 0) AS iso_from, COALESCE(MAX(f.iso), 0) AS iso_to,
                   COALESCE(LEFT(MIN(f.taken_at), 10), '') AS first_day,
                   COALESCE(SUM(f.size_bytes), 0) AS size_bytes,
                   (SELECT COALESCE(SUM(i.size_bytes), 0) FROM item i JOIN frame g ON g.id = i.frame_id
                     WHERE g.shoot_id = s.id AND i.state = 'returned') AS returns_bytes
            FROM shoot s LEFT JOIN frame f ON f.shoot_id = s.id AND f.state <> 'own'
            """;

    List<ShootRow> shoots() {
        return db.sql(ROWS + " GROUP BY s.id ORDER BY s.id DESC")
                .query(ShootRow.class)
                .list();
    }

    /** A few frames of each shoot to know it by, the kept and best rated first. */
    Map<Long, List<Long>> pictures(int most) {
        Map<Long, List<Long>> pictures = new HashMap<>();
        db.sql("""
                        SELECT shoot_id, id FROM (
                          SELECT shoot_id, id, ROW_NUMBER() OVER (PARTITION BY shoot_id
                            ORDER BY mark = 'keep' DESC, COALESCE(rating, 0) DESC, taken_at, id) AS n
                          FROM frame WHERE state = 'ready' AND NOT dark AND COALESCE(mark, '') <> 'drop') best
                        WHERE n <= ? ORDER BY shoot_id, n
                        """).param(most).query(row -> {
            pictures.computeIfAbsent(row.getLong(1), shoot -> new ArrayList<>()).add(row.getLong(2));
        });
        return pictures;
    }

    Optional<ShootRow> shoot(long id) {
        return db.sql(ROWS + " WHERE s.id = ? GROUP BY s.id")
                .param(id)
                .query(ShootRow.class)
                .optional();
    }

    /** Written out, for mapping by names costs more than the query itself where there are thousands. */
    private static final RowMapper<FrameRow> FRAMES = (row, number) -> new FrameRow(
            row.getLong(1),
            row.getString(2),
            row.getString(3),
            row.getString(4),
            row.getString(5),
            row.getObject(6, Integer.class),
            row.getObject(7, Double.class),
            row.getObject(8, Integer.class),
            row.getObject(9, Integer.class),
            row.getString(10),
            row.getString(11),
            row.getString(12),
            row.getString(13),
            row.getObject(14, Double.class),
            row.getString(15),
            row.getObject(16, Double.class),
            row.getBoolean(17),
            row.getString(18),
            row.getString(19),
            row.getObject(20, Double.class),
            row.getInt(21),
            row.getObject(22, Integer.class),
            row.getString(23),
            row.getObject(24, Long.class),
            row.getString(25));

    List<FrameRow> frames(long shootId) {
        return db.sql("""
                        SELECT f.id, f.name, f.state, f.reason, f.camera, f.iso, f.exposure_seconds, f.width, f.height,
                               f.reading, f.verdict, f.mark, f.taken_at, f.push, f.push_from, f.compensation, f.dark,
                               s.steps, f.lens, f.focal_length_mm, f.looked, f.rating, f.keywords, l.returned_item,
                               n.state AS item_state
                        FROM frame f LEFT JOIN frame_steps s ON s.id = f.steps_at
                          LEFT JOIN (SELECT i.frame_id, MAX(i.id) AS newest,
                              MAX(IF(i.state = 'returned', i.id, NULL)) AS returned_item
                            FROM item i JOIN frame g ON g.id = i.frame_id WHERE g.shoot_id = ? GROUP BY i.frame_id) l
                            ON l.frame_id = f.id
                          LEFT JOIN item n ON n.id = l.newest
                        WHERE f.shoot_id = ? AND f.state <> 'own' ORDER BY f.name
                        """).params(shootId, shootId).query(FRAMES).list();
    }

    Optional<String> focusMap(long frameId) {
        return db.sql("SELECT focus_map FROM frame WHERE id = ? AND focus_map IS NOT NULL")
                .param(frameId)
                .query(String.class)
                .optional();
    }

    /** Exposure indices of all readable frames of a camera that follow their rungs. */
    List<Double> exposureIndices(String camera) {
        return db.sql("""
                        SELECT GREATEST(1, COALESCE(iso, 0) * POW(2, COALESCE(push, 0))) FROM frame f
                        WHERE camera = ? AND state = 'ready' AND NOT dark AND COALESCE(
                          (SELECT JSON_VALUE(s.steps, '$.denoise.method') FROM frame_steps s WHERE s.id = f.steps_at), '') = ''
                        """).param(camera).query(Double.class).list();
    }

    void setPush(long frameId, Double push, String from) {
        db.sql("UPDATE frame SET push = ?, push_from = ? WHERE id = ?")
                .params(push, from, frameId)
                .update();
    }

    /** @return how many frames took it */
    int setPushOf(long shootId, String camera, int iso, Double push) {
        return db.sql("UPDATE frame SET push = ?, push_from = ? WHERE shoot_id = ? AND camera = ? AND iso = ?")
                .params(push, push == null ? null : "typed", shootId, camera, iso)
                .update();
    }

    /** A frame's new state, after the one it stood at. */
    void addSteps(long frameId, String steps) {
        db.sql("INSERT INTO frame_steps (frame_id, parent_id, steps) SELECT id, steps_at, ? FROM frame WHERE id = ?")
                .params(steps, frameId)
                .update();
        db.sql("UPDATE frame SET steps_at = LAST_INSERT_ID() WHERE id = ?")
                .param(frameId)
                .update();
    }

    /** @return false when there is nothing to undo */
    boolean undoSteps(long frameId) {
        return db.sql("""
                        UPDATE frame f JOIN frame_steps s ON s.id = f.steps_at SET f.steps_at = s.parent_id WHERE f.id = ?
                        """).param(frameId).update() == 1;
    }

    /** Goes to the newest state that came after the present one. */
    boolean redoSteps(long frameId) {
        return db.sql("""
                        UPDATE frame f SET f.steps_at = (SELECT MAX(s.id) FROM frame_steps s
                            WHERE s.frame_id = f.id AND s.parent_id <=> f.steps_at)
                        WHERE f.id = ? AND EXISTS (SELECT 1 FROM frame_steps s
                            WHERE s.frame_id = f.id AND s.parent_id <=> f.steps_at)
                        """).param(frameId).update() == 1;
    }

    /** How many frames were taken by that camera with a lens that is reported so. */
    int framesOf(String camera, String lens) {
        return db.sql("SELECT COUNT(*) FROM frame WHERE camera = ? AND COALESCE(lens, '') = ? AND state = 'ready'")
                .params(camera, lens)
                .query(Integer.class)
                .single();
    }

    /** Whether something of a shoot is being worked on or waits for it. */
    boolean inWork(long shootId) {
        return db.sql("""
                        SELECT COUNT(*) FROM item i JOIN run r ON r.id = i.run_id JOIN frame f ON f.id = i.frame_id
                        WHERE f.shoot_id = ? AND (i.state = 'taken' OR (i.state = 'waiting' AND r.state <> 'stopped'))
                        """).param(shootId).query(Long.class).single() > 0;
    }

    /** Forgets a shoot with its frames and runs. Defect maps, pages and files stay. */
    void forget(long shootId) {
        db.sql("DELETE p FROM publication p JOIN item i ON i.id = p.item_id JOIN frame f ON f.id = i.frame_id"
                        + " WHERE f.shoot_id = ?")
                .param(shootId)
                .update();
        db.sql("DELETE i FROM item i JOIN frame f ON f.id = i.frame_id WHERE f.shoot_id = ?")
                .param(shootId)
                .update();
        db.sql("DELETE FROM run WHERE shoot_id = ?").param(shootId).update();
        db.sql("DELETE s FROM frame_steps s JOIN frame f ON f.id = s.frame_id WHERE f.shoot_id = ?")
                .param(shootId)
                .update();
        db.sql("DELETE FROM frame WHERE shoot_id = ?").param(shootId).update();
        db.sql("DELETE FROM shoot WHERE id = ?").param(shootId).update();
    }

    /** Where the files of a shoot's frames lie. */
    record Place(long id, String path, String name, long sizeBytes) {}

    List<Place> places(long shootId) {
        return db.sql(
                        "SELECT id, path, name, size_bytes FROM frame WHERE shoot_id = ? AND state <> 'own' ORDER BY name")
                .param(shootId)
                .query(Place.class)
                .list();
    }

    /** Moves a frame to another file; one that was refused is tried again. False when the shoot has that file already. */
    boolean move(long frameId, String path) {
        return db.sql("""
                        UPDATE IGNORE frame SET path = ?, path_hash = ?,
                          state = IF(state = 'refused', 'unread', state), lease_until = NULL WHERE id = ?
                        """).params(path, sha256(path), frameId).update() > 0;
    }

    void moveShoot(long shootId, String folder) {
        db.sql("UPDATE shoot SET folder = ? WHERE id = ?")
                .params(folder, shootId)
                .update();
    }

    Optional<FrameForWork> frameForWork(long id) {
        return db.sql(WORK + " WHERE f.id = ?")
                .param(id)
                .query(ShootRepository::frameForWork)
                .optional();
    }

    /** All that were read, also what was dropped or held back. */
    List<FrameForWork> readFrames(long shootId) {
        return db.sql(WORK + " WHERE shoot_id = ? AND state = 'ready' AND NOT dark ORDER BY name")
                .param(shootId)
                .query(ShootRepository::frameForWork)
                .list();
    }

    List<FrameForWork> readyFrames(long shootId) {
        return db.sql(WORK
                        + " WHERE shoot_id = ? AND state = 'ready' AND COALESCE(verdict, '') <> 'held' AND COALESCE(mark, '') <> 'drop'"
                        + " AND (NOT dark OR verdict = 'accepted') ORDER BY name")
                .param(shootId)
                .query(ShootRepository::frameForWork)
                .list();
    }

    ShootService.LeftOut leftOut(long shootId) {
        return db.sql("""
                        SELECT COALESCE(SUM(state = 'ready' AND mark <=> 'drop'), 0) AS dropped,
                               COALESCE(SUM(state = 'ready' AND NOT mark <=> 'drop' AND (verdict <=> 'held' OR dark AND NOT verdict <=> 'accepted')), 0)
                                 AS held,
                               COALESCE(SUM(state = 'unread'), 0) AS unread
                        FROM frame WHERE shoot_id = ? AND state <> 'own'
                        """).param(shootId).query(ShootService.LeftOut.class).single();
    }

    private static final String WORK = """
            SELECT f.id, f.shoot_id, f.path, f.name, f.camera, f.iso, f.width, f.height, f.size_bytes, f.sha256, f.push,
                   f.lens, f.focal_length_mm, f.aperture, f.own_optics, f.handed_over AND f.tiff AS comes_back_as_tiff, f.taken_at, f.orientation, f.pattern,
                   (SELECT s.steps FROM frame_steps s WHERE s.id = f.steps_at) AS steps, f.mark
            FROM frame f""";

    /** By hand: a plan takes thousands of them, and mapping by reflection took most of its time. */
    private static FrameForWork frameForWork(ResultSet row, int number) throws SQLException {
        return new FrameForWork(
                row.getLong("id"),
                row.getLong("shoot_id"),
                row.getString("path"),
                row.getString("name"),
                row.getString("camera"),
                row.getObject("iso", Integer.class),
                row.getObject("width", Integer.class),
                row.getObject("height", Integer.class),
                row.getLong("size_bytes"),
                row.getString("sha256"),
                row.getObject("push", Double.class),
                row.getString("lens"),
                row.getObject("focal_length_mm", Double.class),
                row.getObject("aperture", Double.class),
                row.getString("own_optics"),
                row.getBoolean("comes_back_as_tiff"),
                row.getString("taken_at"),
                row.getObject("orientation", Integer.class),
                row.getString("pattern"),
                row.getString("steps"),
                row.getString("mark"));
    }

    /** Frames that nobody has looked at; from then on nobody else does. */
    List<ShootService.ToLookAt> takeToLookAt(int most) {
        record Row(long id, String path, String state) {}
        List<Row> rows = db.sql(
                        "SELECT id, path, state FROM frame WHERE looked = 0 AND state <> 'own' ORDER BY id LIMIT ? FOR UPDATE SKIP LOCKED")
                .param(most)
                .query(Row.class)
                .list();
        if (!rows.isEmpty()) {
            db.sql("UPDATE frame SET looked = 1 WHERE id IN (:ids)")
                    .param("ids", rows.stream().map(Row::id).toList())
                    .update();
        }
        return rows.stream()
                .map(row -> new ShootService.ToLookAt(row.id, Path.of(row.path), row.state.equals("ready")))
                .toList();
    }

    /** Reading a frame tells better what a glance tells too; what people said of it is told by the glance alone. */
    void glanced(GlancedFrame frame) {
        Glance glance = frame.glance();
        ShotInfo shot = glance.shot();
        String keywords = String.join(", ", glance.marks().keywords());
        db.sql("""
                        UPDATE frame SET looked = :looked, rating = :rating, keywords = :keywords, place = :place,
                          orientation = :orientation,
                          camera = IF(state = 'unread', :camera, camera), iso = IF(state = 'unread', :iso, iso),
                          exposure_seconds = IF(state = 'unread', :seconds, exposure_seconds),
                          aperture = IF(state = 'unread', :aperture, aperture),
                          focal_length_mm = IF(state = 'unread', :focal, focal_length_mm),
                          lens = IF(state = 'unread', :lens, lens), taken_at = IF(state = 'unread', :taken, taken_at),
                          state = IF(state = 'unread' AND :own, 'own', state), tiff = :tiff
                        WHERE id = :id
                        """)
                .param("looked", frame.pictured() ? 2 : 1)
                .param("rating", glance.marks().rating())
                .param("keywords", keywords.substring(0, Math.min(2000, keywords.length())))
                .param("place", glance.placeText())
                .param("orientation", shot.orientation())
                .param("camera", frame.camera())
                .param("iso", frame.camera() == null ? null : shot.iso())
                .param("seconds", number(shot.exposureSeconds()))
                .param("aperture", number(shot.aperture()))
                .param("focal", number(shot.focalLengthMm()))
                .param("lens", cut(shot.lens(), 200))
                .param("taken", cut(shot.takenAt(), 40))
                .param("own", glance.own())
                .param("tiff", glance.tiff())
                .param("id", frame.id())
                .update();
    }

    private static String cut(String text, int most) {
        return text.substring(0, Math.min(most, text.length()));
    }

    void setHandedOver(long frameId) {
        db.sql("UPDATE frame SET handed_over = TRUE WHERE id = ?")
                .param(frameId)
                .update();
    }

    /** Asks for a new picture of a frame. */
    void lookAgain(long frameId) {
        db.sql("UPDATE frame SET looked = 0 WHERE id = ?").param(frameId).update();
    }

    void setWatched(long shootId, boolean watched) {
        db.sql("UPDATE shoot SET watched = ? WHERE id = ?")
                .params(watched, shootId)
                .update();
    }

    void setDeep(long shootId) {
        db.sql("UPDATE shoot SET deep = TRUE WHERE id = ?").param(shootId).update();
    }

    /** A folder whose new files are taken in by themselves. */
    record Watched(long id, String folder, boolean deep) {}

    List<Watched> watched() {
        return db.sql("SELECT id, folder, deep FROM shoot WHERE watched ORDER BY id")
                .query(Watched.class)
                .list();
    }

    /** Takes an unread frame for reading, or one whose reader has not been heard of. */
    Optional<Long> takeUnread(long workerId, long leaseMs) {
        List<Long> candidates = db.sql("""
                        SELECT id FROM frame WHERE state = 'unread'
                          AND (lease_until IS NULL OR lease_until < NOW(3)) ORDER BY id LIMIT 8
                        """).query(Long.class).list();
        for (long id : candidates) {
            int taken = db.sql("""
                            UPDATE frame SET reader = ?, lease_until = NOW(3) + INTERVAL ? MICROSECOND
                            WHERE id = ? AND state = 'unread' AND (lease_until IS NULL OR lease_until < NOW(3))
                            """).params(workerId, leaseMs * 1000, id).update();
            if (taken == 1) {
                return Optional.of(id);
            }
        }
        return Optional.empty();
    }

    /** Reading it has ended a worker; after the third time it is set aside, so that others go on. */
    void endedWorker(long id) {
        db.sql("""
                        UPDATE frame SET ended_workers = ended_workers + 1, lease_until = NULL,
                          state = IF(ended_workers >= ?, 'refused', state), reason = IF(ended_workers >= ?, ?, reason)
                        WHERE id = ? AND state = 'unread'
                        """)
                .params(
                        MOST_ENDED_WORKERS,
                        MOST_ENDED_WORKERS,
                        "Reading this file has ended the worker three times, so it is set aside.",
                        id)
                .update();
    }

    void read(long id, ReadFrame read) {
        SettledLaw.Evidence noise = read.noiseEvidence();
        db.sql("""
                        UPDATE frame SET state = 'ready', reason = NULL, ended_workers = 0, sha256 = ?, camera = ?, iso = ?,
                          exposure_seconds = ?, aperture = ?, focal_length_mm = ?, lens = ?, taken_at = ?, width = ?,
                          height = ?, pattern = ?, noise = ?, reading = ?, lease_until = NULL, body = ?, serial = ?,
                          compensation = ?, pooled = ?, dark = ?, focus_map = ?, defects = ?, own_optics = ?,
                          noise_told = ?, noise_error = ?, noise_black_error = ?, noise_grey_error = ?,
                          push = IF(push_from IN ('typed', 'proposed'), push, ?),
                          push_from = IF(push_from IN ('typed', 'proposed'), push_from, ?)
                        WHERE id = ?
                        """)
                .params(
                        read.sha256(),
                        read.camera(),
                        read.iso(),
                        number(read.exposureSeconds()),
                        number(read.aperture()),
                        number(read.focalLengthMm()),
                        read.lens(),
                        read.takenAt(),
                        read.width(),
                        read.height(),
                        read.pattern(),
                        read.noiseJson(),
                        read.readingJson(),
                        read.body(),
                        read.serial(),
                        number(read.compensation()),
                        read.pooled(),
                        read.dark(),
                        read.focusMap(),
                        read.defects(),
                        read.ownOptics(),
                        noise != null && noise.profile(),
                        noise == null ? null : noise.errorPercent(),
                        noise == null ? null : noise.blackErrorPercent(),
                        noise == null ? null : noise.greyErrorPercent(),
                        read.sidecarPush(),
                        read.sidecarPush() == null ? null : "sidecar",
                        id)
                .update();
    }

    private static Double number(double value) {
        return Double.isNaN(value) ? null : value;
    }

    void refuse(long id, String state, String reason) {
        db.sql("UPDATE frame SET state = ?, reason = ?, lease_until = NULL WHERE id = ?")
                .params(state, reason.substring(0, Math.min(1000, reason.length())), id)
                .update();
    }

    /** @param mark {@code keep}, {@code drop} or null */
    void mark(long shootId, List<Long> frameIds, String mark) {
        for (int from = 0; from < frameIds.size(); from += 1000) {
            db.sql("UPDATE frame SET mark = :mark WHERE id IN (:ids) AND shoot_id = :shoot AND state <> 'own'")
                    .param("mark", mark)
                    .param("ids", frameIds.subList(from, Math.min(frameIds.size(), from + 1000)))
                    .param("shoot", shootId)
                    .update();
        }
    }

    /**
     * @param verdict {@code held}, {@code accepted} or null
     * @return false when the shoot has no such frame
     */
    boolean decide(long shootId, long frameId, String verdict) {
        return db.sql("UPDATE frame SET verdict = ? WHERE id = ? AND shoot_id = ? AND state <> 'own'")
                        .params(verdict, frameId, shootId)
                        .update()
                == 1;
    }

    void tryAgain(long shootId) {
        db.sql(
                        "UPDATE frame SET state = 'unread', reason = NULL, ended_workers = 0 WHERE shoot_id = ? AND state = 'refused'")
                .param(shootId)
                .update();
    }
}
