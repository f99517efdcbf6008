package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.file.Sha256;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** What {@link ChaosIT} has no time for: clocks that jump, and workers that are ended more often than a few frames take. */
class StormBenchmark {
    /** Of Debian's package libfaketime. */
    private static final Path FAKED_CLOCK = Path.of("/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1");

    /** By how far the machine's clock is off, one after another. */
    private static final List<String> JUMPS = List.of("+3600", "-7200", "+0", "+86400", "-60");

    @TempDir
    private Path folder;

    private Path photos;
    private String original;

    private Map<String, String> frames(int count, int width, int height) throws IOException {
        photos = Files.createDirectories(folder.resolve("photos/storm"));
        byte[] frame = PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, width, height, 2);
        for (int i = 0; i < count; i++) {
            Files.write(photos.resolve(String.format("S_%03d.dng", i)), frame);
        }
        original = Sha256.of(frame);
        return new HashMap<>(Map.of(
                "SIEVE_ROOTS", folder.resolve("photos").toString(),
                "SIEVE_WORKERS", "0",
                "SIEVE_HEARTBEAT_MS", "300"));
    }

    private static boolean finished(LiveApplication application, long run) {
        return application.get("/runs/" + run).body().contains("data-standing>finished<");
    }

    private void check(int count, int width, int height) throws Exception {
        for (int i = 0; i < count; i++) {
            String name = String.format("S_%03d", i);
            assertThat(Sha256.of(photos.resolve(name + ".dng"))).isEqualTo(original);
            ReturnVerifier.verify(photos.resolve(name + "-denoise.dng"), width, height, 1);
        }
        try (Stream<Path> there = Files.walk(photos)) {
            assertThat(there.filter(Files::isRegularFile))
                    .as("each original and one return of it")
                    .hasSize(2 * count);
        }
    }

    private void sieve(String command, Map<String, String> environment) throws Exception {
        assertThat(LiveApplication.sieve(folder.resolve("home"), environment, command))
                .isZero();
    }

    /** The database's clock, which all leases go by: an hour on, two hours back, a day on. */
    @Test
    void clocksThatJump() throws Exception {
        int count = 60;
        Map<String, String> environment = frames(count, 700, 500);
        Path clock = Files.writeString(folder.resolve("clock"), JUMPS.get(2));
        assertThat(FAKED_CLOCK).exists();
        sieve(
                "db-start",
                Map.of(
                        "LD_PRELOAD",
                        FAKED_CLOCK.toString(),
                        "FAKETIME_TIMESTAMP_FILE",
                        clock.toString(),
                        "FAKETIME_CACHE_DURATION",
                        "1",
                        "FAKETIME_DONT_FAKE_MONOTONIC",
                        "1"));
        int jumps = 0;
        try (LiveApplication application = new LiveApplication("serve", folder.resolve("home"), environment)) {
            application.worker();
            application.worker();
            long shoot = application.takeIn("storm");
            long run = LiveApplication.idOf(
                    application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", "beside")));
            while (!finished(application, run)) {
                Files.writeString(clock, JUMPS.get(jumps++ % JUMPS.size()));
                Thread.sleep(3000);
            }
            assertThat(application.get("/runs/" + run).body()).doesNotContain("■ failed");
        } finally {
            sieve("db-stop", Map.of());
        }
        check(count, 700, 500);
        System.out.printf(Locale.ROOT, "clocks: %d frames, %d jumps, each returned once%n", count, jumps);
    }

    /** One worker, ended every ten seconds, whatever it is about; half of that it needs to start. */
    @Test
    void endedEveryTenSeconds() throws Exception {
        int count = 12;
        Map<String, String> environment = frames(count, 1700, 1200);
        int ended = 0;
        try (LiveApplication application = new LiveApplication("serve", folder.resolve("home"), environment)) {
            Process worker = application.worker();
            long shoot = application.takeIn("storm");
            long run = LiveApplication.idOf(
                    application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", "beside")));
            while (!finished(application, run)) {
                Thread.sleep(10_000);
                LiveApplication.signal(worker, "KILL");
                worker = application.worker();
                ended++;
            }
            assertThat(application.get("/runs/" + run).body()).doesNotContain("■ failed");
        }
        check(count, 1700, 1200);
        System.out.printf(Locale.ROOT, "ended every ten seconds: %d frames of 2 MP, %d times%n", count, ended);
    }
}
