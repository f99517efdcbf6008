package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/**
 * A run on real processes that are ended, stopped past their lease, left without their database and given a file that was
 * changed under them. {@code ./sieve benchmark chaos} is the same with 200 frames.
 */
class ChaosIT {
    private static final int FRAMES = Integer.getInteger("sieve.chaos.frames", 30);
    private static final int WORKERS = 3;
    private static final int WIDTH = 700;
    private static final int HEIGHT = 500;
    private static final long LEASE_MS = 300 * 6;

    @TempDir
    private Path folder;

    @Test
    void everyFrameExactlyOnceOrExplained() throws Exception {
        Path photos = Files.createDirectories(folder.resolve("photos/storm"));
        Map<Path, String> originals = new TreeMap<>();
        byte[][] drawn = new byte[3][];
        for (int i = 0; i < drawn.length; i++) {
            drawn[i] = PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, WIDTH, HEIGHT, 2 * i);
        }
        for (int i = 0; i <= FRAMES; i++) {
            Files.write(photos.resolve(String.format("C_%03d.dng", i)), drawn[i % drawn.length]);
        }
        try (LiveApplication application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS", folder.resolve("photos").toString(),
                        "SIEVE_WORKERS", "0",
                        "SIEVE_KEEP_DB", "1",
                        "SIEVE_HEARTBEAT_MS", "300"))) {
            List<Process> workers = new ArrayList<>();
            for (int i = 0; i < WORKERS; i++) {
                workers.add(application.worker());
            }
            long shoot = application.takeIn("storm");
            // The last one is changed after it was read: it must fail, and nothing else.
            Path poisoned = photos.resolve(String.format("C_%03d.dng", FRAMES));
            byte[] other = Files.readAllBytes(poisoned);
            other[other.length - 100] ^= 1;
            Files.write(poisoned, other);
            try (Stream<Path> files = Files.list(photos)) {
                for (Path file : files.toList()) {
                    originals.put(file, ReturnVerifier.hash(file));
                }
            }
            long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(shoot))));
            storm(application, workers, run);
            assertThat(application.get("/runs/" + run).body()).contains("The original has changed since it was read.");
        } finally {
            sieve("db-stop");
        }
        for (Map.Entry<Path, String> original : originals.entrySet()) {
            assertThat(ReturnVerifier.hash(original.getKey())).isEqualTo(original.getValue());
        }
        for (int i = 0; i < FRAMES; i++) {
            ReturnVerifier.verify(photos.resolve(String.format("C_%03d-denoise.dng", i)), WIDTH, HEIGHT, 1);
        }
        try (Stream<Path> files = Files.walk(photos)) {
            assertThat(files.filter(Files::isRegularFile).count())
                    .as("originals and one return of each, nothing temporary")
                    .isEqualTo(2L * FRAMES + 1);
        }
    }

    private void storm(LiveApplication application, List<Process> workers, long run) throws Exception {
        SplittableRandom chance = new SplittableRandom(11);
        long until = System.currentTimeMillis() + Math.max(6, FRAMES / 8) * 60_000L;
        boolean restarted = false;
        int ended = 0;
        int stopped = 0;
        for (int round = 0; ; round++) {
            if (done(application, run)) {
                break;
            }
            assertThat(System.currentTimeMillis()).as("the run takes too long").isLessThan(until);
            Thread.sleep(1500);
            int which = chance.nextInt(WORKERS);
            if (!restarted && round == 4) {
                restartDatabase(application);
                restarted = true;
            } else if (round % 3 == 1) {
                LiveApplication.signal(workers.get(which), "STOP");
                Thread.sleep(LEASE_MS + 700);
                LiveApplication.signal(workers.get(which), "CONT");
                stopped++;
            } else if (ended < 2 + FRAMES / 15) {
                LiveApplication.signal(workers.get(which), "KILL");
                workers.set(which, application.worker());
                ended++;
            }
        }
        if (!restarted) {
            restartDatabase(application);
            LiveApplication.await("the application to go on", () -> done(application, run));
        }
        System.out.println("chaos: " + FRAMES + " frames, " + ended + " workers ended, " + stopped
                + " stopped past their lease, the database restarted once");
        assertThat(ended).isPositive();
    }

    private static boolean done(LiveApplication application, long run) {
        HttpResponse<String> page = application.get("/runs/" + run);
        return page.body().contains("data-standing>finished<");
    }

    /** While it is away it is said so, and nothing else fails. */
    private void restartDatabase(LiveApplication application) throws Exception {
        sieve("db-stop");
        HttpResponse<String> page = application.get("/shoots");
        assertThat(page.statusCode()).isEqualTo(503);
        assertThat(page.body()).contains("The database does not answer. Nothing is lost");
        assertThat(application.get("/health").body()).contains("\"database\":\"down\"");
        sieve("db-start");
        LiveApplication.await(
                "the database to be back", () -> application.get("/shoots").statusCode() == 200);
    }

    private void sieve(String command) throws IOException, InterruptedException {
        ProcessBuilder builder = new ProcessBuilder("../sieve", command);
        builder.environment().put("SIEVE_HOME", folder.resolve("home").toString());
        builder.redirectErrorStream(true).redirectOutput(ProcessBuilder.Redirect.DISCARD);
        assertThat(builder.start().waitFor()).isZero();
    }
}
