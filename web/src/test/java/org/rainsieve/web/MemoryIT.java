package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Supplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/**
 * A worker with little memory: frames whose tiles are more than all of it are read, looked at and returned, while somebody looks at
 * them, and none is called too large. {@code ./sieve benchmark memory} does it with JPEGs of 10 MP and mosaics of 24 MP in three
 * forms, with the memory that a worker is given by default, and tells what it held of the machine's.
 */
class MemoryIT {
    /** Of each kind in the benchmark; 0 in the suite. */
    private static final int MANY = Integer.getInteger("sieve.memory.frames", 0);

    private static final int FRAMES = MANY == 0 ? 2 : MANY;
    private static final int WIDTH = MANY == 0 ? 2600 : 3888;
    private static final int HEIGHT = MANY == 0 ? 1900 : 2592;
    private static final int MEMORY_MB = MANY == 0 ? 1000 : 1400;
    private static final Pattern FRAME = Pattern.compile("\"id\":(\\d+),\"name\":\"L_");

    @TempDir
    Path folder;

    private void pictures(Path into) throws IOException {
        SplittableRandom random = new SplittableRandom(4);
        for (int i = 0; i < FRAMES; i++) {
            BufferedImage image = new BufferedImage(WIDTH, HEIGHT, BufferedImage.TYPE_INT_RGB);
            for (int y = 0; y < HEIGHT; y++) {
                for (int x = 0; x < WIDTH; x++) {
                    int grey = 60 + (x + y + 300 * i) / 40 % 120 + random.nextInt(17) - 8;
                    image.setRGB(x, y, grey << 16 | grey << 8 | grey);
                }
            }
            ImageIO.write(image, "jpeg", into.resolve("L_" + i + ".jpg").toFile());
        }
    }

    /** One frame over and over: what it shows does not matter here. */
    private static void mosaics(Path into) throws IOException {
        byte[] frame = PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 6000, 4000, 1);
        for (int i = 0; i < FRAMES; i++) {
            Files.write(into.resolve("L_m" + i + ".dng"), frame);
        }
    }

    /** What a process holds of the machine's memory, and the share of its time that went into collections. */
    private static final class Watch implements AutoCloseable {
        private final AtomicBoolean over = new AtomicBoolean();
        private final Thread thread;
        private final Supplier<ProcessHandle> worker;
        private long mostKb;
        private String collections = "";

        Watch(Supplier<ProcessHandle> worker) {
            this.worker = worker;
            thread = new Thread(this::watch, "watch");
            thread.start();
        }

        private void watch() {
            while (!over.get()) {
                ProcessHandle process = worker.get();
                if (process != null) {
                    Matcher resident = Pattern.compile("VmRSS:\\s+(\\d+) kB")
                            .matcher(LiveApplication.read(Path.of("/proc", Long.toString(process.pid()), "status")));
                    mostKb = resident.find() ? Math.max(mostKb, Long.parseLong(resident.group(1))) : mostKb;
                }
                try {
                    Thread.sleep(1000);
                } catch (InterruptedException e) {
                    return;
                }
            }
        }

        @Override
        public void close() throws IOException {
            over.set(true);
            ProcessHandle process = worker.get();
            Process tool = new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "jstat")
                                    .toString(),
                            "-gcutil",
                            "-t",
                            Long.toString(process.pid()))
                    .start();
            String[] figures = new String(tool.getInputStream().readAllBytes(), StandardCharsets.UTF_8)
                    .lines()
                    .reduce((a, b) -> b)
                    .orElseThrow()
                    .strip()
                    .split("\\s+");
            // The first column is the process's age, the last the time in collections, both in seconds.
            collections = String.format(
                    Locale.ROOT,
                    "%.1f %% of %s s in collections",
                    100 * Double.parseDouble(figures[figures.length - 1]) / Double.parseDouble(figures[0]),
                    figures[0]);
        }
    }

    @Test
    void nothingIsTooLargeBecauseOfWhatIsKept() throws Exception {
        Path photos = Files.createDirectories(folder.resolve("photos/large"));
        pictures(photos);
        if (MANY > 0) {
            mosaics(photos);
        }
        try (LiveApplication application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS",
                        folder.resolve("photos").toString(),
                        "SIEVE_MEMORY_MB",
                        Integer.toString(MEMORY_MB)))) {
            Watch watch = new Watch(application::workerOfItsOwn);
            try (watch) {
                runWhileSomebodyLooks(application);
            }
            System.out.printf(
                    Locale.ROOT,
                    "memory: %d frames of %.1f MP%s with %d MB: %d MB of the machine's at most, %s%n",
                    FRAMES,
                    WIDTH * HEIGHT / 1e6,
                    MANY > 0 ? " and as many of 24 MP in three forms" : "",
                    MEMORY_MB,
                    watch.mostKb >> 10,
                    watch.collections);
            assertThat(LiveApplication.read(application.home.resolve("worker.log")))
                    .doesNotContain("OutOfMemoryError", "is started again");
        }
    }

    private void runWhileSomebodyLooks(LiveApplication application) throws Exception {
        int count = MANY > 0 ? 2 * FRAMES : FRAMES;
        long shoot = LiveApplication.idOf(
                application.post("/shoots", Map.of("root", "0", "path", "large", "deep", "false")));
        LiveApplication.await(
                "frames to be read",
                () -> application.get("/shoots/" + shoot + "/standing").body().contains("\"unread\":0"));
        assertThat(application.get("/shoots/" + shoot + "/standing").body()).contains("\"ready\":" + count);
        List<String> frames = new ArrayList<>();
        Matcher found =
                FRAME.matcher(application.get("/shoots/" + shoot + "/sheet").body());
        while (found.find()) {
            frames.add(found.group(1));
        }
        assertThat(frames).hasSize(count);
        AtomicBoolean over = new AtomicBoolean();
        List<Integer> answers = new ArrayList<>();
        Thread looking = new Thread(() -> {
            for (int i = 0; !over.get(); i++) {
                String at = "x=" + i * 331 % (WIDTH - 600) + "&y=" + i * 173 % (HEIGHT - 500)
                        + "&w=600&h=500&lift=0&on=true&method=Quick&grainKept=20&colourNoiseKept=0";
                String which = i % 2 == 0 ? "before" : "after";
                answers.add(application
                        .get("/frames/" + frames.get(i % count) + "/picture/" + which + "?" + at)
                        .statusCode());
            }
        });
        String forms = MANY > 0 ? "DNG,TIFF,JPEG" : "DNG";
        long run = LiveApplication.idOf(application.post(
                "/runs", Map.of("shoot", Long.toString(shoot), "destination", "beside", "forms", forms)));
        looking.start();
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        over.set(true);
        looking.join();
        assertThat(application.get("/runs/" + run).body()).doesNotContain("■ failed");
        assertThat(answers).isNotEmpty().allMatch(status -> status == 200);
        try (var returned = Files.list(folder.resolve("photos/large"))) {
            assertThat(returned.filter(file -> file.toString().contains("-denoise")))
                    .hasSize(count * forms.split(",").length);
        }
    }
}
