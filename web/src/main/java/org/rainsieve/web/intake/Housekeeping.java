package org.rainsieve.web.intake;

import java.time.Duration;
import java.time.Instant;
import org.rainsieve.web.files.ThumbnailStore;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.dao.DataAccessException;
import org.springframework.scheduling.annotation.EnableScheduling;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/** What is done from time to time without anybody asking: watched folders are looked through, thumbnails make room. */
@Component
@EnableScheduling
@ConditionalOnWebApplication
class Housekeeping {
    private static final Logger LOG = LoggerFactory.getLogger(Housekeeping.class);
    /** A file that was changed more lately may still be being copied. */
    private static final Duration SETTLED = Duration.ofSeconds(4);

    private final ShootService shoots;
    private final ThumbnailStore thumbnails;

    Housekeeping(ShootService shoots, ThumbnailStore thumbnails) {
        this.shoots = shoots;
        this.thumbnails = thumbnails;
    }

    @Scheduled(fixedDelay = 5_000, initialDelay = 5_000)
    void takeInNew() {
        try {
            int added = shoots.takeInNew(Instant.now().minus(SETTLED));
            if (added > 0) {
                LOG.info("{} new files in watched folders", added);
            }
        } catch (DataAccessException e) {
            LOG.warn("The database does not answer; watched folders are looked through later");
        }
    }

    @Scheduled(fixedDelay = 600_000, initialDelay = 60_000)
    void makeRoom() {
        thumbnails.clean();
    }
}
