package org.rainsieve.web.demo;

import java.io.IOException;
import java.nio.file.Path;
import org.rainsieve.scene.DemoShoots;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.annotation.Profile;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** Draws the demo's frames at the first start, in the background, and takes them in. */
@Component
@Profile("demo & !worker")
class DemoFiller {
    private static final Logger LOG = LoggerFactory.getLogger(DemoFiller.class);

    private final ShootService shoots;
    private final Path folder;

    DemoFiller(ShootService shoots, @Value("${SIEVE_DEMO}") Path folder) {
        this.shoots = shoots;
        this.folder = folder;
    }

    @EventListener(ApplicationReadyEvent.class)
    void start() {
        new Thread(this::fill, "demo").start();
    }

    private void fill() {
        try {
            // Taking a folder in again only adds what is new.
            new DemoShoots(folder).fill(shoot -> shoots.takeIn(0, shoot, shoot));
        } catch (IOException e) {
            LOG.error("The demo could not be filled in", e);
        }
    }
}
