package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Route;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import java.awt.image.BufferedImage;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.stream.IntStream;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Test strips on the real application: cells are what is written, blind is blind, choices go where they are meant to. */
class StripIT {
    private static final JsonMapper JSON = new JsonMapper();

    @TempDir
    private static Path folder;

    private static LiveApplication application;
    private static long shoot;

    @BeforeAll
    static void start() throws IOException {
        Path photos = Files.createDirectories(folder.resolve("photos/strip"));
        for (int i = 0; i < 2; i++) {
            Files.write(
                    photos.resolve("S_" + i + ".dng"),
                    PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 1000, 760, 2 * i));
        }
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString()));
        shoot = application.takeIn("strip");
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    private static long frame(String name) {
        for (JsonNode frame :
                JSON.readTree(application.get("/shoots/" + shoot + "/sheet").body())) {
            if (frame.get("name").asString().equals(name)) {
                return frame.get("id").asLong();
            }
        }
        throw new AssertionError("There is no frame " + name);
    }

    private static JsonNode begin(long frame, String... values) {
        Map<String, String> form = new java.util.LinkedHashMap<>();
        for (String value : values) {
            form.put(value.substring(0, value.indexOf('=')), value.substring(value.indexOf('=') + 1));
        }
        HttpResponse<String> answer = application.post("/frames/" + frame + "/strip", form);
        assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
        return JSON.readTree(answer.body());
    }

    private static String version(long frame) {
        var matcher = java.util.regex.Pattern.compile("data-version=\"(\\d+)\"")
                .matcher(application.get("/frames/" + frame + "/strip").body());
        assertThat(matcher.find()).isTrue();
        return matcher.group(1);
    }

    private static BufferedImage picture(String path) throws Exception {
        HttpResponse<byte[]> answer = HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(application.url(path)))
                                .build(),
                        HttpResponse.BodyHandlers.ofByteArray());
        assertThat(answer.statusCode())
                .as(path + " " + new String(answer.body()))
                .isEqualTo(200);
        return ImageIO.read(new ByteArrayInputStream(answer.body()));
    }

    private static int largestDifference(BufferedImage p, BufferedImage q) {
        assertThat(p.getWidth()).isEqualTo(q.getWidth());
        int worst = 0;
        for (int y = 0; y < p.getHeight(); y++) {
            for (int x = 0; x < p.getWidth(); x++) {
                for (int shift = 0; shift < 24; shift += 8) {
                    worst = Math.max(
                            worst, Math.abs((p.getRGB(x, y) >> shift & 255) - (q.getRGB(x, y) >> shift & 255)));
                }
            }
        }
        return worst;
    }

    /** Old and new models side by side, which differ; the one that is chosen is the camera's from then on, and undone as any change. */
    @Test
    void aNewerModelIsJudgedOnAStripAndBound() throws Exception {
        long frame = frame("S_1.dng");
        String book = "/book?camera=Ondrel%2024";
        application.post("/book/bind", Map.of("camera", "Ondrel 24", "version", version(frame), "model", "bayer-5"));
        assertThat(application.get(book).body()).contains("/strip?of=models");
        JsonNode strip = begin(frame, "of=models");
        String token = strip.get("token").asString();
        assertThat(strip.get("rows").get(0).asString()).startsWith("bayer-5 · Learned");
        assertThat(strip.get("rows").get(1).asString()).startsWith("bayer-7 · Learned");
        String cell = "/0?w=200&h=120";
        assertThat(largestDifference(
                        picture("/strips/" + token + "/cells/0" + cell),
                        picture("/strips/" + token + "/cells/1" + cell)))
                .isPositive();
        HttpResponse<String> chosen = application.post(
                "/strips/" + token + "/choose", Map.of("row", "1", "target", "frame", "version", version(frame)));
        assertThat(chosen.statusCode()).as(chosen.body()).isEqualTo(200);
        assertThat(application.get(book).body()).contains("model bayer-7").doesNotContain("/strip?of=models");
        application.post("/strips/" + token + "/undo", Map.of());
        assertThat(application.get(book).body()).contains("model bayer-5");
        application.post("/book/undo", Map.of("camera", "Ondrel 24", "version", version(frame)));
    }

    /** Chosen on a strip for its rung, a candidate's cell is the written file's region; the choice is undone as one. */
    @Test
    void aCellShowsWhatIsWritten() throws Exception {
        long frame = frame("S_0.dng");
        JsonNode strip = begin(frame, "of=bite");
        String token = strip.get("token").asString();
        assertThat(strip.get("spots").size()).isBetween(1, 3);
        int row = 2;
        assertThat(strip.get("rows").get(row).asString()).contains("sharpness 60, 60 %");
        BufferedImage cell = picture("/strips/" + token + "/cells/" + row + "/0?w=200&h=120");
        JsonNode figures = JSON.readTree(application
                .get("/strips/" + token + "/figures/" + row + "/0?w=200&h=120")
                .body());
        assertThat(figures.get("measured").get("noiseLeftPercent").asDouble()).isBetween(1.0, 100.0);
        assertThat(figures.get("seconds").asDouble()).isPositive();
        HttpResponse<String> chosen = application.post(
                "/strips/" + token + "/choose",
                Map.of("row", "" + row, "target", "new-rung", "version", version(frame)));
        assertThat(chosen.statusCode()).as(chosen.body()).isEqualTo(200);
        assertThat(application.get("/book?camera=Ondrel%2024").body()).contains("chosen on a strip of S_0.dng");
        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(shoot))));
        LiveApplication.await(
                "the run to finish",
                () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        var item = java.util.regex.Pattern.compile("href=\"/returns/(\\d+)\"")
                .matcher(application.get("/frames/" + frame).body());
        assertThat(item.find()).isTrue();
        JsonNode spot = strip.get("spots").get(0);
        int x = (int) Math.round(spot.get("x").asDouble() * 1000 - 100);
        int y = (int) Math.round(spot.get("y").asDouble() * 760 - 60);
        BufferedImage written = picture("/returns/" + item.group(1) + "/after?x=" + Math.max(0, Math.min(800, x))
                + "&y=" + Math.max(0, Math.min(640, y)) + "&w=200&h=120");
        assertThat(largestDifference(cell, written)).isLessThanOrEqualTo(1);
        // The same look is shown for every rung before it is taken, and undone as one change.
        assertThat(application.get("/strips/" + token + "/same-look?row=" + row).body())
                .contains("\"ei\":100")
                .contains("\"ei\":25600");
        JsonNode taken = JSON.readTree(application
                .post("/strips/" + token + "/same-look", Map.of("row", "" + row, "version", version(frame)))
                .body());
        assertThat(application.get("/book?camera=Ondrel%2024").body()).contains("same look at all rungs");
        assertThat(taken.get("version").asLong()).isPositive();
        application.post("/strips/" + token + "/undo", Map.of());
        assertThat(application.get("/book?camera=Ondrel%2024").body()).contains("undone: same look at all rungs");
    }

    /** Blind: no words, no figures, a new order each time, and the cells of a column come together, whichever took long. */
    @Test
    void blindIsBlind() throws Exception {
        long frame = frame("S_1.dng");
        Set<List<Integer>> orders = new HashSet<>();
        JsonNode open = begin(frame, "of=grain");
        List<BufferedImage> known = new ArrayList<>();
        for (int row = 0; row < 4; row++) {
            known.add(picture("/strips/" + open.get("token").asString() + "/cells/" + row + "/0?w=64&h=48"));
        }
        for (int i = 0; i < 6; i++) {
            JsonNode strip = begin(frame, "of=grain", "blind=true");
            String token = strip.get("token").asString();
            assertThat(strip.toString()).doesNotContain("Learned", "Quick", "grain", "%");
            assertThat(application
                            .get("/strips/" + token + "/figures/0/0?w=64&h=48")
                            .statusCode())
                    .isEqualTo(422);
            List<Integer> order = new ArrayList<>();
            for (int row = 0; row < 4; row++) {
                BufferedImage cell = picture("/strips/" + token + "/cells/" + row + "/0?w=64&h=48");
                order.add(IntStream.range(0, 4)
                        .filter(k -> largestDifference(cell, known.get(k)) == 0)
                        .findFirst()
                        .orElseThrow());
            }
            assertThat(order).containsExactlyInAnyOrder(0, 1, 2, 3);
            orders.add(order);
        }
        assertThat(orders.size()).as("orders of six strips").isGreaterThan(2);

        // Methods, none of them made yet: the quickest must not come before the slowest.
        JsonNode methods = begin(frame, "of=methods", "blind=true");
        String token = methods.get("token").asString();
        long[] took = IntStream.range(0, 3)
                .mapToObj(row -> CompletableFuture.supplyAsync(() -> {
                    long begun = System.nanoTime();
                    application.get("/strips/" + token + "/cells/" + row + "/0?w=64&h=48");
                    return System.nanoTime() - begun;
                }))
                .toList()
                .stream()
                .mapToLong(CompletableFuture::join)
                .toArray();
        assertThat((double) java.util.Arrays.stream(took).min().getAsLong())
                .isCloseTo(java.util.Arrays.stream(took).max().getAsLong(), within(0.8e9));
        HttpResponse<String> chosen = application.post(
                "/strips/" + token + "/choose", Map.of("row", "1", "target", "frame", "version", version(frame)));
        JsonNode revealed = JSON.readTree(chosen.body()).get("strip");
        assertThat(revealed.get("rows").get(1).asString()).contains("grain");
        assertThat(revealed.get("tally").get(0).get("words").asString())
                .isEqualTo(revealed.get("rows").get(1).asString());
        application.post("/strips/" + token + "/undo", Map.of());
        assertThat(application.get("/strips/nothing/cells/0/0?w=10&h=10").statusCode())
                .isEqualTo(404);
        assertThat(application
                        .post("/frames/" + frame + "/strip", Map.of("of", "everything"))
                        .statusCode())
                .isEqualTo(422);
    }

    @Test
    void inTheBrowser() {
        long frame = frame("S_1.dng");
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            page.navigate(application.url("/frames/" + frame));
            page.waitForLoadState();
            page.keyboard().press("t");
            page.waitForURL("**/strip");
            page.locator("[data-of]").selectOption("grain");
            PlaywrightAssertions.assertThat(page.locator("[data-cell='3/0'] img"))
                    .isVisible();
            PlaywrightAssertions.assertThat(page.locator("[data-cell='0/0'] figcaption"))
                    .containsText("noise left");
            Locator label = page.locator("[data-row='1'] span").first();
            PlaywrightAssertions.assertThat(label).hasText("grain 15 %");
            page.locator("[data-replace='1']").click();
            PlaywrightAssertions.assertThat(label).hasText("grain 8 %");
            page.locator("[data-cell='1/0']").press("Enter");
            PlaywrightAssertions.assertThat(page.locator("[data-cell-dialog]")).isVisible();
            page.keyboard().press("Escape");
            // A spot is moved by dragging its picture, for all rows at once.
            String place = page.locator(".strip-head").first().textContent();
            page.locator("[data-cell='0/0']").hover();
            page.mouse().down();
            page.mouse().move(500, 300);
            page.mouse().move(520, 330);
            page.mouse().up();
            PlaywrightAssertions.assertThat(page.locator(".strip-head").first())
                    .not()
                    .hasText(place);
            page.locator("[data-find-spots]").click();
            PlaywrightAssertions.assertThat(page.locator(".strip-head").first()).containsText("smooth");
            // Rows get hidden while an answer about the strip before is on its way: it must not show them again.
            List<Route> held = new ArrayList<>();
            page.route("**/spots/find", held::add);
            page.locator("[data-find-spots]").click();
            page.waitForCondition(() -> !held.isEmpty());
            page.locator("[data-blind]").check();
            PlaywrightAssertions.assertThat(page.locator("[data-row='0'] b")).hasText("Row 1");
            page.waitForResponse("**/spots/find", () -> held.get(0).resume()).finished();
            page.evaluate("() => fetch('/').then(() => 0)"); // by then the page has dealt with what came before
            PlaywrightAssertions.assertThat(page.locator("[data-row='0'] b")).hasText("Row 1");
            PlaywrightAssertions.assertThat(page.locator("[data-cell='3/0'] img"))
                    .isVisible();
            page.locator("[data-choose='2']").click();
            PlaywrightAssertions.assertThat(page.locator("[data-row='2'] b"))
                    .not()
                    .hasText("Row 3");
            PlaywrightAssertions.assertThat(
                            page.locator("[data-row='2'] button").first())
                    .hasText("chosen");
            PlaywrightAssertions.assertThat(page.locator("[data-tally]")).containsText("blind so far");
            page.locator("[data-look]").click();
            PlaywrightAssertions.assertThat(page.locator("[data-look-rows] tr").nth(4))
                    .isVisible();
            page.locator("[data-look-close]").click();
            assertThat(application.get("/frames/" + frame).body()).contains("settings of its own");
            page.keyboard().press("u");
            PlaywrightAssertions.assertThat(page.locator("[data-strip-undo]")).isHidden();
            assertThat(application.get("/frames/" + frame).body()).doesNotContain("settings of its own");
            assertThat(browser.problems).isEmpty();
        }
    }
}
