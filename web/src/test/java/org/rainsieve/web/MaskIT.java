package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import java.awt.image.BufferedImage;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** Masks and what the bench is compared with: painted in a browser, undone after a restart, written as seen. */
class MaskIT {
    private static final String AMOUNTS = "on=true&method=Quick&grainKept=0&colourNoiseKept=0";
    private static final String PLACE = "x=100&y=100&w=400&h=300";

    @TempDir
    private static Path folder;

    private static LiveApplication application;

    @BeforeAll
    static void start() throws IOException {
        for (int i = 0; i < 9; i++) {
            Path photos = Files.createDirectories(folder.resolve(
                    "photos/" + List.of("painted", "seen", "ground").get(i / 3)));
            Files.write(
                    photos.resolve("B_" + i % 3 + ".dng"),
                    PlainFrames.frame(SimulatedCamera.PILBO_S, 3200, 700, 600, 2));
        }
        application = live();
    }

    private static LiveApplication live() throws IOException {
        return new LiveApplication(
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

    @Test
    void paintedUndoneAndWrittenAsSeen() throws Exception {
        long shoot = application.takeIn("painted");
        long frame = frame(shoot, "B_0.dng");
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            page.navigate(application.url("/frames/" + frame));
            page.selectOption("#method", "Quick");
            page.fill("#grain", "0");
            page.click("[data-body=denoise] [data-more]");
            page.fill("#colour", "0");
            page.click("[data-apply]");
            PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("Applied to this frame");
            page.keyboard().press("4");
            page.keyboard().press("m");
            page.click("[data-new=brush]");
            PlaywrightAssertions.assertThat(page.locator("[data-mask-hint]")).containsText("Paint on the picture");
            // By keyboard, then with the pointer.
            page.keyboard().press("Enter");
            for (int i = 0; i < 6; i++) {
                page.keyboard().press("ArrowRight");
            }
            page.keyboard().press("Enter");
            Locator parts = page.locator("[data-part-list]");
            PlaywrightAssertions.assertThat(parts).containsText("brush, 1 stroke");
            Locator stage = page.locator("[data-stage]");
            double x = stage.boundingBox().x + 80;
            double y = stage.boundingBox().y + 90;
            page.mouse().move(x, y);
            page.mouse().down();
            page.mouse().move(x + 60, y + 20);
            page.mouse().move(x + 120, y);
            page.mouse().up();
            PlaywrightAssertions.assertThat(parts).containsText("brush, 2 strokes");
            page.fill("#mask-grain", "100");
            page.keyboard().press("Tab");
            LiveApplication.await("the mask's amount", () -> masks(frame).contains("\"grainKeptPercent\":100.0"));
            // A second one that is found, taken away from by a gradient.
            page.click("[data-new='in focus']");
            PlaywrightAssertions.assertThat(page.locator("[data-mask-hint]")).containsText("of the frame");
            page.selectOption("[data-join]", "TAKE");
            page.selectOption("[data-next-part]", "gradient");
            page.mouse().move(x, y);
            page.mouse().down();
            page.mouse().move(x + 200, y + 100);
            page.mouse().up();
            PlaywrightAssertions.assertThat(parts).containsText("without gradient");
            LiveApplication.await("the gradient to be kept", () -> masks(frame).contains("\"join\":\"TAKE\""));
            assertThat(browser.problems).isEmpty();
        }
        String both = masks(frame);
        assertThat(both).contains("in focus", "strokes");

        // Undo goes on after a restart.
        application.close();
        application = live();
        application.post("/frames/" + frame + "/undo", Map.of());
        assertThat(masks(frame)).doesNotContain("\"join\":\"TAKE\"").contains("in focus");
        application.post("/frames/" + frame + "/redo", Map.of());
        assertThat(masks(frame)).isEqualTo(both);
        LiveApplication.await(
                "a worker",
                () -> application
                                .get("/frames/" + frame + "/masks/found?" + AMOUNTS)
                                .statusCode()
                        == 200);

        BufferedImage masked = picture("/frames/" + frame + "/picture/after?" + PLACE + "&" + AMOUNTS);
        BufferedImage without = picture("/frames/" + frame + "/picture/partner?partner=masks&" + PLACE + "&" + AMOUNTS);
        BufferedImage strength = picture("/frames/" + frame + "/masks/0/strength?" + PLACE + "&" + AMOUNTS);
        int inside = 0;
        int changed = 0;
        int changedOutside = 0;
        for (int py = 0; py < 300; py++) {
            for (int px = 0; px < 400; px++) {
                boolean differs = masked.getRGB(px, py) != without.getRGB(px, py);
                int strong = strength.getRGB(px, py) & 255;
                inside += strong > 250 ? 1 : 0;
                changed += strong > 250 && differs ? 1 : 0;
                // What is told as 0 of 255 may be a five-hundredth.
                changedOutside += strong == 0 && apart(masked.getRGB(px, py), without.getRGB(px, py)) > 1 ? 1 : 0;
            }
        }
        assertThat(inside).isGreaterThan(3000);
        assertThat(changed).isGreaterThan(inside * 8 / 10);
        assertThat(changedOutside).isZero();

        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(shoot))));
        LiveApplication.await(
                "the run to finish",
                () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        Matcher item = Pattern.compile("/returns/(\\d+)\"[^>]*>[^<]*B_0")
                .matcher(application.get("/runs/" + run).body());
        assertThat(item.find()).isTrue();
        BufferedImage written = picture("/returns/" + item.group(1) + "/after?" + PLACE);
        int most = 0;
        for (int py = 0; py < 300; py++) {
            for (int px = 0; px < 400; px++) {
                most = Math.max(most, apart(written.getRGB(px, py), masked.getRGB(px, py)));
            }
        }
        assertThat(most).isLessThanOrEqualTo(1);

        // The burst takes copies; a version and a frame of the burst can be compared with.
        assertThat(post("/frames/" + frame + "/masks/burst", "{}")).isEqualTo("{\"frames\":2}");
        assertThat(masks(frame(shoot, "B_1.dng"))).isEqualTo(both);
        picture("/frames/" + frame + "/picture/partner?partner=version:" + item.group(1) + "&" + PLACE + "&" + AMOUNTS);
        picture("/frames/" + frame + "/picture/partner?partner=frame:" + frame(shoot, "B_2.dng") + "&" + PLACE + "&"
                + AMOUNTS);
    }

    /** A mask by focus goes to the camera's ladder: its other frames find their own, may leave it, and undo takes it back everywhere. */
    @Test
    void groundOfACameraIsFoundInEveryFrame() throws Exception {
        long shoot = application.takeIn("ground");
        long frame = frame(shoot, "B_0.dng");
        long other = frame(shoot, "B_1.dng");
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            page.navigate(application.url("/frames/" + frame));
            page.keyboard().press("m");
            page.click("[data-new='in focus']");
            PlaywrightAssertions.assertThat(page.locator("[data-mask-hint]")).containsText("of the frame");
            page.check("#mask-inverted");
            page.fill("#mask-grain", "3");
            page.keyboard().press("Tab");
            LiveApplication.await("the amount", () -> masks(frame).contains("\"grainKeptPercent\":3.0"));
            page.click("[data-mask-book]");
            PlaywrightAssertions.assertThat(page.locator("[data-mask-hint]")).containsText("is in the book now");
            assertThat(masks(frame)).contains("\"masks\":[]", "\"ifTold\":true");

            page.navigate(application.url("/frames/" + other));
            page.keyboard().press("m");
            PlaywrightAssertions.assertThat(page.locator("[data-book-words]")).containsText("grain kept 3 %");
            PlaywrightAssertions.assertThat(page.locator("[data-mask-count]")).hasText(" 1");
            BufferedImage in = picture("/frames/" + other + "/masks/0/strength?edge=200&" + AMOUNTS);
            assertThat(in.getWidth()).isEqualTo(200);
            page.click("[data-book-leave]");
            PlaywrightAssertions.assertThat(page.locator("[data-book-leave]")).containsText("again");
            assertThat(application
                            .get("/frames/" + other + "/masks/0/strength?edge=200&" + AMOUNTS)
                            .statusCode())
                    .isEqualTo(404);
            page.click("[data-book-leave]");
            page.click("[data-book-copy]");
            PlaywrightAssertions.assertThat(page.locator("#mask-grain")).hasValue("3");
            assertThat(masks(other)).contains("\"leaves\":true", "\"grainKeptPercent\":3.0");
            assertThat(browser.problems).isEmpty();
        }
        String camera = java.net.URLEncoder.encode("Ondrel 24", java.nio.charset.StandardCharsets.UTF_8);
        assertThat(application.get("/book?camera=" + camera).body()).contains("grain kept 3 %");
        // The run of an unsharp frame says that it was left out; all pages still open.
        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(shoot))));
        LiveApplication.await(
                "the run to finish",
                () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        application.post("/frames/" + frame + "/undo", Map.of());
        assertThat(masks(frame)).contains("\"book\":[]").contains("\"grainKeptPercent\":3.0");
    }

    @Test
    void overlaysFiguresAndRefusals() throws Exception {
        long shoot = application.takeIn("seen");
        long frame = frame(shoot, "B_0.dng");
        String base = "/frames/" + frame;
        String before = application
                .get(base)
                .body()
                .replaceAll("(?s)<meta name=\"csrf\".*?>|name=\"_csrf\" value=\"[^\"]*\"", "");
        BufferedImage plain = picture(base + "/picture/after?" + PLACE + "&" + AMOUNTS);
        BufferedImage toned = picture(base + "/picture/after?" + PLACE + "&" + AMOUNTS
                + "&shadows=60&contrast=-30&saturation=-100&marks=true");
        int grey = 0;
        for (int x = 0; x < 400; x++) {
            int rgb = toned.getRGB(x, 150);
            grey += Math.abs((rgb & 255) - (rgb >> 16 & 255)) <= 2 ? 1 : 0;
        }
        assertThat(grey).isEqualTo(400);
        assertThat(toned.getRGB(200, 150)).isNotEqualTo(plain.getRGB(200, 150));
        picture(base + "/picture/noise?" + PLACE + "&" + AMOUNTS);
        BufferedImage taken = picture(base + "/picture/taken?" + PLACE + "&" + AMOUNTS);
        double mean = 0;
        for (int x = 0; x < 400; x++) {
            mean += (taken.getRGB(x, 150) >> 8 & 255) / 400.0;
        }
        assertThat(mean).isBetween(110.0, 146.0);
        // What is only looked at leaves the frame as it was.
        assertThat(application
                        .get(base)
                        .body()
                        .replaceAll("(?s)<meta name=\"csrf\".*?>|name=\"_csrf\" value=\"[^\"]*\"", ""))
                .isEqualTo(before);

        String histogram =
                application.get(base + "/histogram?" + PLACE + "&" + AMOUNTS).body();
        Matcher counts = Pattern.compile("\\[([\\d,]+)]").matcher(histogram);
        long all = 0;
        while (counts.find()) {
            for (String count : counts.group(1).split(",")) {
                all += Long.parseLong(count);
            }
        }
        Matcher empty = Pattern.compile("\"emptyPercent\":([\\d.]+)").matcher(histogram);
        assertThat(empty.find()).isTrue();
        assertThat(all + 1200 * Double.parseDouble(empty.group(1))).isCloseTo(120_000, within(1.0));
        assertThat(application.get(base + "/figures?" + PLACE + "&" + AMOUNTS).body())
                .contains("noiseLeftPercent");
        assertThat(application.get(base + "/widen?target=camera&" + AMOUNTS).body())
                .contains("B_1.dng", "B_2.dng");
        long other = frame(shoot, "B_1.dng");
        BufferedImage now = picture(base + "/widen/" + other + "?target=rung&changed=false&" + AMOUNTS);
        BufferedImage then = picture(base + "/widen/" + other + "?target=rung&changed=true&" + AMOUNTS);
        assertThat(now.getRGB(100, 100)).isNotEqualTo(then.getRGB(100, 100));

        assertThat(post(base + "/masks", "{\"masks\":[{\"on\":true,\"inverted\":false,\"opacityPercent\":140}]}"))
                .contains("must be 0 to 100 %");
        assertThat(post(base + "/masks", "{\"masks\":[{\"parts\":[{\"shape\":{\"kind\":\"hole\"}}]}]}"))
                .contains("cannot be understood");
        assertThat(post(base + "/masks", "[".repeat(100_000))).contains("cannot be understood");
        assertThat(masks(frame)).startsWith("{\"masks\":[],");
        assertThat(application.get(base + "/masks/3/strength?" + AMOUNTS).statusCode())
                .isEqualTo(404);
    }

    private static int apart(int one, int other) {
        int most = 0;
        for (int shift = 0; shift <= 16; shift += 8) {
            most = Math.max(most, Math.abs((one >> shift & 255) - (other >> shift & 255)));
        }
        return most;
    }

    private String masks(long frame) {
        return application.get("/frames/" + frame + "/masks").body();
    }

    private String post(String path, String json) {
        return application
                .postBytes(path, json.getBytes(StandardCharsets.UTF_8))
                .body();
    }

    private long frame(long shoot, String name) {
        Matcher matcher = Pattern.compile("\"id\":(\\d+),\"name\":\"" + name)
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        assertThat(matcher.find()).isTrue();
        return Long.parseLong(matcher.group(1));
    }

    private BufferedImage picture(String path) throws Exception {
        HttpResponse<byte[]> answer = HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(application.url(path)))
                                .build(),
                        HttpResponse.BodyHandlers.ofByteArray());
        assertThat(answer.statusCode())
                .as(new String(answer.body(), StandardCharsets.UTF_8))
                .isEqualTo(200);
        return ImageIO.read(new ByteArrayInputStream(answer.body()));
    }
}
