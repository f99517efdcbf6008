package org.rainsieve.web.run;

import java.util.Objects;
import java.util.Set;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.stereotype.Component;

/** Starts runs as they were asked for, and keeps what was asked for the next time. */
@Component
public class RunStarts {
    private final RunStarter starter;
    private final StandingOrders orders;

    RunStarts(RunStarter starter, StandingOrders orders) {
        this.starter = starter;
        this.orders = orders;
    }

    /** @return the run's number */
    long start(RunForm form) {
        if (form.shoot() == null) {
            throw new NotPossibleException("No shoot was named. Start the run on the page of its shoot.");
        }
        if (form.keepAs() != null && !form.keepAs().isBlank()) {
            orders.check(form.keepAs());
        }
        long run = starter.start(form.request(form.shoot()), Objects.requireNonNullElse(form.once(), ""));
        if (form.take() != null) {
            orders.remember(form);
        }
        return run;
    }

    /** These frames alone, with the choices of the run before. */
    public long startAsLast(long shootId, Set<Long> frames) {
        return starter.start(orders.last().request(shootId).of(frames), "");
    }
}
