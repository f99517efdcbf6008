package org.rainsieve.web.run;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.pipeline.ReturnCheck;
import org.rainsieve.pipeline.ReturnWriter;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;
import tools.jackson.databind.json.JsonMapper;

/** Runs and their items. Every change of an item by a worker compares its attempt first. */
@Repository
class RunRepository {
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final int AT_ONCE = 200;

    private static final int MOST_ENDED_WORKERS = 3;

    private final JdbcClient db;

    RunRepository(JdbcClient db) {
        this.db = db;
    }

    /** Keeps the word of a form, or tells the run that it started; waits for whoever is about to start it. */
    Optional<Long> begun(String once) {
        String word = once.substring(0, Math.min(64, once.length()));
        boolean first = db.sql("INSERT IGNORE INTO run_start (once) VALUES (?)")
                        .param(word)
                        .update()
                == 1;
        return first
                ? Optional.empty()
                : db.sql("SELECT run_id FROM run_start WHERE once = ?")
                        .param(word)
                        .query(Long.class)
                        .optional();
    }

    void setBegun(String once, long runId) {
        db.sql("UPDATE run_start SET run_id = ? WHERE once = ?")
                .params(runId, once.substring(0, Math.min(64, once.length())))
                .update();
    }

    long addRun(RunRequest request) {
        var keys = new org.springframework.jdbc.support.GeneratedKeyHolder();
        db.sql("""
                        INSERT INTO run (shoot_id, destination, even_grain, enlarge, delivery, naming, carry_edits, note_push, copy_originals, replaces)
                        VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
                        """)
                .params(
                        request.shootId(),
                        request.destination(),
                        request.evenGrain(),
                        request.enlarge().on() ? JSON.writeValueAsString(request.enlarge()) : null,
                        json(request.delivery()),
                        request.ownNaming(),
                        request.along().edits(),
                        request.along().push(),
                        request.along().originals(),
                        request.replaces())
                .update(keys);
        return keys.getKey().longValue();
    }

    static String json(DeliverySettings delivery) {
        return JSON.writeValueAsString(delivery);
    }

    /** The newest return of each frame of a shoot in each form at each place. */
    List<RunPlanning.Returned> newestReturns(long shootId) {
        return db.sql("""
                        SELECT i.id, i.frame_id, i.form, r.destination, r.delivery, r.even_grain FROM item i JOIN run r ON r.id = i.run_id
                        WHERE i.id IN (SELECT MAX(n.id) FROM item n JOIN run s ON s.id = n.run_id
                          WHERE s.shoot_id = ? AND n.state = 'returned' GROUP BY n.frame_id, n.form, s.destination)
                        """).param(shootId).query(RunPlanning.Returned.class).list();
    }

    /** As JSON. */
    Map<Long, String> settingsOf(Collection<Long> items) {
        record Row(long id, String settings) {}
        Map<Long, String> settings = new HashMap<>();
        List<Long> all = List.copyOf(items);
        for (int from = 0; from < all.size(); from += 1000) {
            db.sql("SELECT id, settings FROM item WHERE id IN (:ids)")
                    .param("ids", all.subList(from, Math.min(all.size(), from + 1000)))
                    .query(Row.class)
                    .list()
                    .forEach(row -> settings.put(row.id, row.settings));
        }
        return settings;
    }

    /** A new run with the destination and forms of another, without items yet. */
    long copyRun(long runId) {
        var keys = new org.springframework.jdbc.support.GeneratedKeyHolder();
        db.sql("""
                        INSERT INTO run (shoot_id, destination, even_grain, enlarge, delivery, naming, carry_edits, note_push, copy_originals, replaces)
                        SELECT shoot_id, destination, even_grain, enlarge, delivery, naming, carry_edits, note_push, copy_originals, replaces
                        FROM run WHERE id = ?
                        """).param(runId).update(keys);
        return keys.getKey().longValue();
    }

    /** What a run was asked to do, with all frames of its shoot. */
    RunRequest request(long runId, Set<ReturnForm> forms) {
        record Row(
                long shootId,
                String destination,
                boolean evenGrain,
                String enlarge,
                String delivery,
                String naming,
                boolean carryEdits,
                boolean notePush,
                boolean copyOriginals,
                boolean replaces) {}
        Row row = db.sql("""
                        SELECT shoot_id, destination, even_grain, enlarge, delivery, naming, carry_edits, note_push, copy_originals, replaces
                        FROM run WHERE id = ?
                        """).param(runId).query(Row.class).single();
        return new RunRequest(
                row.shootId,
                Take.ALL,
                Set.of(),
                true,
                row.replaces,
                row.destination,
                row.evenGrain,
                row.enlarge == null ? EnlargeSettings.OFF : JSON.readValue(row.enlarge, EnlargeSettings.class),
                forms,
                JSON.readValue(row.delivery, DeliverySettings.class),
                row.naming == null ? "" : row.naming,
                new RunRequest.Along(row.carryEdits, row.notePush, row.copyOriginals));
    }

    void copyItems(long from, long to) {
        db.sql("""
                        INSERT INTO item (run_id, frame_id, form, settings, made_from)
                        SELECT ?, frame_id, form, settings, made_from FROM item WHERE run_id = ? ORDER BY id
                        """).params(to, from).update();
        // What was developed from a linear DNG of its own run is so again.
        db.sql("""
                        UPDATE item i JOIN item source ON source.id = i.made_from AND source.run_id = ?
                          JOIN item own ON own.run_id = i.run_id AND own.frame_id = source.frame_id AND own.form = source.form
                        SET i.made_from = own.id WHERE i.run_id = ?
                        """).params(from, to).update();
    }

    /** Those of a run's items of this form are developed from the linear DNG of the same frame, which is made first. */
    void developFromLinear(long runId, List<Long> frames, ReturnForm form) {
        for (int from = 0; from < frames.size(); from += 1000) {
            db.sql("""
                            UPDATE item i JOIN item own ON own.run_id = i.run_id AND own.frame_id = i.frame_id AND own.form = 'DNG'
                            SET i.made_from = own.id WHERE i.run_id = :run AND i.form = :form AND i.frame_id IN (:frames)
                            """)
                    .param("run", runId)
                    .param("form", form.name())
                    .param("frames", frames.subList(from, Math.min(frames.size(), from + 1000)))
                    .update();
        }
    }

    /** @param madeFrom the return that it is a copy of; 0 for the original */
    record NewItem(long frameId, ReturnForm form, String settings, long madeFrom) {
        NewItem(long frameId, ReturnForm form, String settings) {
            this(frameId, form, settings, 0);
        }
    }

    /** Returns of the same frame, in the same form and at the same place, that were made before one whose run replaces them. */
    List<Long> replacedBy(long itemId) {
        return db.sql("""
                        SELECT o.id FROM item i JOIN run r ON r.id = i.run_id AND r.replaces
                          JOIN item o ON o.frame_id = i.frame_id AND o.form = i.form AND o.id < i.id AND o.state = 'returned'
                            AND o.picked_up_path IS NULL
                          JOIN run q ON q.id = o.run_id AND q.destination = r.destination
                        WHERE i.id = ?
                        """).param(itemId).query(Long.class).list();
    }

    /** In one statement for many: a run of thousands is queued at once. */
    void addItems(long runId, List<NewItem> items) {
        for (int from = 0; from < items.size(); from += AT_ONCE) {
            List<NewItem> some = items.subList(from, Math.min(items.size(), from + AT_ONCE));
            List<Object> values = new ArrayList<>();
            some.forEach(item ->
                    values.addAll(List.of(runId, item.frameId, item.form.name(), item.settings, item.madeFrom)));
            db.sql("INSERT INTO item (run_id, frame_id, form, settings, made_from) VALUES "
                            + String.join(", ", Collections.nCopies(some.size(), "(?, ?, ?, ?, ?)")))
                    .params(values)
                    .update();
        }
    }

    /** Seconds at work: no more than all items together took, so that a night without a worker is not counted. */
    private static final String RUNS = """
            SELECT r.id, r.shoot_id, s.name AS shoot, r.state, r.destination, r.created_at, r.halted,
                   GROUP_CONCAT(DISTINCT i.form ORDER BY i.form) AS forms,
                   COUNT(DISTINCT i.frame_id) AS frames,
                   COUNT(i.id) AS items,
                   COALESCE(SUM(i.state = 'waiting'), 0) AS waiting,
                   COALESCE(SUM(i.state = 'taken'), 0) AS taken,
                   COALESCE(SUM(i.state = 'returned'), 0) AS returned,
                   COALESCE(SUM(i.state = 'failed'), 0) AS failed,
                   COALESCE(SUM(i.state = 'discarded'), 0) AS discarded,
                   COALESCE(SUM(f.width / 1e6 * f.height), 0) AS megapixels,
                   COALESCE(SUM(IF(i.state IN ('returned', 'failed', 'discarded'), 1, i.progress) * f.width / 1e6 * f.height), 0)
                     AS megapixels_done,
                   COALESCE(SUM(IF(i.state IN ('returned', 'failed', 'discarded'), f.width / 1e6 * f.height, 0)), 0)
                     AS megapixels_ended,
                   COALESCE(SUM(IF(i.state IN ('returned', 'discarded'), i.size_bytes, 0)), 0) AS returns_bytes,
                   LEAST(
                     TIMESTAMPDIFF(MICROSECOND, MIN(i.started_at), IF(SUM(i.state IN ('waiting', 'taken')) > 0, NOW(3),
                       MAX(i.finished_at))),
                     SUM(IF(i.state = 'waiting', NULL,
                       TIMESTAMPDIFF(MICROSECOND, i.started_at, IF(i.state = 'taken', NOW(3), i.finished_at))))
                   ) / 1e6 AS seconds
            FROM run r JOIN shoot s ON s.id = r.shoot_id JOIN item i ON i.run_id = r.id JOIN frame f ON f.id = i.frame_id
            """;

    List<RunRow> runs() {
        return db.sql(RUNS + " GROUP BY r.id ORDER BY r.id DESC LIMIT 200")
                .query(RunRow.class)
                .list();
    }

    Optional<RunRow> run(long id) {
        return db.sql(RUNS + " WHERE r.id = ? GROUP BY r.id")
                .param(id)
                .query(RunRow.class)
                .optional();
    }

    private static final String ITEMS = """
            SELECT i.id, i.run_id, i.frame_id, f.name, i.state, i.form, i.progress, i.version,
                   COALESCE(i.picked_up_path, i.final_path) AS final_path, i.picked_up_path IS NOT NULL AS picked_up, i.hash, i.size_bytes, i.noise_left, i.grain, i.reason, f.iso, f.camera, i.settings, f.path, f.width, f.height, f.orientation,
                   TIMESTAMPDIFF(MICROSECOND, i.started_at, i.finished_at) / 1e6 AS seconds
            FROM item i JOIN frame f ON f.id = i.frame_id
            """;

    List<ItemRow> items(long runId) {
        return db.sql(ITEMS + " WHERE i.run_id = ? ORDER BY i.id")
                .param(runId)
                .query(ItemRow.class)
                .list();
    }

    /** A part of a run's items, failed ones first. */
    List<ItemRow> items(long runId, int from, int most) {
        return db.sql(ITEMS + " WHERE i.run_id = ? ORDER BY i.state = 'failed' DESC, i.id LIMIT ?, ?")
                .params(runId, from, most)
                .query(ItemRow.class)
                .list();
    }

    /** The database's time now, for {@link #changed}. */
    String now() {
        return db.sql("SELECT CAST(NOW(3) AS CHAR)").query(String.class).single();
    }

    long clockMs() {
        return db.sql("SELECT CAST(UNIX_TIMESTAMP(NOW(3)) * 1000 AS SIGNED)")
                .query(Long.class)
                .single();
    }

    /** Items that have changed since a time of the database. */
    List<ItemEvent> changed(long runId, String since) {
        return db.sql("""
                        SELECT i.id, i.state, i.progress, i.noise_left, i.size_bytes, i.reason,
                               SUBSTRING_INDEX(COALESCE(i.picked_up_path, i.final_path, ''), '/', -1) AS return_name,
                               TIMESTAMPDIFF(MICROSECOND, i.started_at, i.finished_at) / 1e6 AS seconds
                        FROM item i WHERE i.run_id = ? AND i.changed_at >= ? ORDER BY i.id
                        """).params(runId, since).query(ItemEvent.class).list();
    }

    /** Returns of a run whose grain was measured. */
    List<RunService.Measured> measured(long runId) {
        return db.sql("""
                        SELECT i.id, f.name, f.camera, i.grain FROM item i JOIN frame f ON f.id = i.frame_id
                        WHERE i.run_id = ? AND i.state = 'returned' AND i.grain IS NOT NULL ORDER BY i.id
                        """).param(runId).query(RunService.Measured.class).list();
    }

    /** Returns of a run in which something stands out, as it was found when they were written. */
    List<RunService.Odd> odd(long runId) {
        record Row(long id, String name, int width, int height, String odd) {}
        return db.sql("""
                        SELECT i.id, f.name, f.width, f.height, i.odd FROM item i JOIN frame f ON f.id = i.frame_id
                        WHERE i.run_id = ? AND i.state = 'returned' AND i.odd IS NOT NULL ORDER BY i.id
                        """).param(runId).query(Row.class).list().stream()
                .map(row -> new RunService.Odd(
                        row.id,
                        row.name,
                        row.width,
                        row.height,
                        List.of(JSON.readValue(row.odd, ReturnCheck.Oddity[].class))))
                .toList();
    }

    List<Long> returnedIds(long runId) {
        return db.sql("SELECT id FROM item WHERE run_id = ? AND state = 'returned' ORDER BY id")
                .param(runId)
                .query(Long.class)
                .list();
    }

    Optional<ItemRow> item(long id) {
        return db.sql(ITEMS + " WHERE i.id = ?").param(id).query(ItemRow.class).optional();
    }

    private static final String VERSIONS = """
            SELECT i.id, i.run_id, i.frame_id, f.name AS frame, i.version, i.form, i.state, i.size_bytes, i.noise_left, i.settings,
                   COALESCE(i.picked_up_path, i.final_path) AS path, i.picked_up_path IS NOT NULL AS picked_up, r.destination
            FROM item i JOIN frame f ON f.id = i.frame_id JOIN run r ON r.id = i.run_id
            WHERE i.state IN ('returned', 'discarded') AND i.final_path IS NOT NULL""";

    List<Returns.Version> versions(long shootId) {
        return db.sql(VERSIONS + " AND f.shoot_id = ? ORDER BY f.name, f.id, i.form, i.version")
                .param(shootId)
                .query(Returns.Version.class)
                .list();
    }

    List<Returns.Version> versionsOf(long frameId) {
        return db.sql(VERSIONS + " AND f.id = ? ORDER BY i.form, i.version")
                .param(frameId)
                .query(Returns.Version.class)
                .list();
    }

    /** The newest item of a frame, whatever became of it. */
    Optional<FrameReturn> newestOf(long frameId) {
        return db.sql("""
                        SELECT i.id AS item, i.state, COALESCE(i.final_path, '') AS path, COALESCE(i.reason, '') AS reason
                        FROM item i WHERE i.frame_id = ? ORDER BY i.id DESC LIMIT 1
                        """).param(frameId).query(FrameReturn.class).optional();
    }

    List<Returns.InInbox> inInbox() {
        return db.sql("""
                        SELECT i.id, i.final_path AS path, i.hash, i.size_bytes FROM item i JOIN run r ON r.id = i.run_id
                        WHERE i.state = 'returned' AND i.picked_up_path IS NULL AND r.destination = 'inbox'
                        """).query(Returns.InInbox.class).list();
    }

    void pickedUp(long itemId, String path) {
        db.sql("UPDATE item SET picked_up_path = ? WHERE id = ?")
                .params(path, itemId)
                .update();
    }

    /** The newest returns that were made in one go and not enlarged, with what they took. */
    List<MadeRow> made(int most) {
        return db.sql("""
                        SELECT i.settings, i.form, f.width / 1e6 * f.height AS megapixels,
                               TIMESTAMPDIFF(MICROSECOND, i.started_at, i.finished_at) / 1e6 AS seconds,
                               i.size_bytes AS bytes
                        FROM item i JOIN frame f ON f.id = i.frame_id JOIN run r ON r.id = i.run_id
                        WHERE i.state = 'returned' AND i.attempt = 1 AND r.enlarge IS NULL AND i.size_bytes > 0 AND i.made_from = 0
                        ORDER BY i.id DESC LIMIT ?
                        """).param(most).query(MadeRow.class).list();
    }

    record MadeRow(String settings, ReturnForm form, double megapixels, double seconds, long bytes) {}

    void setHalted(long runId, String why) {
        db.sql("UPDATE run SET halted = ? WHERE id = ? AND NOT halted <=> ?")
                .params(why, runId, why)
                .update();
    }

    void setItemState(long itemId, String from, String to) {
        db.sql("UPDATE item SET state = ? WHERE id = ? AND state = ?")
                .params(to, itemId, from)
                .update();
    }

    void setState(long runId, String from, String to) {
        db.sql("UPDATE run SET state = ? WHERE id = ? AND state = ?")
                .params(to, runId, from)
                .update();
    }

    void stop(long runId) {
        db.sql("UPDATE run SET state = 'stopped' WHERE id = ? AND state IN ('running', 'paused')")
                .param(runId)
                .update();
    }

    void retryFailed(long runId) {
        db.sql(
                        "UPDATE item SET state = 'waiting', reason = NULL, progress = 0, ended_workers = 0 WHERE run_id = ? AND state = 'failed'")
                .param(runId)
                .update();
        db.sql("UPDATE run SET state = 'running' WHERE id = ? AND state = 'stopped'")
                .param(runId)
                .update();
    }

    /** Waiting items of running runs, those that come first. */
    List<Long> next(int most) {
        return db.sql("""
                        SELECT i.id FROM item i JOIN run r ON r.id = i.run_id
                        WHERE i.state = 'waiting' AND r.state = 'running'
                          AND NOT EXISTS (SELECT 1 FROM item s WHERE s.id = i.made_from AND s.state IN ('waiting', 'taken'))
                        ORDER BY r.priority DESC, i.run_id, i.id LIMIT ?
                        """).param(most).query(Long.class).list();
    }

    /** Items that some attempt is at work on, or was. */
    List<Long> taken() {
        return db.sql("SELECT id FROM item WHERE state = 'taken'")
                .query(Long.class)
                .list();
    }

    /** Takes a waiting item of a running run, or one that another attempt had taken; that one finds out by its number. */
    Optional<TakenItem> take(long itemId, long workerId) {
        int taken = db.sql("""
                        UPDATE item i JOIN run r ON r.id = i.run_id
                        SET i.state = 'taken', i.attempt = i.attempt + 1, i.worker_id = ?, i.progress = 0, i.started_at = NOW(3)
                        WHERE i.id = ? AND ((i.state = 'waiting' AND r.state = 'running') OR i.state = 'taken')
                        """).params(workerId, itemId).update();
        return taken == 0
                ? Optional.empty()
                : db.sql("""
                                SELECT i.id, i.run_id, i.frame_id, i.attempt, i.settings, i.version, i.final_path, i.hash,
                                       r.destination, i.form, r.delivery, r.naming, r.carry_edits, r.note_push, r.copy_originals, NULLIF(i.made_from, 0) AS made_from
                                FROM item i JOIN run r ON r.id = i.run_id WHERE i.id = ?
                                """).param(itemId).query(TakenItem.class).optional();
    }

    void heartbeat(long workerId, HeldMemory memory) {
        db.sql("UPDATE worker SET seen_at = NOW(3), working_bytes = ?, heap_bytes = ?, most_bytes = ? WHERE id = ?")
                .params(memory.workingBytes(), memory.heapBytes(), memory.mostBytes(), workerId)
                .update();
    }

    void progress(long itemId, int attempt, double share) {
        db.sql("UPDATE item SET progress = ? WHERE id = ? AND attempt = ? AND state = 'taken'")
                .params(share, itemId, attempt)
                .update();
    }

    boolean stillMine(long itemId, int attempt) {
        return db.sql("SELECT COUNT(*) FROM item WHERE id = ? AND attempt = ? AND state = 'taken'")
                        .params(itemId, attempt)
                        .query(Integer.class)
                        .single()
                == 1;
    }

    /** An attempt that was made and that nobody is at any more. */
    boolean abandoned(long itemId, int attempt) {
        return db.sql(
                                "SELECT COUNT(*) FROM item WHERE id = ? AND attempt >= ? AND NOT (attempt = ? AND state = 'taken')")
                        .params(itemId, attempt, attempt)
                        .query(Integer.class)
                        .single()
                == 1;
    }

    /** False when the run was stopped or paused meanwhile. */
    boolean wanted(long itemId) {
        return db.sql(
                                "SELECT COUNT(*) FROM item i JOIN run r ON r.id = i.run_id WHERE i.id = ? AND r.state <> 'stopped'")
                        .param(itemId)
                        .query(Integer.class)
                        .single()
                == 1;
    }

    int nextVersion(long frameId, ReturnForm form, long itemId) {
        return db.sql("SELECT COALESCE(MAX(version), 0) + 1 FROM item WHERE frame_id = ? AND form = ? AND id <> ?")
                .params(frameId, form.name(), itemId)
                .query(Integer.class)
                .single();
    }

    /**
     * Records what is about to be published; false when the item was taken over.
     *
     * @throws org.springframework.dao.DuplicateKeyException when another item has that version of the frame
     */
    boolean record(
            long itemId,
            int attempt,
            int version,
            String finalPath,
            String hash,
            long size,
            ReturnWriter.Written written) {
        int recorded = db.sql("""
                        UPDATE item SET version = ?, final_path = ?, hash = ?, size_bytes = ?, noise_left = ?, grain = ?, odd = ?
                        WHERE id = ? AND attempt = ? AND state = 'taken'
                        """)
                .params(
                        version,
                        finalPath,
                        hash,
                        size,
                        written.noiseLeft(),
                        Double.isNaN(written.grain()) ? null : written.grain(),
                        written.odd().isEmpty() ? null : JSON.writeValueAsString(written.odd()),
                        itemId,
                        attempt)
                .update();
        if (recorded == 1) {
            db.sql("REPLACE INTO publication (item_id, attempt, final_path, hash) VALUES (?, ?, ?, ?)")
                    .params(itemId, attempt, finalPath, hash)
                    .update();
        }
        return recorded == 1;
    }

    /** Hashes of all files that any attempt at this item was about to publish under that name. */
    List<String> publications(long itemId, String finalPath) {
        return db.sql("SELECT hash FROM publication WHERE item_id = ? AND final_path = ?")
                .params(itemId, finalPath)
                .query(String.class)
                .list();
    }

    /** Working on it has ended a worker; after the third time it is set aside, so that others go on. */
    void endedWorker(long itemId) {
        db.sql("""
                        UPDATE item SET ended_workers = ended_workers + 1,
                          finished_at = IF(ended_workers >= ?, NOW(3), finished_at),
                          state = IF(ended_workers >= ?, 'failed', state), reason = IF(ended_workers >= ?, ?, reason)
                        WHERE id = ? AND state = 'taken'
                        """)
                .params(
                        MOST_ENDED_WORKERS,
                        MOST_ENDED_WORKERS,
                        MOST_ENDED_WORKERS,
                        "Working on this frame has ended the worker three times, so it is set aside.",
                        itemId)
                .update();
    }

    boolean returned(long itemId, int attempt, String hash) {
        return db.sql("""
                                UPDATE item SET state = 'returned', progress = 1, finished_at = NOW(3),
                                  hash = ?, reason = NULL WHERE id = ? AND attempt = ? AND state = 'taken'
                                """).params(hash, itemId, attempt).update() == 1;
    }

    void failed(long itemId, int attempt, String reason) {
        db.sql("""
                        UPDATE item SET state = 'failed', finished_at = NOW(3), reason = ?,
                          version = NULL, final_path = NULL, hash = NULL
                        WHERE id = ? AND attempt = ? AND state = 'taken'
                        """)
                .params(reason.substring(0, Math.min(1000, reason.length())), itemId, attempt)
                .update();
    }

    /** Gives an item back untouched, as when a run is stopped or a worker ends in good order. */
    void giveBack(long itemId, int attempt) {
        db.sql("""
                        UPDATE item SET state = 'waiting', progress = 0
                        WHERE id = ? AND attempt = ? AND state = 'taken'
                        """).params(itemId, attempt).update();
    }

    long addWorker(String address, String secret) {
        var keys = new org.springframework.jdbc.support.GeneratedKeyHolder();
        db.sql("INSERT INTO worker (address, secret) VALUES (?, ?)")
                .params(address, secret)
                .update(keys);
        return keys.getKey().longValue();
    }

    void removeWorker(long id) {
        db.sql("DELETE FROM worker WHERE id = ?").param(id).update();
    }

    /** Workers heard of within a lease, the freshest first. */
    List<WorkerRow> workers(long leaseMs) {
        return db.sql("""
                        SELECT w.id, w.address, w.secret, w.working_bytes, w.heap_bytes, w.most_bytes, f.name AS frame, i.progress,
                               (SELECT MIN(u.name) FROM frame u
                                WHERE u.state = 'unread' AND u.reader = w.id AND u.lease_until > NOW(3)) AS reading
                        FROM worker w
                        LEFT JOIN item i ON i.id = (SELECT MAX(t.id) FROM item t WHERE t.state = 'taken' AND t.worker_id = w.id)
                        LEFT JOIN frame f ON f.id = i.frame_id WHERE w.seen_at > NOW(3) - INTERVAL ? MICROSECOND ORDER BY w.seen_at DESC
                        """).param(leaseMs * 1000).query(WorkerRow.class).list();
    }

    /** How many of a run's items have each step on. */
    record StepCounts(int items, int denoise, int sharpen, int optics, int crop, int enlarge) {}

    StepCounts stepCounts(long runId) {
        return db.sql("""
                        SELECT COUNT(*) AS items,
                               COALESCE(SUM(JSON_EXTRACT(settings, '$.denoise.on') = true), 0) AS denoise,
                               COALESCE(SUM(JSON_EXTRACT(settings, '$.sharpen.on') = true), 0) AS sharpen,
                               COALESCE(SUM(JSON_EXTRACT(settings, '$.optics.on') = true), 0) AS optics,
                               COALESCE(SUM(JSON_EXTRACT(settings, '$.crop.on') = true), 0) AS crop,
                               COALESCE(SUM(JSON_EXTRACT(settings, '$.enlarge.on') = true), 0) AS enlarge
                        FROM item WHERE run_id = ?
                        """).param(runId).query(StepCounts.class).single();
    }

    boolean others(long runId) {
        return db.sql("""
                        SELECT EXISTS (SELECT 1 FROM run r JOIN item i ON i.run_id = r.id
                        WHERE r.id <> ? AND r.state = 'running' AND i.state IN ('waiting', 'taken'))
                        """).param(runId).query(Boolean.class).single();
    }

    /** Before all others from now on. */
    void first(long runId) {
        db.sql("UPDATE run SET priority = (SELECT p FROM (SELECT MAX(priority) + 1 p FROM run) m) WHERE id = ?")
                .param(runId)
                .update();
    }

    Map<String, Long> itemsByState() {
        Map<String, Long> counts = new TreeMap<>();
        db.sql("SELECT state, COUNT(*) n FROM item GROUP BY state").query(row -> {
            counts.put(row.getString("state"), row.getLong("n"));
        });
        return counts;
    }

    /** By how much this machine took longer than a usual one; NaN before its trial. */
    double trial(String engine) {
        return db.sql("SELECT slower FROM speed_trial WHERE engine = ?")
                .param(engine)
                .query(Double.class)
                .optional()
                .orElse(Double.NaN);
    }

    void keepTrial(String engine, double slower) {
        db.sql("REPLACE INTO speed_trial (engine, slower) VALUES (?, ?)")
                .params(engine, slower)
                .update();
    }
}
