package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.file.Sha256;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** Nothing lost, nothing twice: workers are killed and stopped around publishing, on the real application. */
class PublishingIT {
    @TempDir
    static Path folder;

    private static LiveApplication application;
    private static HttpServer catalogue;
    /** What the catalogue says that it holds. */
    private static volatile String held = "[]";

    private static byte[] frame;
    private static Path pauses;
    private static final Process[] workers = new Process[2];
    private static long run;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos"));
        catalogue = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        catalogue.createContext("/pictures", exchange -> {
            try (exchange) {
                byte[] body = held.getBytes(StandardCharsets.UTF_8);
                exchange.sendResponseHeaders(200, body.length);
                exchange.getResponseBody().write(body);
            }
        });
        catalogue.start();
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_WORKERS",
                        "0",
                        "SIEVE_ROOTS",
                        folder.resolve("photos").toString(),
                        "SIEVE_INBOX",
                        Files.createDirectory(folder.resolve("inbox")).toString(),
                        "SIEVE_CATALOGUE",
                        "http://127.0.0.1:" + catalogue.getAddress().getPort(),
                        "SIEVE_HEARTBEAT_MS",
                        "300"));
        pauses = Files.createDirectory(folder.resolve("pauses"));
        for (int i = 0; i < 2; i++) {
            workers[i] = worker();
        }
        frame = PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 320, 240, 2);
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
        catalogue.stop(0);
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
        LiveApplication.await("run " + run + " to finish", () -> {
            String page = application.get("/runs/" + run).body();
            return page.contains("data-standing>finished<");
        });
    }

    /** Starts a run in which a worker stands still at a place, and waits until one does. */
    private static Process standingAt(String place, Path shoot) throws IOException {
        return standingAt(place, shoot, "beside");
    }

    private static Process standingAt(String place, Path shoot, String destination) throws IOException {
        long taken = application.takeIn(shoot.getFileName().toString());
        Files.createFile(pauses.resolve(place));
        run = LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(taken), "destination", destination)));
        LiveApplication.await("a worker to reach " + place, () -> standing() != null);
        return standing();
    }

    /** The one of the two workers that stands still. */
    private static Process standing() {
        return Stream.of(workers)
                .filter(worker -> Files.exists(marker(worker)))
                .findAny()
                .orElse(null);
    }

    private static Path marker(Process worker) {
        return pauses.resolve(Long.toString(worker.pid()));
    }

    private static Process worker() throws IOException {
        return application.worker("-Dsieve.pause-in=" + pauses);
    }

    /** The other worker takes over what the killed one held; a new one takes its place. */
    @ParameterizedTest
    @ValueSource(strings = {"writing", "recorded", "checked", "linked", "unlinked"})
    void aWorkerKilledAnywhereLosesNothing(String place) throws Exception {
        Path shoot = shootFolder("kill " + place, 2);
        Process first = standingAt(place, shoot);
        LiveApplication.signal(first, "KILL");
        first.waitFor();
        if (place.equals("writing") || place.equals("verified")) {
            try (Stream<Path> all = Files.list(shoot)) {
                assertThat(all.filter(file -> file.toString().endsWith("-denoise.dng")))
                        .as("half-written, so not to be seen")
                        .hasSizeLessThanOrEqualTo(1);
            }
        }
        Files.delete(marker(first));
        for (int i = 0; i < 2; i++) {
            workers[i] = workers[i] == first ? worker() : workers[i];
        }
        awaitFinished(run);
        assertOneReturnEach(shoot, 2);
    }

    /** A return that the catalogue took from its inbox before its worker could say so is adopted, not made twice. */
    @Test
    void whatTheCatalogueTookIsNotMadeTwice() throws Exception {
        Path shoot = shootFolder("picked up", 1);
        Process first = standingAt("linked", shoot, "inbox");
        LiveApplication.signal(first, "KILL");
        first.waitFor();
        Path inbox = folder.resolve("inbox");
        Path taken = Files.move(inbox.resolve("F_0-denoise.dng"), folder.resolve("taken.dng"));
        held = "[{\"sha256\":\"" + Sha256.of(taken) + "\",\"path\":\"" + taken + "\"}]";
        Files.delete(marker(first));
        for (int i = 0; i < 2; i++) {
            workers[i] = workers[i] == first ? worker() : workers[i];
        }
        awaitFinished(run);
        LiveApplication.await("the pick-up to be noticed", () -> {
            String page = application.get("/catalogue").body();
            return page.contains("picked up: ") && page.contains("title=\"" + folder + "\"");
        });
        assertThat(application.get("/runs/" + run).body()).contains("1 of 1 ").contains("taken.dng");
        try (Stream<Path> left = Files.walk(inbox)) {
            assertThat(left.filter(Files::isRegularFile)).isEmpty();
        }
        ReturnVerifier.verify(taken, 320, 240, 1);
    }

    /** A worker that is stopped past its lease and wakes up again finds its item taken over, at each place. */
    @ParameterizedTest
    @ValueSource(strings = {"writing", "recorded", "linked"})
    void aWorkerStoppedPastItsLeaseDoesNothingTwice(String place) throws Exception {
        Path shoot = shootFolder("stop " + place, 2);
        Process first = standingAt(place, shoot);
        LiveApplication.signal(first, "STOP");
        awaitFinished(run);
        Files.delete(marker(first));
        LiveApplication.signal(first, "CONT");
        Thread.sleep(1500);
        assertThat(first.isAlive()).isTrue();
        assertOneReturnEach(shoot, 2);
    }

    /** A second run makes a second version beside the first, and a stranger's file of that name is left alone. */
    @Test
    void nothingIsOverwritten() throws Exception {
        Path shoot = shootFolder("versions", 1);
        Path stranger = Files.writeString(shoot.resolve("F_0-denoise-2.dng"), "not ours");
        long id = application.takeIn("versions");
        for (int i = 0; i < 2; i++) {
            awaitFinished(LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(id)))));
        }
        assertThat(stranger).hasContent("not ours");
        ReturnVerifier.verify(shoot.resolve("F_0-denoise.dng"), 320, 240, 1);
        ReturnVerifier.verify(shoot.resolve("F_0-denoise-3.dng"), 320, 240, 1);
    }
}
