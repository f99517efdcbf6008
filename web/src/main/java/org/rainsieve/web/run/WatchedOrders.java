package org.rainsieve.web.run;

import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.dao.DataAccessException;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Watched folders that start a standing order by themselves: frames that were in no run yet, once all that came are read. A frame
 * is taken along once, whatever came of it; dropped ones and those held back are not.
 */
@Component
@ConditionalOnWebApplication
class WatchedOrders {
    private static final Logger LOG = LoggerFactory.getLogger(WatchedOrders.class);
    private static final long LOOK_MS = 10_000;

    private final JdbcClient db;
    private final StandingOrders orders;
    private final RunStarter starter;

    WatchedOrders(JdbcClient db, StandingOrders orders, RunStarter starter) {
        this.db = db;
        this.orders = orders;
        this.starter = starter;
    }

    /** The order that a shoot starts by itself; nothing for none, or for one that is gone. */
    Optional<Long> of(long shootId) {
        return db.sql("SELECT o.id FROM shoot s JOIN standing_order o ON o.id = s.order_id WHERE s.id = ?")
                .param(shootId)
                .query(Long.class)
                .optional();
    }

    /** @param order null for none */
    void set(long shootId, Long order) {
        if (order != null && orders.all().stream().noneMatch(known -> known.id() == order)) {
            throw new NotFoundException("There is no such standing order any more. Load the page again.");
        }
        db.sql("UPDATE shoot SET order_id = ? WHERE id = ?")
                .params(order, shootId)
                .update();
    }

    private record Watched(long shoot, long order) {}

    @Scheduled(fixedDelay = LOOK_MS, initialDelay = LOOK_MS)
    void look() {
        try {
            List<Watched> watched = db.sql("""
                            SELECT s.id AS shoot, o.id AS `order` FROM shoot s JOIN standing_order o ON o.id = s.order_id
                            WHERE s.watched AND NOT EXISTS (SELECT 1 FROM frame f WHERE f.shoot_id = s.id AND f.state = 'unread')
                            """).query(Watched.class).list();
            watched.forEach(this::start);
        } catch (DataAccessException e) {
            LOG.warn("The database does not answer; watched folders are looked at later");
        }
    }

    private void start(Watched watched) {
        List<Long> frames = db.sql("""
                        SELECT f.id FROM frame f WHERE f.shoot_id = ? AND f.state = 'ready' AND NOT f.dark
                          AND COALESCE(f.mark, '') <> 'drop' AND COALESCE(f.verdict, '') <> 'held'
                          AND NOT EXISTS (SELECT 1 FROM item i WHERE i.frame_id = f.id)
                        """).param(watched.shoot).query(Long.class).list();
        if (frames.isEmpty()) {
            return;
        }
        orders.all().stream()
                .filter(order -> order.id() == watched.order)
                .findFirst()
                .ifPresent(order -> {
                    try {
                        long run = starter.start(
                                order.choices().request(watched.shoot).of(new LinkedHashSet<>(frames)), "");
                        LOG.info("Run {} was begun by the standing order {}", run, order.name());
                    } catch (NotPossibleException e) {
                        LOG.warn("The standing order {} cannot be started: {}", order.name(), e.getMessage());
                    }
                });
    }
}
