package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * A worker with little memory: frames whose tiles are more than all of it are read, looked at and returned, while somebody looks at
 * them, and none is called too large.
 */
class MemoryIT {
    private static final int FRAMES = 4;
    private static final int WIDTH = 2600;
    private static final int HEIGHT = 1900;

    @TempDir
    static Path folder;

    private static LiveApplication application;

    @BeforeAll
    static void start() throws IOException {
        Path photos = Files.createDirectories(folder.resolve("photos/large"));
        SplittableRandom random = new SplittableRandom(4);
        for (int i = 0; i < FRAMES; i++) {
            BufferedImage image = new BufferedImage(WIDTH, HEIGHT, BufferedImage.TYPE_INT_RGB);
            for (int y = 0; y < HEIGHT; y++) {
                for (int x = 0; x < WIDTH; x++) {
                    int grey = 60 + (x + y + 300 * i) / 40 % 120 + random.nextInt(17) - 8;
                    image.setRGB(x, y, grey << 16 | grey << 8 | grey);
                }
            }
            ImageIO.write(image, "jpeg", photos.resolve("L_" + i + ".jpg").toFile());
        }
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString(), "SIEVE_MEMORY_MB", "1000"));
    }

    @AfterAll
    static void end() throws Exception {
        application.close();
    }

    @Test
    void nothingIsTooLargeBecauseOfWhatIsKept() throws Exception {
        long shoot = LiveApplication.idOf(
                application.post("/shoots", Map.of("root", "0", "path", "large", "deep", "false")));
        LiveApplication.await(
                "frames to be read",
                () -> application.get("/shoots/" + shoot + "/standing").body().contains("\"unread\":0"));
        assertThat(application.get("/shoots/" + shoot + "/standing").body()).contains("\"ready\":" + FRAMES);
        List<String> frames = new ArrayList<>();
        Matcher found = Pattern.compile("\"id\":(\\d+),\"name\":\"L_")
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        while (found.find()) {
            frames.add(found.group(1));
        }
        assertThat(frames).hasSize(FRAMES);
        AtomicBoolean over = new AtomicBoolean();
        List<Integer> answers = new ArrayList<>();
        Thread looking = new Thread(() -> {
            for (int i = 0; !over.get(); i++) {
                String at = "x=" + i * 331 % (WIDTH - 600) + "&y=" + i * 173 % (HEIGHT - 500)
                        + "&w=600&h=500&lift=0&on=true&method=Quick&grainKept=20&colourNoiseKept=0";
                String which = i % 2 == 0 ? "before" : "after";
                answers.add(application
                        .get("/frames/" + frames.get(i % FRAMES) + "/picture/" + which + "?" + at)
                        .statusCode());
            }
        });
        long run = LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", "beside")));
        looking.start();
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        over.set(true);
        looking.join();
        assertThat(application.get("/runs/" + run).body()).doesNotContain("■ failed");
        assertThat(answers).isNotEmpty().allMatch(status -> status == 200);
        assertThat(LiveApplication.read(application.home.resolve("worker.log")))
                .doesNotContain("OutOfMemoryError", "is started again");
        try (var returned = Files.list(folder.resolve("photos/large"))) {
            assertThat(returned.filter(file -> file.toString().endsWith("-denoise.dng")))
                    .hasSize(FRAMES);
        }
    }
}
