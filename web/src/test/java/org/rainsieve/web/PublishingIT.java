package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** Nothing lost, nothing twice: workers are killed and stopped around publishing, on the real application. */
class PublishingIT {
    @TempDir
    static Path folder;

    private static LiveApplication application;
    private static byte[] frame;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos"));
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_WORKERS",
                        "0",
                        "SIEVE_ROOTS",
                        folder.resolve("photos").toString(),
                        "SIEVE_HEARTBEAT_MS",
                        "300"));
        frame = PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 320, 240, 2);
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    private static Path shootFolder(String name, int frames) throws IOException {
        Path shoot = Files.createDirectories(folder.resolve("photos").resolve(name));
        for (int i = 0; i < frames; i++) {
            Files.write(shoot.resolve("F_" + i + ".dng"), frame);
        }
        return shoot;
    }

    private static void assertOneReturnEach(Path shoot, int frames) throws IOException {
        try (Stream<Path> all = Files.walk(shoot)) {
            List<Path> left = all.filter(file -> !file.equals(shoot)).sorted().toList();
            assertThat(left)
                    .as("originals and one return each, nothing temporary")
                    .hasSize(2 * frames);
        }
        for (int i = 0; i < frames; i++) {
            ReturnVerifier.verify(shoot.resolve("F_" + i + "-denoise.dng"), 320, 240, 1);
            assertThat(Files.readAllBytes(shoot.resolve("F_" + i + ".dng"))).isEqualTo(frame);
        }
    }

    private static void awaitFinished(long run) {
        LiveApplication.await("run " + run + " to finish", Duration.ofSeconds(60), () -> {
            String page = application.get("/runs/" + run).body();
            return page.contains("data-standing>finished<");
        });
    }

    /** Starts a run of a shoot whose worker will stand still at a place, and waits until it does. */
    private static long runReaching(String place, Path shoot, Path marker) {
        long taken = application.takeIn(shoot.getFileName().toString());
        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(taken))));
        LiveApplication.await("the worker to reach " + place, Duration.ofSeconds(60), () -> Files.exists(marker));
        return run;
    }

    @ParameterizedTest
    @ValueSource(strings = {"writing", "verified", "recorded", "checked", "linked", "unlinked"})
    void aWorkerKilledAnywhereLosesNothing(String place) throws Exception {
        Path shoot = shootFolder("kill " + place, 2);
        Path marker = folder.resolve("marker-" + place);
        Process first = application.worker("-Dsieve.pause-at=" + place + "=" + marker);
        long run = runReaching(place, shoot, marker);
        LiveApplication.signal(first, "KILL");
        first.waitFor();
        if (place.equals("writing") || place.equals("verified")) {
            assertThat(shoot.resolve("F_0-denoise.dng"))
                    .as("half-written, so not to be seen")
                    .doesNotExist();
        }
        Process second = application.worker();
        awaitFinished(run);
        assertOneReturnEach(shoot, 2);
        second.destroyForcibly().waitFor();
    }

    /** A worker that is stopped past its lease and wakes up again finds its item taken over, at each place. */
    @ParameterizedTest
    @ValueSource(strings = {"writing", "verified", "recorded", "checked", "linked"})
    void aWorkerStoppedPastItsLeaseDoesNothingTwice(String place) throws Exception {
        Path shoot = shootFolder("stop " + place, 2);
        Path marker = folder.resolve("stopped-" + place);
        Process first = application.worker("-Dsieve.pause-at=" + place + "=" + marker);
        long run = runReaching(place, shoot, marker);
        LiveApplication.signal(first, "STOP");
        Process second = application.worker();
        awaitFinished(run);
        Files.delete(marker);
        LiveApplication.signal(first, "CONT");
        Thread.sleep(1500);
        assertThat(first.isAlive()).isTrue();
        assertOneReturnEach(shoot, 2);
        first.destroyForcibly().waitFor();
        second.destroyForcibly().waitFor();
    }

    /** A second run makes a second version beside the first, and a stranger's file of that name is left alone. */
    @Test
    void nothingIsOverwritten() throws Exception {
        Path shoot = shootFolder("versions", 1);
        Path stranger = Files.writeString(shoot.resolve("F_0-denoise-2.dng"), "not ours");
        Process worker = application.worker();
        long id = application.takeIn("versions");
        for (int i = 0; i < 2; i++) {
            awaitFinished(LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(id)))));
        }
        assertThat(stranger).hasContent("not ours");
        ReturnVerifier.verify(shoot.resolve("F_0-denoise.dng"), 320, 240, 1);
        ReturnVerifier.verify(shoot.resolve("F_0-denoise-3.dng"), 320, 240, 1);
        worker.destroyForcibly().waitFor();
    }
}
