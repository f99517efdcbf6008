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
import org.rainsieve.file.Sha256;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/**
 * A run on real processes that are ended, stopped past their lease, left without their database, given a decoder that hangs,
 * a file that was changed under them and a disk that becomes full. {@code ./sieve benchmark chaos} is the same with 200 frames.
 */
class ChaosIT {
    private static final int FRAMES = Integer.getInteger("sieve.chaos.frames", 20);
    private static final int WORKERS = 3;
    /** Room for a good third of the returns. */
    private static final int SMALL_MB = 4 + FRAMES / 2;

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
        // What no decoder answers for: the runtime that it needs sleeps instead.
        Files.writeString(photos.resolve("hung.raf"), "FUJIFILMCCD-RAW 0201" + "x".repeat(500));
        Path node = Files.createDirectories(folder.resolve("bin")).resolve("node");
        Files.writeString(node, "#!/bin/sh\nexec sleep 600\n");
        assertThat(node.toFile().setExecutable(true)).isTrue();
        Path small = Files.createDirectories(folder.resolve("small"));
        boolean mounted = mount("size=" + SMALL_MB + "m", small);
        try (LiveApplication application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS", folder.resolve("photos").toString(),
                        "SIEVE_RETURNS", small.toString(),
                        "SIEVE_KEEP_FREE_MB", "0",
                        "PATH", folder.resolve("bin") + ":" + System.getenv("PATH"),
                        "SIEVE_WORKERS", "0",
                        "SIEVE_KEEP_DB", "1",
                        "SIEVE_HEARTBEAT_MS", "300"))) {
            List<Process> workers = new ArrayList<>();
            for (int i = 0; i < WORKERS; i++) {
                workers.add(worker(application));
            }
            long shoot = application.takeIn("storm");
            // The last one is changed after it was read: it must fail, and nothing else.
            Path poisoned = photos.resolve(String.format("C_%03d.dng", FRAMES));
            byte[] other = Files.readAllBytes(poisoned);
            other[other.length - 100] ^= 1;
            Files.write(poisoned, other);
            try (Stream<Path> files = Files.list(photos)) {
                for (Path file : files.toList()) {
                    originals.put(file, Sha256.of(file));
                }
            }
            assertThat(application.get("/shoots/" + shoot).body())
                    .contains("The decoder took longer than 3 s over this file");
            long run = LiveApplication.idOf(
                    application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", "mirror")));
            storm(application, workers, run, mounted ? small : null);
            assertThat(application.get("/runs/" + run).body()).contains("The original has changed since it was read.");
            check(photos, small.resolve("photos/storm"), originals);
        } finally {
            sieve("db-stop");
            if (mounted) {
                assertThat(done("umount", small.toString())).isTrue();
            }
        }
    }

    private static void check(Path photos, Path returns, Map<Path, String> originals) throws Exception {
        for (Map.Entry<Path, String> original : originals.entrySet()) {
            assertThat(Sha256.of(original.getKey())).isEqualTo(original.getValue());
        }
        for (int i = 0; i < FRAMES; i++) {
            ReturnVerifier.verify(returns.resolve(String.format("C_%03d-denoise.dng", i)), WIDTH, HEIGHT, 1);
        }
        try (Stream<Path> there = Files.walk(photos);
                Stream<Path> returned = Files.walk(returns)) {
            assertThat(there.filter(Files::isRegularFile).count())
                    .as("originals, and nothing else")
                    .isEqualTo(originals.size());
            assertThat(returned.filter(Files::isRegularFile).count())
                    .as("one return of each, nothing temporary")
                    .isEqualTo(FRAMES);
        }
    }

    private static Process worker(LiveApplication application) throws IOException {
        return application.worker("-Dsieve.decoder-seconds=3");
    }

    /** A file system of its own; false where that is not allowed. */
    private static boolean mount(String options, Path at) throws IOException, InterruptedException {
        return done("mount", "-t", "tmpfs", "-o", options, "tmpfs", at.toString());
    }

    private static boolean done(String... command) throws IOException, InterruptedException {
        return new ProcessBuilder(command)
                        .redirectErrorStream(true)
                        .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                        .start()
                        .waitFor()
                == 0;
    }

    private void storm(LiveApplication application, List<Process> workers, long run, Path small) throws Exception {
        SplittableRandom chance = new SplittableRandom(11);
        long until = System.currentTimeMillis() + Math.max(6, FRAMES / 8) * 60_000L;
        boolean restarted = false;
        int ended = 0;
        int stopped = 0;
        boolean full = small != null;
        for (int round = 0; ; round++) {
            if (done(application, run)) {
                break;
            }
            assertThat(System.currentTimeMillis()).as("the run takes too long").isLessThan(until);
            Thread.sleep(1500);
            if (full && application.get("/runs/" + run).body().contains("goes on by itself when there is room")) {
                assertThat(mount("remount,size=4g", small)).isTrue();
                full = false;
            }
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
                workers.set(which, worker(application));
                ended++;
            }
        }
        if (!restarted) {
            restartDatabase(application);
            LiveApplication.await("the application to go on", () -> done(application, run));
        }
        System.out.println("chaos: " + FRAMES + " frames, " + ended + " workers ended, " + stopped
                + " stopped past their lease, the database restarted once, "
                + (small == null ? "no full disk: mounting is not allowed here" : "the disk full once"));
        assertThat(full).as("the disk became full").isFalse();
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
        assertThat(LiveApplication.sieve(folder.resolve("home"), Map.of(), command))
                .isZero();
    }
}
