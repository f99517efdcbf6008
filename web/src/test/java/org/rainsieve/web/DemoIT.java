package org.rainsieve.web;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.junit.jupiter.api.io.TempDir;

/**
 * {@code ./sieve demo} as a photographer meets it, through a real browser. With the system property
 * {@code sieve.screenshots} naming a folder, pictures of the main views are kept there.
 */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class DemoIT {
    private static final int LONG_MS = 180_000;
    private static final String SHOOT = "Wind pump under stars";
    private static final int FRAMES = 4;
    private static final String PICTURES = System.getProperty("sieve.screenshots");

    @TempDir
    static Path home;

    private static LiveApplication application;
    private static LiveBrowser browser;
    private static Page page;

    @BeforeAll
    static void start() throws IOException {
        // The beginning of the first shoot is enough, but the pictures show all.
        application = new LiveApplication(
                "demo",
                home,
                PICTURES == null
                        ? Map.of("SIEVE_DEMO_BURSTS", "1", "SIEVE_DEMO_FRAMES", Integer.toString(FRAMES))
                        : Map.of());
        browser = new LiveBrowser();
        page = browser.page;
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

    private static void keep(String name) {
        page.screenshot(new Page.ScreenshotOptions().setPath(Path.of(PICTURES, name + ".png")));
    }

    private static LocatorAssertions.HasTextOptions slow() {
        return new LocatorAssertions.HasTextOptions().setTimeout(LONG_MS);
    }

    /** Waits until a shoot of the demo has all its frames and all are read, and opens its page. */
    private static void openShoot(String name, int frames) {
        for (int i = 0; i < 1500; i++) {
            page.navigate(application.url("/shoots"));
            Locator row = page.locator(".shoot-line", new Page.LocatorOptions().setHasText(name));
            if (row.count() == 1 && row.innerText().contains(frames + " ready")) {
                row.locator("h2 a").click();
                return;
            }
            page.waitForTimeout(700);
        }
        throw new AssertionError("The shoot " + name + " never had " + frames + " frames ready");
    }

    @Test
    @Order(1)
    void theShootIsThereAndRead() {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES == null);
        openShoot(SHOOT, FRAMES);
        assertThat(page.locator("#start-run")).containsText(FRAMES + " frames");
        assertThat(page.locator("[data-frame] img")).hasCount(FRAMES);
        for (Locator picture : page.locator("[data-frame] img").all()) {
            picture.scrollIntoViewIfNeeded();
            assertThat(picture).hasJSProperty("complete", true);
        }
        page.locator("[data-at='0']").focus();
        page.keyboard().press("ArrowRight");
        page.keyboard().press("w");
        assertThat(page.locator("[data-at='1']")).containsText("dropped");
        page.locator("[x-model=filter]").selectOption("dropped");
        assertThat(page.locator("[data-frame]")).hasCount(1);
        page.locator("[data-frame]").focus();
        page.keyboard().press("w");
        page.locator("[x-model=filter]").selectOption("kept");
        assertThat(page.getByText("no frame of " + FRAMES + " is like that")).isVisible();
        page.locator("[x-model=filter]").selectOption("all");
        assertThat(page.locator("[data-frame]")).hasCount(FRAMES);
        page.keyboard().press("?");
        assertThat(page.locator("#keys")).isVisible();
        page.keyboard().press("Escape");
        page.keyboard().press("g");
        page.keyboard().press("s");
        page.waitForURL("**/shoots");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Take in a folder"))
                .click();
        page.locator("dialog[open] li button").first().click();
        assertThat(page.locator("dialog[open]")).containsText(SHOOT);
        page.keyboard().press("Escape");
    }

    @Test
    @Order(2)
    void theBookIsSavedAndUndone() {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES == null);
        page.navigate(application.url("/book"));
        assertThat(page.getByText("suggested, not looked at yet")).isVisible();
        String suggested = page.getByLabel("Grain kept in percent").nth(1).inputValue();
        page.getByText("why this value").nth(1).click();
        assertThat(page.getByText("% of mid-grey here").nth(1)).isVisible();
        page.getByLabel("Grain kept in percent").nth(1).fill("27");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Save page"))
                .click();
        assertThat(page.getByLabel("Grain kept in percent").nth(1)).hasValue("27");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Undo"))
                .click();
        assertThat(page.getByLabel("Grain kept in percent").nth(1)).hasValue(suggested);
        press("Shift+U");
        assertThat(page.getByLabel("Grain kept in percent").nth(1)).hasValue("27");
        press("u");
        assertThat(page.getByLabel("Grain kept in percent").nth(1)).hasValue(suggested);
        page.locator("[data-starter]")
                .filter(new Locator.FilterOptions().setHasText("Stars"))
                .getByText("Begin from it")
                .click();
        assertThat(page.getByLabel("Grain kept in percent").nth(1)).not().hasValue(suggested);
        press("u");
        assertThat(page.getByLabel("Grain kept in percent").nth(1)).hasValue(suggested);
    }

    /** Once the page's scripts listen. */
    private static void press(String key) {
        page.waitForLoadState();
        page.keyboard().press(key);
    }

    /** Files chosen on the page are brought in with progress and open as a shoot of their own. */
    @Test
    @Order(2)
    void filesAreTakenInByTheBrowser() throws IOException {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES == null);
        page.navigate(application.url("/shoots"));
        Path one = files(home.resolve("demo").resolve(SHOOT)).stream()
                .filter(file -> file.toString().endsWith(".dng"))
                .findFirst()
                .orElseThrow();
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Take in a card"))
                .click();
        assertThat(page.locator("dialog[open]")).containsText("There is no card in the reader");
        page.keyboard().press("Escape");
        page.locator("input[type=file]").setInputFiles(one);
        page.waitForURL("**/shoots/*");
        assertThat(page.locator("h1")).hasText("Dropped files");
        assertThat(page.getByText("1 frame", new Page.GetByTextOptions().setExact(true)))
                .isVisible();
    }

    /** One return per frame, opened by LibRaw; originals as they were. */
    @Test
    @Order(3)
    void aRunReturnsOneDngPerFrame() throws Exception {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES == null);
        Path shoot = home.resolve("demo").resolve(SHOOT);
        List<Path> originals = files(shoot);
        List<String> before = hashes(originals);
        openShoot(SHOOT, FRAMES);
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Start run"))
                .click();
        page.waitForURL("**/runs/1");
        assertThat(page.locator("[data-left]"))
                .containsText("left", new LocatorAssertions.ContainsTextOptions().setTimeout(LONG_MS));
        assertThat(page.locator("[data-standing]")).hasText("finished", slow());
        assertThat(page.locator("[data-counts]")).containsText(FRAMES + " of " + FRAMES + " frames");
        assertThat(page.getByText("leave noise reduction")).isVisible();
        assertThat(page.locator("[data-morning]")).containsText(FRAMES + " files returned");
        assertThat(page.locator("[data-morning] img").first()).isVisible();
        assertThat(hashes(originals)).isEqualTo(before);
        List<Path> returns =
                files(shoot).stream().filter(file -> !originals.contains(file)).toList();
        assertThat(returns)
                .hasSize(FRAMES)
                .allMatch(file -> file.getFileName().toString().endsWith("-denoise.dng"));
        for (Path file : returns) {
            Process libraw = new ProcessBuilder("raw-identify", "-v", file.toString())
                    .redirectErrorStream(true)
                    .start();
            String said = new String(libraw.getInputStream().readAllBytes());
            assertThat(said)
                    .contains("Number of raw images: 1")
                    .containsPattern("Raw colors: +3|Filter pattern: none|colors: 3");
        }
        assertThat(shoot.resolve(".rain-sieve-tmp")).doesNotExist();
    }

    @Test
    @Order(4)
    void beforeAndAfterStandAtTheSameSpot() {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES == null);
        page.navigate(application.url("/runs/1"));
        page.locator("[data-return]", new Page.LocatorOptions().setHasText("WP_0022"))
                .click();
        page.waitForURL("**/returns/*");
        assertThat(page.locator("[data-status]"))
                .containsText("%", new LocatorAssertions.ContainsTextOptions().setTimeout(LONG_MS));
        page.keyboard().press("4");
        exact();
        assertThat(page.locator("[data-status]")).containsText("100 %");
        // The wipe's middle: left of it the noisy picture, right of it the clean one, at one place.
        double noisy = roughness(100, 620);
        double clean = roughness(660, 1180);
        assertThat(noisy).isGreaterThan(1.5 * clean);
        page.keyboard().press("f");
        exact();
        double after = roughness(100, 620);
        page.keyboard().press("f");
        exact();
        double flipped = roughness(100, 620);
        assertThat(flipped)
                .isGreaterThan(1.5 * after)
                .isCloseTo(noisy, org.assertj.core.api.Assertions.withinPercentage(5));
        page.keyboard().press("p");
        exact();
        assertThat(page.locator("[data-left-tag]")).hasText("before");
        page.keyboard().press("5");
        exact();
        assertThat(page.locator("[data-status]")).containsText("200 %");
        page.keyboard().press("x");
        page.keyboard().press("l");
        page.keyboard().press("l");
        exact();
        assertThat(page.locator("[data-status]")).containsText("lift 1");
        assertThat(browser.problems).as("messages on the browser's console").isEmpty();
    }

    /** No serious fault by axe-core (its rules for WCAG 2 A and AA) on any page. */
    @Test
    @Order(6)
    void everyPageIsAccessible() throws IOException {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES == null);
        String axe = Files.readString(Path.of("src/main/frontend/node_modules/axe-core/axe.min.js"));
        page.navigate(application.url("/shoots"));
        page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName(SHOOT))
                .click();
        page.waitForURL("**/shoots/*");
        page.locator("[data-frame]").first().waitFor();
        String frame = page.locator("[data-frame]").first().getAttribute("data-open");
        String shoot = page.url().substring(page.url().indexOf("/shoots/"));
        for (String at : List.of(
                "/shoots",
                shoot,
                frame,
                frame + "/strip",
                "/book",
                "/book?camera=Pilbo%20S",
                "/runs",
                "/runs/1",
                "/returns/1",
                "/catalogue",
                "/set-up",
                "/nowhere")) {
            page.navigate(application.url(at));
            page.waitForLoadState();
            page.waitForTimeout(700);
            page.evaluate(axe);
            for (String appearance : List.of("light", "dark")) {
                page.evaluate("(a) => { document.documentElement.dataset.appearance = a; }", appearance);
                Object faults = page.evaluate(
                        "async () => (await axe.run(document, { resultTypes: ['violations'] })).violations"
                                + ".filter((v) => v.impact === 'serious' || v.impact === 'critical')"
                                + ".map((v) => v.id + ': ' + v.nodes.map((n) => n.target.join(' ')).join(', '))");
                assertThat((List<?>) faults).as(at + ", " + appearance).isEmpty();
            }
        }
    }

    /** The pictures in the documentation show the other shoot, which takes longer to draw. */
    @Test
    @Order(5)
    void picturesForTheDocumentation() {
        org.junit.jupiter.api.Assumptions.assumeTrue(PICTURES != null);
        openShoot("Toad night", 47);
        page.waitForTimeout(1000);
        keep("shoot");
        page.navigate(application.url("/book?camera=Ondrel%2024"));
        keep("book");
        openShoot("Toad night", 47);
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Start run"))
                .click();
        assertThat(page.locator("[data-counts]"))
                .containsText("17 of 47", new LocatorAssertions.ContainsTextOptions().setTimeout(LONG_MS));
        keep("run");
        assertThat(page.locator("[data-standing]"))
                .hasText("finished", new LocatorAssertions.HasTextOptions().setTimeout(5 * LONG_MS));
        page.locator("[data-return]", new Page.LocatorOptions().setHasText("TN_0140"))
                .click();
        page.waitForURL("**/returns/*");
        page.keyboard().press("4");
        exact();
        keep("before-after");
        page.keyboard().press("p");
        page.keyboard().press("5");
        exact();
        keep("pair");
        page.navigate(application.url("/shoots"));
        keep("shoots");
        page.navigate(application.url("/runs"));
        keep("runs");
    }

    private static void exact() {
        assertThat(page.locator("[data-stage] canvas").first())
                .hasAttribute("data-exact", "true", new LocatorAssertions.HasAttributeOptions().setTimeout(LONG_MS));
        page.waitForTimeout(100);
    }

    /** Mean difference of neighbouring pixels of the canvas between two columns, in its middle rows. */
    private static double roughness(int from, int to) {
        return ((Number) page.evaluate(
                        "([from, to]) => { const c = document.querySelector('[data-stage] canvas');"
                                + " const d = c.getContext('2d').getImageData(from, 100, to - from, 200);"
                                + " let s = 0, n = 0; for (let y = 0; y < 200; y++) for (let x = 0; x < d.width - 1; x++) {"
                                + " const i = 4 * (y * d.width + x); s += Math.abs(d.data[i + 1] - d.data[i + 5]); n++; } return s / n; }",
                        List.of(from, to)))
                .doubleValue();
    }

    private static List<Path> files(Path folder) throws IOException {
        try (Stream<Path> entries = Files.list(folder)) {
            return entries.filter(Files::isRegularFile).sorted().toList();
        }
    }

    private static List<String> hashes(List<Path> files) throws IOException {
        List<String> hashes = new ArrayList<>();
        for (Path file : files) {
            hashes.add(org.rainsieve.file.Sha256.of(file));
        }
        return hashes;
    }
}
