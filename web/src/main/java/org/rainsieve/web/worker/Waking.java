package org.rainsieve.web.worker;

import com.github.kagkarlsson.scheduler.ScheduledExecutionsFilter;
import com.github.kagkarlsson.scheduler.Scheduler;
import com.github.kagkarlsson.scheduler.SchedulerName;
import com.github.kagkarlsson.scheduler.exceptions.TaskInstanceException;
import com.github.kagkarlsson.scheduler.task.FailureHandler.OnFailureRetryLater;
import com.github.kagkarlsson.scheduler.task.TaskInstanceId;
import com.github.kagkarlsson.scheduler.task.helper.OneTimeTask;
import com.github.kagkarlsson.scheduler.task.helper.Tasks;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashSet;
import java.util.Set;
import java.util.function.LongConsumer;
import javax.sql.DataSource;
import org.rainsieve.web.run.WorkQueue;
import org.rainsieve.web.setup.SieveProperties;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Wakes this worker for items: a scheduler over the database says which worker does which, holds the lease while it lives
 * and hands the item to another when it has not been heard of. It is given one item for each worker at a time, so that
 * what is paused, stopped or done first is decided by the item rows alone. Time is the database's: clocks of several machines
 * need not agree.
 */
final class Waking {
    private static final Logger LOG = LoggerFactory.getLogger(Waking.class);
    private static final String TASK = "item";
    private static final Duration POLLING = Duration.ofMillis(300);
    private static final long COMPARED_NS = Duration.ofMinutes(1).toNanos();
    private static final Duration AGAIN = Duration.ofSeconds(2);

    private final WorkQueue queue;
    private final OneTimeTask<Void> task;
    private final Scheduler scheduler;
    private volatile long aheadMs;
    private volatile long comparedAt;

    /**
     * @param longest that the end waits for the item at hand
     * @param item does what is to be done for an item of that number
     */
    Waking(
            DataSource database,
            WorkQueue queue,
            SieveProperties properties,
            Duration longest,
            String name,
            LongConsumer item) {
        this.queue = queue;
        task = Tasks.oneTime(TASK).onFailure(new OnFailureRetryLater<>(AGAIN)).execute((instance, context) -> {
            item.accept(Long.parseLong(instance.getId()));
            feed();
        });
        compareClocks();
        scheduler = Scheduler.create(database, task)
                .clock(this::now)
                .threads(1)
                .pollUsingFetch(0.5, 1) // the other way of polling throws on MariaDB
                .pollingInterval(POLLING)
                .heartbeatInterval(Duration.ofMillis(properties.heartbeatMs()))
                .missedHeartbeatsLimit(properties.missedHeartbeats())
                .schedulerName(new SchedulerName.Fixed(name))
                .shutdownMaxWait(longest)
                .alwaysPersistTimestampInUTC()
                .build();
    }

    private Instant now() {
        return Instant.ofEpochMilli(System.currentTimeMillis() + aheadMs);
    }

    private void compareClocks() {
        aheadMs = queue.clockMs() - System.currentTimeMillis();
        comparedAt = System.nanoTime();
    }

    void start() {
        scheduler.start();
    }

    void stop() {
        scheduler.stop();
    }

    /** Schedules what comes next and takes back what no longer does. */
    void feed() {
        if (System.nanoTime() - comparedAt > COMPARED_NS) {
            compareClocks();
        }
        // An item that was taken and is not scheduled, as after a restored backup, must not stay so for ever.
        Set<Long> wanted = new LinkedHashSet<>(queue.taken());
        wanted.addAll(queue.next());
        scheduler.fetchScheduledExecutionsForTask(TASK, Void.class, ScheduledExecutionsFilter.all(), execution -> {
            if (!wanted.remove(Long.parseLong(execution.getTaskInstance().getId())) && !execution.isPicked()) {
                cancel(execution.getTaskInstance());
            }
        });
        wanted.forEach(id -> scheduler.scheduleIfNotExists(task.instance(Long.toString(id)), now()));
        if (!wanted.isEmpty()) {
            scheduler.triggerCheckForDueExecutions();
        }
    }

    private void cancel(TaskInstanceId instance) {
        try {
            scheduler.cancel(instance);
        } catch (TaskInstanceException e) {
            LOG.debug("{} was begun or taken back by another worker", instance);
        }
    }
}
