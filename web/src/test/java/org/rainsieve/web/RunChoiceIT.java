package org.rainsieve.web;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.BoundingBox;
import com.microsoft.playwright.options.KeyboardModifier;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** Which frames a run takes, as somebody chooses them in the browser: those, once, and as the last time. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class) // the second leaves choices for the next run
class RunChoiceIT {
    @TempDir
    static Path folder;

    private static LiveApplication application;
    private static LiveBrowser browser;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos"));
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString(), "SIEVE_TRIAL", "true"));
        browser = new LiveBrowser();
    }

    @AfterAll
    static void stop() {
        if (browser != null) {
            browser.close();
        }
        if (application != null) {
            application.close();
        }
    }

    private static Path shoot(String name, int frames, int width) throws IOException {
        Path shoot = Files.createDirectories(folder.resolve("photos").resolve(name));
        for (int i = 0; i < frames; i++) {
            frame(shoot, i, width);
        }
        return shoot;
    }

    /** Even numbers carry a NoiseProfile: so small a picture would not tell its noise. */
    private static void frame(Path shoot, int number, int width) throws IOException {
        Files.write(
                shoot.resolve("C_" + number + ".dng"),
                PlainFrames.frame(SimulatedCamera.ONDREL_24, 1600, width, 240, 2 * number));
    }

    private static Page open(long shoot) {
        Page page = browser.page;
        page.navigate(application.url("/shoots/" + shoot));
        page.locator("[data-frame]").first().waitFor();
        return page;
    }

    private static Locator card(Page page, int number) {
        return page.locator("[data-frame]", new Page.LocatorOptions().setHasText("C_" + number + ".dng"));
    }

    private static Locator plan(Page page) {
        return page.locator("[data-plan]");
    }

    /** Starts what stands in the form and waits for its end. */
    private static void run(Page page) {
        page.locator("[data-start]").click();
        page.waitForURL("**/runs/*");
        assertThat(page.locator("[data-standing]")).hasText("finished");
    }

    private static List<String> returns(Path shoot) throws IOException {
        try (Stream<Path> files = Files.list(shoot)) {
            return files.map(file -> file.getFileName().toString())
                    .filter(name -> name.contains("-denoise"))
                    .sorted()
                    .toList();
        }
    }

    /** Kept by key, run; run again: nothing; with one more and one changed: those two. */
    @Test
    @Order(1)
    void whatIsChosenIsRunAndOnce() throws IOException {
        Path shoot = shoot("heath", 5, 320);
        long id = application.takeIn("heath");
        // Before anything was made an idle worker has tried out how fast this machine is.
        LiveApplication.await(
                "the trial of this machine's speed",
                () -> application
                        .post("/shoots/" + id + "/plan", Map.of("form", "DNG", "take", "ALL", "destination", "beside"))
                        .body()
                        .contains("\"restsOn\":\"MACHINE\""));
        Page page = open(id);
        assertThat(plan(page)).hasText("5 frames, 5 files: 5 new");
        // From the moment the page is there: no click before.
        page.keyboard().press("ArrowRight");
        page.keyboard().press("q");
        assertThat(card(page, 0)).hasAttribute("data-mark", "keep");
        page.keyboard().press("ArrowRight");
        page.keyboard().press("ArrowRight");
        page.keyboard().press("q");
        assertThat(plan(page)).hasText("2 frames, 2 files: 2 new");
        assertThat(page.locator("[data-names]")).containsText("C_0-denoise.dng … C_2-denoise.dng");
        run(page);
        assertThat(returns(shoot)).containsExactly("C_0-denoise.dng", "C_2-denoise.dng");

        open(id);
        assertThat(plan(page)).hasText("Nothing to do");
        assertThat(page.locator("[data-left-out]")).hasText("left out: 2 up to date");
        assertThat(page.locator("[data-start]")).isDisabled();
        frame(shoot, 5, 320);
        application.takeIn("heath");
        open(id);
        // One by one and a range, as everywhere; two clicks would open.
        card(page, 5).click();
        assertThat(plan(page)).hasText("1 frame, 1 file: 1 new");
        card(page, 3).click(new Locator.ClickOptions().setModifiers(List.of(KeyboardModifier.SHIFT)));
        assertThat(plan(page)).hasText("3 frames, 3 files: 3 new");
        card(page, 4).click(new Locator.ClickOptions().setModifiers(List.of(KeyboardModifier.CONTROL)));
        card(page, 0).click(new Locator.ClickOptions().setModifiers(List.of(KeyboardModifier.CONTROL)));
        assertThat(plan(page)).hasText("2 frames, 2 files: 2 new");
        assertThat(page.locator("[data-left-out]")).hasText("left out: 1 up to date");
        page.keyboard().press("Escape");

        // Amounts of one returned frame are changed on its bench, and it is returned from there.
        long frame = Long.parseLong(card(page, 0).getAttribute("data-open").replaceAll("\\D", ""));
        page.navigate(application.url("/frames/" + frame));
        page.locator("[name=grainKept]").fill("61");
        page.locator("[data-return-this]").click();
        page.waitForURL("**/runs/*");
        assertThat(page.locator("[data-standing]")).hasText("finished");
        assertThat(page.locator("[data-item]")).hasCount(1);
        assertThat(returns(shoot)).containsExactly("C_0-denoise-2.dng", "C_0-denoise.dng", "C_2-denoise.dng");
        // Off again: the card says that its return was made with another amount, and that one alone is taken.
        application.post("/frames/" + frame + "/follow", Map.of("version", version(frame)));
        open(id);
        assertThat(card(page, 0)).containsText("changed since");
        page.locator("[data-take]").selectOption("CHANGED");
        assertThat(plan(page)).hasText("1 frame, 1 file: 1 again");
        page.locator("[name=replaces]").selectOption("true");
        run(page);
        assertThat(returns(shoot)).containsExactly("C_0-denoise-3.dng", "C_2-denoise.dng");
        // Dropped is dropped everywhere at once: on the card, in the count, in the run.
        open(id);
        card(page, 1).click();
        page.keyboard().press("w");
        page.keyboard().press("Escape");
        page.locator("[data-take]").selectOption("OPEN");
        assertThat(plan(page)).hasText("3 frames, 3 files: 3 new");
        assertThat(page.locator("[data-left-out]")).hasText("left out: 1 dropped");
        assertThat(browser.problems).isEmpty();
    }

    private static String version(long frame) {
        Matcher found = Pattern.compile("name=\"version\" value=\"(\\d+)\"")
                .matcher(application.get("/frames/" + frame).body());
        assertThat(found.find()).isTrue();
        return found.group(1);
    }

    /** Three forms are one pass; choices stand there again; what a run did decides what to leave off in the editor. */
    @Test
    @Order(2)
    void formsChoicesAndSizes() throws IOException {
        Path shoot = shoot("ford", 2, 320);
        frame(shoot, 7, 480);
        long id = application.takeIn("ford");
        Page page = open(id);
        for (int height : new int[] {800, 640}) {
            page.setViewportSize(1280, height);
            BoundingBox start = page.locator("[data-start]").boundingBox();
            assertThat(start.y + start.height)
                    .as("Start at a height of " + height)
                    .isLessThanOrEqualTo(height);
        }
        page.setViewportSize(1280, 800);
        page.locator("input[name=forms][value=TIFF]").check();
        page.locator("input[name=forms][value=JPEG]").check();
        page.locator("[name=quality]").fill("71");
        page.locator("[name=destination]").selectOption("sub-folder");
        page.locator("[name=enlargeBy]").selectOption("LONG_EDGE_PX");
        // An answer to what was typed before comes last, and must not stand over the later one.
        boolean[] held = new boolean[1];
        page.route("**/plan", route -> {
            if (!held[0] && route.request().postData().contains("enlargeValue=4000&")) {
                held[0] = true;
                page.waitForTimeout(1500);
            }
            route.resume();
        });
        page.locator("[name=enlargeValue]").fill("4000");
        page.waitForTimeout(300);
        page.locator("[name=enlargeValue]").fill("440");
        page.waitForTimeout(2500);
        // One frame is as large already: it stays as it is, and stops nobody.
        assertThat(page.locator("[data-left-out]")).hasText("1 frame is as large already and not enlarged");
        assertThat(plan(page)).hasText("3 frames, 9 files: 3 new");
        page.unroute("**/plan");
        page.locator("[name=keepAs]").fill("for the paper");
        run(page);
        assertThat(page.locator("[data-counts]")).containsText("9 of 9 files of 3 frames");
        assertThat(page.locator("[data-in-editor]"))
                .hasText(
                        "In your editor: leave noise reduction off, dealt with here; sharpening and lens correction were"
                                + " left to you: off here. The files say so.");
        try (Stream<Path> files = Files.list(shoot.resolve("returns"))) {
            assertThat(files.map(file -> file.getFileName().toString()))
                    .contains("C_0-denoise-enlarge.dng", "C_0-denoise-enlarge.tif", "C_7-denoise.jpg")
                    .hasSize(9);
        }
        // As the last time, also on another shoot; under its name, too.
        shoot("weir", 1, 320);
        long other = application.takeIn("weir");
        open(other);
        assertThat(page.locator("[name=destination]")).hasValue("sub-folder");
        assertThat(page.locator("input[name=forms][value=JPEG]")).isChecked();
        assertThat(page.locator("[name=quality]")).hasValue("71");
        assertThat(page.locator("[name=enlargeValue]")).hasValue("440");
        page.locator("[name=enlargeBy]").selectOption("");
        page.locator("[data-order]").selectOption("for the paper");
        assertThat(page.locator("[name=enlargeBy]")).hasValue("LONG_EDGE_PX");
        assertThat(browser.problems).isEmpty();
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Remove"))
                .click();
        assertThat(page.locator("[data-order]")).isHidden();
    }

    /** A watched folder starts its order by itself, each frame once; the command line is told of the same order. */
    @Test
    @Order(9)
    void aWatchedFolderStartsItsOrder() throws Exception {
        Path shoot = shoot("hide", 2, 320);
        long id = application.takeIn("hide");
        application.post(
                "/runs",
                Map.of(
                        "shoot",
                        Long.toString(id),
                        "take",
                        "CHOSEN",
                        "frames",
                        frameNumber(id, "C_0.dng"),
                        "forms",
                        "JPEG",
                        "keepAs",
                        "every night"));
        Matcher order = Pattern.compile("\"id\":(\\d+),\"name\":\"every night\"")
                .matcher(application.get("/orders").body());
        assertThat(order.find()).isTrue();
        assertThat(Files.readString(folder.resolve("home/standing-orders.json")))
                .contains("every night", "JPEG");
        application.post("/shoots/" + id + "/watch", Map.of("watched", "true"));
        assertThat(application
                        .post("/shoots/" + id + "/order", Map.of("order", order.group(1)))
                        .statusCode())
                .isEqualTo(204);
        // The one that was in no run yet; then one that comes.
        LiveApplication.await("the second frame", () -> Files.exists(shoot.resolve("C_1-denoise.jpg")));
        frame(shoot, 7, 320);
        LiveApplication.await("the frame that came", () -> Files.exists(shoot.resolve("C_7-denoise.jpg")));
        try (Stream<Path> files = Files.list(shoot)) {
            assertThat(files.filter(file -> file.toString().endsWith(".jpg"))).hasSize(3);
        }
        application.post("/shoots/" + id + "/order", Map.of("order", "0"));
    }

    private static String frameNumber(long shoot, String name) {
        Matcher matcher = Pattern.compile("\"id\":(\\d+),\"name\":\"" + name)
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        assertThat(matcher.find()).isTrue();
        return matcher.group(1);
    }
}
