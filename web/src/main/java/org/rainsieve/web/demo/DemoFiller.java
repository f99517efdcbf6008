package org.rainsieve.web.demo;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.rainsieve.scene.DemoShoots;
import org.rainsieve.web.shoot.ShootService;
import org.rainsieve.web.shoot.UnderWay;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.annotation.Profile;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** Takes in the demo's shoots as another process draws them. */
@Component
@Profile("demo & !worker")
class DemoFiller {
    private static final Logger LOG = LoggerFactory.getLogger(DemoFiller.class);
    private static final long PAUSE_MS = 1500;
    private static final List<String> SHOOTS = List.of(DemoShoots.STARS, DemoShoots.TOADS, DemoShoots.REGATTA);

    private final ShootService shoots;
    private final UnderWay underWay;
    private final Path folder;
    private final Map<String, Long> seen = new HashMap<>();

    DemoFiller(ShootService shoots, UnderWay underWay, @Value("${SIEVE_DEMO}") Path folder) {
        this.shoots = shoots;
        this.underWay = underWay;
        this.folder = folder;
    }

    @EventListener(ApplicationReadyEvent.class)
    void start() {
        Thread thread = new Thread(this::watch, "demo");
        thread.setDaemon(true);
        thread.start();
    }

    private void watch() {
        try {
            boolean done;
            do {
                done = Files.exists(folder.resolve(DemoShoots.DONE));
                for (String shoot : SHOOTS) {
                    takeIn(shoot);
                }
                underWay.say(done ? "" : words());
                Thread.sleep(PAUSE_MS);
            } while (!done);
        } catch (IOException e) {
            LOG.error("The demo could not be taken in", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private String words() {
        String there = SHOOTS.stream()
                .filter(seen::containsKey)
                .map(shoot -> seen.get(shoot) + " frames of " + shoot)
                .collect(Collectors.joining(", "));
        return "The demo's frames are being drawn, some minutes on two cores. "
                + (there.isEmpty()
                        ? "The first ones are here in about half a minute."
                        : "Here already, to be looked at: " + there + ".");
    }

    /** Taking a folder in again only adds what is new. Returns, which runs write beside the frames, do not count. */
    private void takeIn(String shoot) throws IOException {
        Path frames = folder.resolve(shoot);
        if (!Files.isDirectory(frames)) {
            return;
        }
        long count;
        try (Stream<Path> files = Files.list(frames)) {
            count = files.map(file -> file.getFileName().toString())
                    .filter(name -> name.matches("[A-Z]{2}_[0-9]{4}[.](dng|jpg)"))
                    .count();
        }
        if (count > seen.getOrDefault(shoot, 0L)) {
            shoots.takeIn(0, shoot, shoot);
            seen.put(shoot, count);
        }
    }
}
