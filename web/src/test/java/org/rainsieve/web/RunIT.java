package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import com.microsoft.playwright.options.AriaRole;
import java.awt.image.Raster;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.xmp.Xmp;

/** Runs and the camera book on the real application: pausing, stopping, failing, trying again, and two tabs at once. */
class RunIT {
    @TempDir
    static Path folder;

    private static LiveApplication application;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos"));
        application = live();
    }

    private static LiveApplication live() throws IOException {
        Map<String, String> environment = new LinkedHashMap<>();
        environment.put("SIEVE_ROOTS", folder.resolve("photos").toString());
        // What a worker held that was ended is taken over after nine seconds.
        environment.put("SIEVE_HEARTBEAT_MS", "1500");
        return new LiveApplication("serve", folder.resolve("home"), environment);
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

    private static void frame(Path shoot, String name, int iso, Mosaic mosaic, int black, int bits) throws IOException {
        TiffDirectory tags = SimulatedCamera.ONDREL_24.tags(
                new SimulatedCamera.Shot(iso, 0.01, 5.6, "", 0, "2026-05-01T21:00:00"), false);
        tags.put(TiffField.ofText(Tag.MODEL, "Bruk 5"));
        tags.put(TiffField.ofText(Tag.UNIQUE_CAMERA_MODEL, "Bruk 5"));
        Files.write(
                shoot.resolve(name),
                CfaDngWriter.write(
                        mosaic, black, new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, bits, false, 0), tags));
    }

    private static Planes even(int width, int height, double light) {
        Planes planes = new Planes(new Region(0, 0, width, height), 3);
        for (int c = 0; c < 3; c++) {
            Arrays.fill(planes.channel(c), (float) light);
        }
        return planes;
    }

    /**
     * Frames of a body that nobody knows, none with a noise profile: what a real sensor saw, no light at all on a sensor without a
     * black level, nothing but clipping, and a stamp. All come back; those whose law is not their own say what it is instead.
     */
    @Test
    void framesThatTellLittleOfTheirNoise() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/anything"));
        // See NOTICE beside it: a real sensor's mosaic.
        Raster raster = ImageIO.read(Path.of("../simulation/src/test/resources/pictures/mosaic.png")
                        .toFile())
                .getRaster();
        short[] samples = new short[640 * 480];
        for (int i = 0; i < samples.length; i++) {
            samples[i] = (short) raster.getSample(i % 640, i / 640, 0);
        }
        Mosaic real = new Mosaic(640, 480, samples, CfaPattern.GRBG, new float[] {25}, 1, 1, 1023);
        frame(shoot, "real.dng", 400, real, 25, 10);
        SimulatedSensor withoutBlack = new SimulatedSensor(CfaPattern.RGGB, 0, 16_383);
        frame(shoot, "capped.dng", 6400, withoutBlack.expose(even(320, 240, 0), 0.01, 1e-4, 1), 0, 14);
        frame(shoot, "burnt.dng", 3200, withoutBlack.expose(even(320, 240, 4), 0.004, 4e-5, 2), 0, 14);
        frame(shoot, "stamp.dng", 800, withoutBlack.expose(even(64, 64, 0.2), 0.001, 4e-6, 3), 0, 14);
        long id = application.takeIn("anything");
        String page = application.get("/shoots/" + id).body();
        assertThat(page).contains("its noise cannot be read", "an exposure without light");
        // What is no picture is left out of runs unless its owner wants it.
        Pattern.compile("name=\"frames\" value=\"([0-9,]+)\"")
                .matcher(page)
                .results()
                .forEach(group -> application.post(
                        "/shoots/" + id + "/decide", Map.of("frames", group.group(1), "decision", "accept")));
        long run = run(id, "beside");
        awaitStanding(run, "finished");
        assertThat(application.get("/runs/" + run).body()).contains("4 of 4 ").doesNotContain("■ failed");
        try (LinearDngFile burnt = LinearDngFile.open(shoot.resolve("burnt-denoise.dng"))) {
            ResolvedSettings made = settingsOf(shoot.resolve("burnt-denoise.dng"));
            assertThat(made.noiseFrom().source()).isEqualTo(SettledLaw.Source.OTHER_ISOS);
            assertThat(made.noise().a().get(1)).isBetween(4e-4, 0.04);
            Planes white = new Planes(new Region(0, 0, 320, 240), 3);
            burnt.fill(white);
            assertThat(white.channel(0)).containsOnly(1f);
            assertThat(white.channel(1)).containsOnly(1f);
        }
        try (LinearDngFile returned = LinearDngFile.open(shoot.resolve("real-denoise.dng"))) {
            Planes picture = new Planes(new Region(0, 0, 640, 480), 3);
            returned.fill(picture);
            for (int region = 0; region < 4; region++) {
                int left = region % 2 * 320;
                int top = region / 2 * 240;
                double[] before = new double[3];
                double[] after = new double[3];
                int[] sites = new int[3];
                for (int y = top; y < top + 240; y++) {
                    for (int x = left; x < left + 320; x++) {
                        int own = real.pattern().colourAt(x, y);
                        before[own] += real.at(x, y);
                        sites[own]++;
                        for (int c = 0; c < 3; c++) {
                            after[c] += picture.at(c, x, y) / 320 / 240;
                        }
                    }
                }
                for (int c = 0; c < 3; c++) {
                    double mean = before[c] / sites[c];
                    assertThat(after[c]).as("region %d, colour %d", region, c).isCloseTo(mean, within(0.01 * mean));
                }
            }
        }
    }

    private static long run(long shoot, String destination) {
        return LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", destination)));
    }

    private static void awaitStanding(long run, String standing) {
        LiveApplication.await(
                "run " + run + " to be " + standing,
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
                    PlainFrames.frame(SimulatedCamera.KESVIK_M, iso, 1500, 1000, 2 * i));
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
        assertThat(book).contains("data-handle=\"grainKept\"");
        assertThat(book).contains("value=\"Learned\"", "value=\"Patch\"");
    }

    private static void click(Page page, String button) {
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(button).setExact(true))
                .first()
                .click();
    }

    /** In the browser: run from the spread, pause, resume, failure and retry, make again, compare, keep one and undo, undo a run. */
    @Test
    void fromTheSpreadToTheUndo() throws Exception {
        Path shoot = shoot("walk", 10, 1600);
        long id = application.takeIn("walk");
        Path away = Files.move(shoot.resolve("R_4.dng"), folder.resolve("R_4.dng"));
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            page.navigate(application.url("/shoots/" + id));
            PlaywrightAssertions.assertThat(page.locator("[data-frame]")).hasCount(10);
            PlaywrightAssertions.assertThat(page.locator("[data-start]")).isEnabled();
            page.keyboard().press("r");
            page.keyboard().press("Enter");
            page.waitForURL("**/runs/*");
            String run = page.url();
            Locator standing = page.locator("[data-standing]");
            click(page, "Pause");
            PlaywrightAssertions.assertThat(standing).hasText("paused");
            PlaywrightAssertions.assertThat(page.locator("[data-doing]").first())
                    .hasText("waits");
            click(page, "Resume");
            PlaywrightAssertions.assertThat(standing).hasText("finished");
            PlaywrightAssertions.assertThat(page.locator("[data-reason]").filter(said("not there any more")))
                    .hasCount(1);
            Files.move(away, shoot.resolve("R_4.dng"));
            click(page, "Try failed again");
            PlaywrightAssertions.assertThat(page.locator("[data-counts]")).containsText("10 of 10 frames");
            PlaywrightAssertions.assertThat(standing).hasText("finished");
            // One of them again; both versions against each other, one kept, the other brought back.
            page.locator("[data-return]").first().click();
            PlaywrightAssertions.assertThat(page.locator("[data-stage]")).isVisible();
            click(page, "as it was");
            PlaywrightAssertions.assertThat(standing).hasText("finished");
            page.navigate(application.url("/catalogue?shoot=" + id));
            Locator pair = page.locator("[data-pair]").first();
            pair.getByText("Compare").click();
            PlaywrightAssertions.assertThat(page.locator("[data-left-tag]")).containsText("version 1");
            PlaywrightAssertions.assertThat(page.locator("[data-right-tag]")).containsText("version 2");
            page.goBack();
            pair.locator("[data-version]").nth(1).getByText("Keep this one").click();
            PlaywrightAssertions.assertThat(pair.locator("[data-where]").first())
                    .hasText("discarded");
            pair.getByText("Bring back").click();
            PlaywrightAssertions.assertThat(pair.locator("[data-where]").first())
                    .hasText("beside its original");
            // The first run undone, and that undone.
            page.navigate(run);
            click(page, "Discard its returns");
            PlaywrightAssertions.assertThat(page.locator("[data-state]").first())
                    .hasText("discarded");
            assertThat(count(shoot)).isEqualTo(11);
            click(page, "Bring returns back");
            PlaywrightAssertions.assertThat(page.locator("[data-state]").first())
                    .hasText("returned");
            assertThat(count(shoot)).isEqualTo(21);
            assertThat(browser.problems).isEmpty();
        }
    }

    private static Locator.FilterOptions said(String words) {
        return new Locator.FilterOptions().setHasText(words);
    }

    /** A run that is to be done first overtakes one that was started before it. */
    @Test
    void oneRunOvertakesAnother() throws Exception {
        shoot("long", 10, 1600);
        shoot("urgent", 2, 1600);
        long first = application.takeIn("long");
        long second = application.takeIn("urgent");
        long patient = run(first, "beside");
        long urgent = run(second, "beside");
        assertThat(application.post("/runs/" + urgent + "/first", Map.of()).statusCode())
                .isEqualTo(302);
        awaitStanding(urgent, "finished");
        assertThat(application.get("/runs/" + patient).body()).contains("data-standing>running<");
        awaitStanding(patient, "finished");
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
        Matcher hold = Pattern.compile("name=\"frames\" value=\"([0-9]+)\"").matcher(page);
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
        return settingsOf(file).denoise().grainKeptPercent();
    }

    private static ResolvedSettings settingsOf(Path file) throws Exception {
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            byte[] xmp = dng.main().field(Tag.XMP).orElseThrow().bytes();
            return ResolvedSettings.ofJson(Xmp.property(xmp, "Settings"));
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
        // A stopped run hands nothing out; what a worker had begun may be one tile from its end.
        LiveApplication.await(
                "what was begun to be given back",
                () -> !application.get("/runs/" + run).body().contains("data-state>taken<"));
        long after = count(shoot);
        Thread.sleep(1000);
        assertThat(count(shoot)).isEqualTo(after).isLessThan(40);
        assertThat(shoot.resolve(".rain-sieve-tmp")).doesNotExist();
    }

    /** A run is undone as a whole: its returns are out of the way and come back; originals and strangers' files stay. */
    @Test
    void aRunIsDiscardedAndBroughtBack() throws Exception {
        Path shoot = shoot("discarded", 2, 1600);
        long id = application.takeIn("discarded");
        long run = run(id, "beside");
        awaitStanding(run, "finished");
        byte[] written = Files.readAllBytes(shoot.resolve("R_0-denoise.dng"));
        assertThat(application.post("/runs/" + run + "/discard", Map.of()).statusCode())
                .isEqualTo(302);
        assertThat(count(shoot)).as("originals alone").isEqualTo(2);
        assertThat(application.get("/runs/" + run).body()).contains(">discarded<", "Bring returns back");
        assertThat(application.get("/shoots/" + id).body()).doesNotContain("Before and after");
        // A stranger's file that took a name meanwhile is left alone, and so is the return.
        Path taken = Files.writeString(shoot.resolve("R_1-denoise.dng"), "not ours");
        HttpResponse<String> back = application.post("/runs/" + run + "/bring-back", Map.of());
        assertThat(back.statusCode()).isEqualTo(422);
        assertThat(back.body()).contains("1 return of this run not put back");
        assertThat(shoot.resolve("R_0-denoise.dng")).hasBinaryContent(written);
        assertThat(taken).hasContent("not ours");
        Files.delete(taken);
        assertThat(application.post("/runs/" + run + "/bring-back", Map.of()).statusCode())
                .isEqualTo(302);
        assertThat(count(shoot)).isEqualTo(4);
        assertThat(shoot.resolve(".rain-sieve-discarded")).doesNotExist();
        // What was changed since is not discarded as if it were still the return.
        Files.writeString(shoot.resolve("R_1-denoise.dng"), "edited elsewhere");
        assertThat(application.post("/runs/" + run + "/discard", Map.of()).body())
                .contains("1 return of this run left alone");
        assertThat(shoot.resolve("R_1-denoise.dng")).hasContent("edited elsewhere");
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
                () -> Files.exists(shoot.resolve("R_0-denoise.dng")) && Files.exists(shoot.resolve("R_1-denoise.dng")));
    }

    /** What a run will need is told beforehand, the time once something was measured. (For a full disk see ChaosIT.) */
    @Test
    void whatARunNeedsIsTold() throws Exception {
        shoot("room", 1, 1600);
        long id = application.takeIn("room");
        Map<String, String> again = Map.of("take", "ALL", "again", "true");
        String before = application.post("/shoots/" + id + "/plan", again).body();
        assertThat(before).contains("\"frames\":1", "\"megapixels\":0.12", "\"workers\":1", "\"fresh\":1");
        awaitStanding(run(id, "beside"), "finished");
        String measured = application.post("/shoots/" + id + "/plan", again).body();
        assertThat(measured).contains("\"restsOn\":\"RETURNS\"", "\"fresh\":0", "\"again\":1");
        Matcher bytes = Pattern.compile("\"bytes\":(\\d+)").matcher(measured);
        assertThat(bytes.find()).isTrue();
        assertThat(Long.parseLong(bytes.group(1))).isBetween(100_000L, 2_000_000L);
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
        // The later one is told with the difference, and what it wanted is held until it is settled.
        assertThat(later.statusCode()).isEqualTo(409);
        assertThat(later.body())
                .contains("This page was changed elsewhere")
                .contains("grain kept 12 %")
                .contains("grain kept 77 %")
                .contains("Put mine on top");
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

    private static String grainInBook(String camera) {
        Matcher matcher = Pattern.compile("name=\"grainKept\"[^>]*value=\"([0-9.]+)\"")
                .matcher(application
                        .get("/book?camera=" + camera.replace(" ", "%20"))
                        .body());
        assertThat(matcher.find()).isTrue();
        return matcher.group(1);
    }

    private static String versionOf(String camera) {
        Matcher matcher = Pattern.compile("name=\"version\" value=\"(\\d+)\"")
                .matcher(application
                        .get("/book?camera=" + camera.replace(" ", "%20"))
                        .body());
        assertThat(matcher.find()).isTrue();
        return matcher.group(1);
    }

    private static void savePilbo(String grain) {
        Map<String, String> form = page(versionOf("Pilbo S"), grain);
        form.put("camera", "Pilbo S");
        assertThat(application.post("/book", form).statusCode()).isEqualTo(302);
    }

    private static void step(String what) {
        assertThat(application
                        .post("/book/" + what, Map.of("version", versionOf("Pilbo S")))
                        .statusCode())
                .isEqualTo(302);
    }

    /** Undo and redo walk through the changes, also after the application was started again; going back is a change too. */
    @Test
    void undoAndRedoOfABookPage() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/redo"));
        Files.write(shoot.resolve("P.dng"), PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, 400, 300, 4));
        application.takeIn("redo");
        savePilbo("11");
        savePilbo("22");
        savePilbo("33");
        step("undo");
        assertThat(grainInBook("Pilbo S")).isEqualTo("22");
        application.close();
        application = live();
        step("undo");
        assertThat(grainInBook("Pilbo S")).isEqualTo("11");
        step("redo");
        assertThat(grainInBook("Pilbo S")).isEqualTo("22");
        step("redo");
        assertThat(grainInBook("Pilbo S")).isEqualTo("33");
        assertThat(application
                        .post("/book/redo", Map.of("version", versionOf("Pilbo S")))
                        .statusCode())
                .isEqualTo(422);
        step("undo");
        savePilbo("44");
        assertThat(application
                        .post("/book/redo", Map.of("version", versionOf("Pilbo S")))
                        .statusCode())
                .as("a new change leaves nothing to redo")
                .isEqualTo(422);
        step("undo");
        assertThat(grainInBook("Pilbo S")).isEqualTo("22");

        // A page of another camera asks first, then is a change like any other.
        String file = application
                .get("/book/file?camera=Pilbo%20S")
                .body()
                .replace("\"Pilbo S\"", "\"Ondrel 24\"")
                .replace("22", "66");
        HttpResponse<String> preview = application.post("/book/import", Map.of("camera", "Pilbo S", "text", file));
        assertThat(preview.body())
                .contains("The file was written for <b>Ondrel 24</b>")
                .contains("grain kept 66 %");
        Map<String, String> form = new LinkedHashMap<>();
        form.put("camera", "Pilbo S");
        form.put("version", versionOf("Pilbo S"));
        form.put("text", file);
        assertThat(application.post("/book/import/apply", form).statusCode()).isEqualTo(422);
        assertThat(grainInBook("Pilbo S")).isEqualTo("22");
        form.put("otherCamera", "true");
        assertThat(application.post("/book/import/apply", form).statusCode()).isEqualTo(302);
        assertThat(grainInBook("Pilbo S")).isEqualTo("66");
        step("undo");
        assertThat(grainInBook("Pilbo S")).isEqualTo("22");

        // Starters: kept, named, taken away.
        assertThat(application
                        .post("/book/starters", Map.of("camera", "Pilbo S", "name", "Rain"))
                        .statusCode())
                .isEqualTo(302);
        assertThat(application
                        .post("/book/starters", Map.of("camera", "Pilbo S", "name", "Stars"))
                        .statusCode())
                .as("the name of one that ships")
                .isEqualTo(422);
        form = new LinkedHashMap<>();
        form.put("camera", "Pilbo S");
        form.put("version", versionOf("Pilbo S"));
        form.put("starter", "Rain");
        assertThat(application.post("/book/start", form).statusCode()).isEqualTo(302);
        assertThat(Double.parseDouble(grainInBook("Pilbo S"))).isCloseTo(22, within(1.0));
    }

    /** ISO 500 pushed by 1.25 stops takes the amounts of EI 1,189 and the noise law of ISO 500; a sidecar tells the push. */
    @Test
    void pushChangesAmountsAndNeverTheNoise() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/push"));
        for (int i = 0; i < 3; i++) {
            Files.write(
                    shoot.resolve("K_" + i + ".dng"),
                    PlainFrames.frame(SimulatedCamera.KESVIK_M, 500, 600, 600, 2 * i));
        }
        Files.write(
                shoot.resolve("K_1.xmp"),
                SimulatedCamera.packet(3, 1.25, "x", "y").getBytes());
        long id = application.takeIn("push");
        assertThat(application.get("/shoots/" + id + "/sheet").body()).contains("ISO 500 pushed to 1,189");
        HttpResponse<String> pushed = application.post(
                "/shoots/" + id + "/push", Map.of("camera", "Kesvik M", "iso", "500", "push", "nonsense"));
        assertThat(pushed.statusCode()).isEqualTo(422);
        // A rung at the pushed frame's own exposure index, chosen on that frame, changes it and not the others.
        long frame = frame(id, "K_1.dng");
        Map<String, String> form = new LinkedHashMap<>();
        form.put("target", "new-rung");
        form.put("version", versionOf("Kesvik M"));
        form.put("on", "true");
        form.put("method", "Quick");
        form.put("grainKept", "7");
        form.put("colourNoiseKept", "0");
        assertThat(application.get("/frames/" + frame).body()).contains("at ISO 1,189, a new line in its ladder");
        assertThat(application.post("/frames/" + frame + "/settings", form).statusCode())
                .isEqualTo(302);
        // Own settings of one frame touch no other.
        form.put("target", "frame");
        form.put("grainKept", "91");
        assertThat(application
                        .post("/frames/" + frame(id, "K_2.dng") + "/settings", form)
                        .statusCode())
                .isEqualTo(302);
        awaitStanding(run(id, "beside"), "finished");
        ResolvedSettings plain = settingsOf(shoot.resolve("K_0-denoise.dng"));
        ResolvedSettings higher = settingsOf(shoot.resolve("K_1-denoise.dng"));
        assertThat(higher.ei()).isCloseTo(1189.2, within(0.1));
        assertThat(higher.denoise().grainKeptPercent()).isCloseTo(7, within(0.1));
        assertThat(plain.ei()).isEqualTo(500);
        assertThat(plain.denoise().grainKeptPercent()).isGreaterThan(7);
        assertThat(higher.noise()).isEqualTo(plain.noise());
        assertThat(settingsOf(shoot.resolve("K_2-denoise.dng")).denoise().grainKeptPercent())
                .isEqualTo(91);
        // Its first run bound the page; by choice each serial number has a page of its own.
        assertThat(application.get("/book?camera=Kesvik%20M").body())
                .contains("bound to " + ResolvedSettings.ENGINE + ", model six-");
        application.post("/book/apart", Map.of("body", "Kesvik M", "apart", "true"));
        assertThat(application.get("/book").body()).contains(">Kesvik M no. " + SimulatedCamera.KESVIK_M.serial());
        application.post("/book/apart", Map.of("body", "Kesvik M", "apart", "false"));
        assertThat(application.get("/shoots/" + id).body()).doesNotContain("Kesvik M no.");
    }

    private static long frame(long shoot, String name) {
        Matcher matcher = Pattern.compile("\"id\":(\\d+),\"name\":\"" + name)
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        assertThat(matcher.find()).isTrue();
        return Long.parseLong(matcher.group(1));
    }
}
