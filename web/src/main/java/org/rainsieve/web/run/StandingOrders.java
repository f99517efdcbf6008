package org.rainsieve.web.run;

import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.rainsieve.web.setup.NotPossibleException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.event.EventListener;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** Choices of runs that stand there again the next time: those of the last run to each place, and those that were given a name. */
@Component
class StandingOrders {
    private static final JsonMapper JSON = JsonMapper.builder()
            .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES) // kept by another version
            .build();

    private static final int LONGEST_NAME = 100;
    private static final int MOST = 100;

    private static final Logger LOG = LoggerFactory.getLogger(StandingOrders.class);

    private final JdbcClient db;
    private final String home;

    StandingOrders(JdbcClient db, @Value("${sieve.home:}") String home) {
        this.db = db;
        this.home = home;
    }

    /** For the command line, which takes them from there. */
    @EventListener(ApplicationReadyEvent.class)
    public void publish() {
        if (home.isEmpty()) {
            return;
        }
        Map<String, RunForm> named = new LinkedHashMap<>();
        all().stream()
                .filter(order -> !order.name().isEmpty())
                .forEach(order -> named.put(order.name(), order.choices()));
        try {
            OrderFile.write(Path.of(home), named);
        } catch (IOException e) {
            LOG.warn("The standing orders could not be written for the command line: {}", e.getMessage());
        }
    }

    /** @param name empty for what was asked for last at that place */
    record Order(long id, String name, String destination, RunForm choices) {}

    private record Row(long id, String name, String destination, String choices) {
        Order order() {
            return new Order(id, name, destination, JSON.readValue(choices, RunForm.class));
        }
    }

    private static final String ROWS = "SELECT id, name, destination, choices FROM standing_order";

    /** The one used last comes first. */
    List<Order> all() {
        return db.sql(ROWS + " ORDER BY used_at DESC, id DESC").query(Row.class).list().stream()
                .map(Row::order)
                .toList();
    }

    /** What was asked for last, wherever to; the usual before any run. */
    RunForm last() {
        return db.sql(ROWS + " WHERE name = '' ORDER BY used_at DESC, id DESC LIMIT 1")
                .query(Row.class)
                .optional()
                .map(row -> row.order().choices())
                .orElseGet(() -> JSON.readValue("{}", RunForm.class));
    }

    /** Keeps the choices of a run that was started, under a name too where it has one. */
    @Transactional
    public void remember(RunForm form) {
        RunForm kept = form.kept();
        put("", kept);
        String name = form.keepAs() == null ? "" : form.keepAs().strip();
        if (!name.isEmpty()) {
            check(name);
            db.sql("DELETE FROM standing_order WHERE name = ?").param(name).update();
            put(name, kept);
            publish();
        }
    }

    /** @throws NotPossibleException in plain words for a name that cannot be kept */
    void check(String name) {
        if (name.strip().length() > LONGEST_NAME) {
            throw new NotPossibleException(
                    "The name of a standing order may have at most 100 letters. No run was started.");
        }
        if (db.sql("SELECT COUNT(*) FROM standing_order WHERE name <> ''")
                        .query(Integer.class)
                        .single()
                >= MOST) {
            throw new NotPossibleException("There are 100 standing orders. Remove one first. No run was started.");
        }
    }

    private void put(String name, RunForm kept) {
        db.sql("""
                        INSERT INTO standing_order (name, destination, choices) VALUES (?, ?, ?)
                        ON DUPLICATE KEY UPDATE choices = VALUES(choices), used_at = NOW(3)
                        """)
                .params(name, kept.destination(), JSON.writeValueAsString(kept))
                .update();
    }

    void forget(long id) {
        db.sql("DELETE FROM standing_order WHERE id = ? AND name <> ''")
                .param(id)
                .update();
        publish();
    }
}
