package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.dng.Tag;
import org.rainsieve.dng.Xmp;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** Runs and the camera book on the real application: pausing, stopping, failing, trying again, and two tabs at once. */
class RunIT {
    @TempDir
    static Path folder;

    private static LiveApplication application;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos"));
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString()));
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    private static Path shoot(String name, int frames, int iso) throws IOException {
        Path shoot = Files.createDirectories(folder.resolve("photos").resolve(name));
        for (int i = 0; i < frames; i++) {
            // Even numbers carry a NoiseProfile: so small a picture would not tell its noise.
            Files.write(
                    shoot.resolve("R_" + i + ".dng"),
                    PlainFrames.frame(SimulatedCamera.ONDREL_24, iso, 400, 300, 2 * i));
        }
        return shoot;
    }

    private static long run(long shoot, String destination) {
        return LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", destination)));
    }

    private static void awaitStanding(long run, String standing) {
        LiveApplication.await(
                "run " + run + " to be " + standing,
                Duration.ofSeconds(90),
                () -> application.get("/runs/" + run).body().contains("data-standing>" + standing + "<"));
    }

    /** With even grain two ISO settings come out with the same grain, the noisier one keeping less; the page says how even. */
    @Test
    void evenGrainBringsTwoIsosTogether() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/even"));
        for (int i = 0; i < 4; i++) {
            int iso = i < 2 ? 1600 : 6400;
            Files.write(
                    shoot.resolve("E_" + i + ".dng"),
                    PlainFrames.frame(SimulatedCamera.KESVIK_M, iso, 1800, 1200, 2 * i));
        }
        long id = application.takeIn("even");
        long run = LiveApplication.idOf(application.post(
                "/runs", Map.of("shoot", Long.toString(id), "destination", "beside", "evenGrain", "true")));
        awaitStanding(run, "finished");
        double quiet = grainOf(shoot.resolve("E_0-denoise.dng"));
        double noisy = grainOf(shoot.resolve("E_3-denoise.dng"));
        // The law's sd at 18 % grey tells how much more the quieter one may keep.
        double sigmas = NoiseLaw.sigma(SimulatedCamera.KESVIK_M.noiseAt(6400))
                / NoiseLaw.sigma(SimulatedCamera.KESVIK_M.noiseAt(1600));
        assertThat(quiet / noisy).isCloseTo(sigmas, within(0.02 * sigmas));
        Matcher evenness = Pattern.compile("data-evenness.*?>Kesvik M<.*?>4<.*?>([0-9.]+)<", Pattern.DOTALL)
                .matcher(application.get("/runs/" + run).body());
        assertThat(evenness.find()).isTrue();
        assertThat(Double.parseDouble(evenness.group(1))).isBetween(1.0, 1.25);
        String book = application.get("/book?camera=Kesvik%20M").body();
        assertThat(book).contains("The law rests on few readings").contains("data-handle=\"grainKept\"");
        assertThat(book).as("a method that it has no model for is not offered").doesNotContain("value=\"Learned\"");
    }

    /** A frame with the noise of twice its ISO is pointed out, can be held back, and then stays out of the next run. */
    @Test
    void straysAreFoundHeldBackAndFollowAgain() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/strays"));
        for (int i = 0; i < 4; i++) {
            int noiseIso = i == 3 ? 6400 : 3200;
            Files.write(
                    shoot.resolve("S_" + i + ".dng"),
                    PlainFrames.frame(SimulatedCamera.PILBO_S, 3200, noiseIso, 1200, 900, i == 3 ? 7 : 2 * i));
        }
        long id = application.takeIn("strays");
        String page = application.get("/shoots/" + id).body();
        assertThat(page).containsOnlyOnce("data-stray").contains("above the book&#39;s for this ISO");
        Matcher hold =
                Pattern.compile("/shoots/" + id + "/frames/([0-9]+)/hold").matcher(page);
        assertThat(hold.find()).isTrue();
        String frame = "/shoots/" + id + "/frames/" + hold.group(1);
        assertThat(application.post(frame + "/burn", Map.of()).statusCode()).isEqualTo(422);
        application.post(frame + "/hold", Map.of());
        page = application.get("/shoots/" + id).body();
        assertThat(page)
                .doesNotContain("data-stray")
                .containsOnlyOnce("data-held")
                .contains("held back");
        long run = run(id, "beside");
        awaitStanding(run, "finished");
        assertThat(shoot.resolve("S_2-denoise.dng")).exists();
        assertThat(shoot.resolve("S_3-denoise.dng")).doesNotExist();
        application.post(frame + "/follow", Map.of());
        assertThat(application.get("/shoots/" + id).body()).contains("data-stray");
        application.post(frame + "/accept", Map.of());
        page = application.get("/shoots/" + id + "?camera=Pilbo%20S&iso=3200").body();
        assertThat(page).doesNotContain("data-stray").contains("all frames");
    }

    private static double grainOf(Path file) throws Exception {
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            byte[] xmp = dng.main().field(Tag.XMP).orElseThrow().bytes();
            return ResolvedSettings.ofJson(Xmp.property(xmp, "Settings"))
                    .denoise()
                    .grainKeptPercent();
        }
    }

    @Test
    void aPausedRunTakesNothingNewAndGoesOn() throws Exception {
        Path shoot = shoot("paused", 12, 3200);
        long id = application.takeIn("paused");
        long run = run(id, "sub-folder");
        application.post("/runs/" + run + "/pause", Map.of());
        assertThat(application.get("/runs/" + run).body()).containsPattern("data-standing>(paused|finished)<");
        Thread.sleep(1500);
        long before = count(shoot.resolve("returns"));
        Thread.sleep(1500);
        assertThat(count(shoot.resolve("returns"))).isEqualTo(before);
        application.post("/runs/" + run + "/resume", Map.of());
        awaitStanding(run, "finished");
        assertThat(count(shoot.resolve("returns"))).isEqualTo(12);
        assertThat(count(shoot)).as("originals stand alone").isEqualTo(12);
        // Taken in again, the folder of returns holds no new frames.
        long returns = application.takeIn("paused/returns");
        assertThat(application.get("/shoots/" + returns).body()).contains("This shoot has no frames");
    }

    private static long count(Path folder) throws IOException {
        if (!Files.isDirectory(folder)) {
            return 0;
        }
        try (var files = Files.list(folder)) {
            return files.filter(Files::isRegularFile).count();
        }
    }

    @Test
    void aStoppedRunGivesBackWhatIsLeft() throws Exception {
        Path shoot = shoot("stopped", 20, 3200);
        long run = run(application.takeIn("stopped"), "beside");
        application.post("/runs/" + run + "/stop", Map.of());
        awaitStanding(run, "stopped");
        Thread.sleep(2000);
        long after = count(shoot);
        Thread.sleep(1000);
        assertThat(count(shoot)).isEqualTo(after).isLessThan(40);
        assertThat(shoot.resolve(".rain-sieve-tmp")).doesNotExist();
    }

    /** What fails says why and what to do; when the cause is gone, trying again returns it. */
    @Test
    void failuresAreExplainedAndTriedAgain() throws Exception {
        Path shoot = shoot("failing", 2, 1600);
        long id = application.takeIn("failing");
        Path first = shoot.resolve("R_0.dng");
        byte[] original = Files.readAllBytes(first);
        Files.write(first, PlainFrames.frame(SimulatedCamera.ONDREL_24, 1600, 400, 300, 98));
        Path second = shoot.resolve("R_1.dng");
        Path away = Files.move(second, folder.resolve("away.dng"));
        long run = run(id, "beside");
        awaitStanding(run, "finished");
        String page = application.get("/runs/" + run).body();
        assertThat(page)
                .contains("The original has changed since it was read. Take its folder in again.")
                .contains("The file is not there any more.")
                .contains("Try failed again");
        Files.write(first, original);
        Files.move(away, second);
        application.post("/runs/" + run + "/retry", Map.of());
        awaitStanding(run, "finished");
        LiveApplication.await(
                "both returns",
                Duration.ofSeconds(60),
                () -> Files.exists(shoot.resolve("R_0-denoise.dng")) && Files.exists(shoot.resolve("R_1-denoise.dng")));
    }

    @Test
    void aShootWithNothingReadyStartsNoRun() throws IOException {
        Path shoot = Files.createDirectories(folder.resolve("photos/nothing"));
        Files.writeString(shoot.resolve("words.dng"), "words");
        long id = application.takeIn("nothing");
        HttpResponse<String> answer = application.post("/runs", Map.of("shoot", Long.toString(id)));
        assertThat(answer.statusCode()).isEqualTo(422);
        assertThat(answer.body()).contains("No frame of this shoot is ready yet");
    }

    private static Map<String, String> page(String version, String grain) {
        Map<String, String> form = new LinkedHashMap<>();
        form.put("camera", "Ondrel 24");
        form.put("version", version);
        form.put("ei", "400");
        form.put("on", "on");
        form.put("method", "Quick");
        form.put("grainKept", grain);
        form.put("colourNoiseKept", "5");
        return form;
    }

    private static String version() {
        Matcher matcher = Pattern.compile("name=\"version\" value=\"(\\d+)\"")
                .matcher(application.get("/book?camera=Ondrel%2024").body());
        assertThat(matcher.find()).isTrue();
        return matcher.group(1);
    }

    /** Runs take what the book says when they start; a page changed in another tab is not overwritten; undo goes back. */
    @Test
    void theBookDecidesAndTwoTabsDoNotCollide() throws Exception {
        Path shoot = shoot("book", 1, 6400);
        long id = application.takeIn("book");
        String shown = version();
        assertThat(application.post("/book", page(shown, "12")).statusCode()).isEqualTo(302);
        HttpResponse<String> later = application.post("/book", page(shown, "77"));
        assertThat(later.statusCode()).isEqualTo(422);
        assertThat(later.body()).contains("changed elsewhere since you opened it");
        awaitStanding(run(id, "beside"), "finished");
        assertThat(grainOf(shoot.resolve("R_0-denoise.dng"))).isEqualTo(12);
        assertThat(application.post("/book/undo", Map.of("version", version())).statusCode())
                .isEqualTo(302);
        awaitStanding(run(id, "beside"), "finished");
        assertThat(grainOf(shoot.resolve("R_0-denoise-2.dng"))).isBetween(15.0, 30.0);
        for (String wrong : new String[] {"130", "-1", "many"}) {
            HttpResponse<String> refused = application.post("/book", page(version(), wrong));
            assertThat(refused.statusCode()).isEqualTo(422);
            assertThat(refused.body()).contains("Nothing was saved");
        }
    }
}
