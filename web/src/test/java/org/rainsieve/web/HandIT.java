package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Request;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.BoundingBox;
import com.microsoft.playwright.options.WaitUntilState;
import java.awt.Color;
import java.awt.image.BufferedImage;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** The bench in hasty hands: what people do hundreds of times a night. */
class HandIT {
    @TempDir
    private static Path folder;

    private static LiveApplication application;
    private static long shoot;
    private static long first;
    private static long second;

    private LiveBrowser browser;
    private Page page;

    @BeforeAll
    static void start() throws Exception {
        threeAlike("hand", "H_", SimulatedCamera.PILBO_S);
        Files.writeString(
                folder.resolve("photos/hand/H_1.xmp"),
                "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                        + "<rdf:Description rdf:about='' xmlns:crs='http://ns.adobe.com/camera-raw-settings/1.0/'"
                        + " crs:WhiteBalance='Custom' crs:Temperature='12000' crs:Tint='+4'/></rdf:RDF></x:xmpmeta>");
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString()));
        shoot = application.takeIn("hand");
        first = frame(shoot, "H_0.dng");
        second = frame(shoot, "H_1.dng");
    }

    private static void threeAlike(String name, String prefix, SimulatedCamera camera) throws IOException {
        Path photos = Files.createDirectories(folder.resolve("photos").resolve(name));
        for (int i = 0; i < 3; i++) {
            Files.write(photos.resolve(prefix + i + ".dng"), PlainFrames.frame(camera, 1600, 900, 600, 2));
        }
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    @BeforeEach
    void open() {
        browser = new LiveBrowser();
        page = browser.page;
        page.navigate(application.url("/frames/" + first));
    }

    @AfterEach
    void close() {
        browser.close();
    }

    @Test
    void thePictureHasTheRoom() {
        for (String step : List.of("denoise", "sharpen", "optics", "crop", "enlarge")) {
            if (page.locator("[data-body=" + step + "]").isHidden()) {
                page.click("[data-unfold=" + step + "]");
            }
            assertThat(box("[data-stage]").height)
                    .as("the picture's share of the bench, " + step + " open")
                    .isGreaterThan(0.7 * (800 - 48));
            BoundingBox apply = box("[data-apply]");
            assertThat(apply.y + apply.height).as("Apply is in sight").isLessThanOrEqualTo(800);
            assertThat(page.locator("[data-body]:visible").count())
                    .as("one step at a time")
                    .isEqualTo(1);
        }
        for (int[] size : new int[][] {{1024, 768}, {640, 480}, {1920, 1080}}) {
            page.setViewportSize(size[0], size[1]);
            assertThat(((Number) page.evaluate("document.documentElement.scrollWidth")).intValue())
                    .as("no sideways scroll at " + size[0])
                    .isLessThanOrEqualTo(Math.max(size[0], 1024));
        }
        assertThat(browser.problems).isEmpty();
    }

    /** All frames of a burst at one spot: moved together, marked by key, and the marks hold. */
    @Test
    void theBurstAtOneSpot() throws IOException {
        threeAlike("burst", "B_", SimulatedCamera.ONDREL_24);
        page.navigate(application.url("/frames/" + frame(application.takeIn("burst"), "B_0.dng")));
        page.keyboard().press("a");
        page.waitForURL("**/burst");
        Locator cells = page.locator(".burst-cell");
        assertThat(cells.count()).isEqualTo(3);
        PlaywrightAssertions.assertThat(page.locator("[data-wait]:visible")).hasCount(0);
        page.keyboard().press("ArrowRight");
        page.keyboard().press("q");
        PlaywrightAssertions.assertThat(cells.nth(1).locator("[data-mark-words]"))
                .hasText("kept");
        page.keyboard().press("e");
        PlaywrightAssertions.assertThat(cells.nth(2).locator("[data-mark-words]"))
                .hasText("dropped");
        List<Object> before = sources();
        BoundingBox box = cells.nth(0).locator(".burst-picture").boundingBox();
        page.mouse().move(box.x + 200, box.y + 150);
        page.mouse().down();
        page.mouse().move(box.x + 140, box.y + 150);
        page.mouse().up();
        LiveApplication.await("all three to move", () -> sources().stream().noneMatch(before::contains));
        page.reload();
        PlaywrightAssertions.assertThat(cells.nth(0)).hasAttribute("data-mark", "drop");
        PlaywrightAssertions.assertThat(cells.nth(1)).hasAttribute("data-mark", "keep");
        assertThat(browser.problems).isEmpty();
    }

    @SuppressWarnings("unchecked")
    private List<Object> sources() {
        return (List<Object>) page.evaluate("[...document.querySelectorAll('.burst-cell img')].map(i => i.src)");
    }

    @Test
    void theViewStays() {
        page.keyboard().press("5");
        page.keyboard().press("p");
        page.keyboard().press("l");
        page.keyboard().press("l");
        page.keyboard().press("Shift+ArrowRight");
        page.keyboard().press("Shift+ArrowDown");
        page.click("[data-unfold=sharpen]");
        String view = view();
        assertThat(view).contains("200 %").contains("lift 1");
        page.keyboard().press("ArrowRight");
        page.waitForURL("**/frames/" + second);
        PlaywrightAssertions.assertThat(page.locator("[data-status]")).containsText("200 %");
        assertThat(view()).isEqualTo(view);
        PlaywrightAssertions.assertThat(page.locator("[data-body=sharpen]")).isVisible();
        PlaywrightAssertions.assertThat(page.locator("[data-mode=pair]")).hasAttribute("aria-pressed", "true");
        // Through Apply as well.
        page.fill("#sharpness", "40");
        page.click("[data-apply]");
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("Applied to this frame");
        assertThat(view()).isEqualTo(view);
        page.keyboard().press("Escape");
        page.locator("[data-undo]").click();
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("Undone");
    }

    /** Frames much darker than their group are offered what their brightness proposes, and are shown as bright as they are pushed. */
    @Test
    void framesExposedTooLow() throws Exception {
        Path dark = Files.createDirectories(folder.resolve("photos/dark"));
        for (int i = 0; i < 6; i++) {
            Files.write(
                    dark.resolve("D_" + i + ".dng"),
                    PlainFrames.underexposed(SimulatedCamera.PILBO_S, 1600, i < 4 ? 0 : 3, 600, 400, i));
        }
        long id = application.takeIn("dark");
        page.navigate(application.url("/shoots/" + id));
        Locator all = page.locator("[data-stray] button:has-text('Push all 2 by')");
        String offered = all.textContent();
        all.click();
        PlaywrightAssertions.assertThat(page.locator("[data-stray]:has-text('push unsure')"))
                .hasCount(0);
        String sheet = application.get("/shoots/" + id + "/sheet").body();
        Matcher pushed = Pattern.compile("\"id\":(\\d+),\"name\":\"D_4").matcher(sheet);
        assertThat(pushed.find()).isTrue();
        assertThat(sheet.split("ISO 1,600 pushed to", -1)).hasSize(3);
        page.navigate(application.url("/frames/" + pushed.group(1)));
        PlaywrightAssertions.assertThat(page.locator("[data-status]")).containsText("above a push of");
        assertThat(page.content()).contains("as its brightness proposed");
        // By choice a return says so to editors; ExifTool reads the tag.
        long run = LiveApplication.idOf(application.post(
                "/runs",
                Map.of(
                        "shoot",
                        Long.toString(id),
                        "take",
                        "CHOSEN",
                        "frames",
                        pushed.group(1),
                        "destination",
                        "beside",
                        "notePush",
                        "true")));
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        Matcher stops = Pattern.compile("Push all 2 by (\\d(?:\\.\\d)?)").matcher(offered);
        assertThat(stops.find()).isTrue();
        assertThat(IntakeIT.exiftool(
                                "-s3",
                                "-n",
                                "-BaselineExposure",
                                dark.resolve("D_4-denoise.dng").toString())
                        .strip())
                .isEqualTo(stops.group(1));
        assertThat(browser.problems).isEmpty();
    }

    /** For the eye alone: what is clicked on becomes grey, or white is as the sidecar says, and nothing that is written changes. */
    @Test
    void whiteByAClick() {
        page.click("[data-panel-button=view]");
        page.click("[data-pick-grey]");
        page.mouse().click(500, 300);
        PlaywrightAssertions.assertThat(page.locator("[data-white]"))
                .hasText(Pattern.compile("red [+−]\\d\\.\\d\\d, blue [+−]\\d\\.\\d\\d stops"));
        page.click("[data-as-shot]");
        PlaywrightAssertions.assertThat(page.locator("[data-white]")).hasText("as shot");
        PlaywrightAssertions.assertThat(page.locator("[data-as-sidecar]")).isHidden();
        // Another frame's sidecar wants the white of bluer light.
        page.navigate(application.url("/frames/" + second));
        page.click("[data-as-sidecar]");
        PlaywrightAssertions.assertThat(page.locator("[data-white]"))
                .hasText(Pattern.compile("red \\+\\d\\.\\d\\d, blue −\\d\\.\\d\\d stops"));
        assertThat(browser.problems).isEmpty();
    }

    /** Tones that the shoot will be edited to are kept for it, and its bursts and strips are shown with them until they are forgotten. */
    @Test
    void judgedAsItWillBeEdited() throws IOException {
        page.click("[data-panel-button=view]");
        page.fill("[data-look=saturation]", "-100");
        page.click("[data-proof-keep]");
        PlaywrightAssertions.assertThat(page.locator("[data-proof-words]")).containsText("saturation −100 %");
        String part = "/frames/" + second + "/in-force?x=0.5&y=0.5&w=200&h=150&proof=";
        assertThat(mostColour(part + true)).isZero();
        assertThat(mostColour(part + false)).isGreaterThan(20);
        page.navigate(application.url("/frames/" + second + "/strip"));
        Locator proof = page.locator("[data-proof]");
        PlaywrightAssertions.assertThat(proof).isChecked();
        Request cell = page.waitForRequest(
                request -> request.url().contains("/cells/") && request.url().contains("proof=false"), proof::uncheck);
        assertThat(mostColour(cell.url().replaceAll("^https?://[^/]+", ""))).isGreaterThan(20);
        assertThat(mostColour(cell.url().replaceAll("^https?://[^/]+", "").replace("proof=false", "proof=true")))
                .isZero();
        page.navigate(application.url("/frames/" + first));
        page.click("[data-proof-forget]");
        PlaywrightAssertions.assertThat(page.locator("[data-proof-words]")).containsText("none kept");
        assertThat(mostColour(part + true)).isGreaterThan(20);
        assertThat(browser.problems).isEmpty();
    }

    /** The largest difference between the colours of a pixel of 0 to 255. */
    private static int mostColour(String path) throws IOException {
        BufferedImage picture = ImageIO.read(URI.create(application.url(path)).toURL());
        int most = 0;
        for (int y = 0; y < picture.getHeight(); y++) {
            for (int x = 0; x < picture.getWidth(); x++) {
                Color colour = new Color(picture.getRGB(x, y));
                int[] values = {colour.getRed(), colour.getGreen(), colour.getBlue()};
                Arrays.sort(values);
                most = Math.max(most, values[2] - values[0]);
            }
        }
        return most;
    }

    /** On another screen: the picture alone, with the amounts of the bench and its frame, and none of the controls. */
    @Test
    void theSecondWindowFollows() {
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName("View").setExact(true))
                .click();
        Page other = page.waitForPopup(() -> page.click("[data-alone]"));
        other.locator("[data-stage] canvas[data-exact=true]").waitFor();
        PlaywrightAssertions.assertThat(other.locator("[data-apply]")).isHidden();
        page.fill("#grain", "55");
        PlaywrightAssertions.assertThat(other.locator("#grain")).hasValue("55");
        page.evaluate("document.activeElement.blur()");
        page.keyboard().press("ArrowRight");
        page.waitForURL("**/frames/" + second);
        other.waitForURL(
                "**/frames/" + second + "?alone", new Page.WaitForURLOptions().setWaitUntil(WaitUntilState.COMMIT));
        other.close();
    }

    @Test
    void keysWorkEverywhereButInText() {
        page.keyboard().press("4");
        // After a slider and a box, used by hand.
        BoundingBox slider = box("[data-body=denoise] input[type=range]");
        page.mouse().click(slider.x + slider.width / 3, slider.y + slider.height / 2);
        page.keyboard().press("p");
        PlaywrightAssertions.assertThat(page.locator("[data-mode=pair]")).hasAttribute("aria-pressed", "true");
        page.click("[data-step=sharpen] .mesh");
        page.keyboard().press("5");
        PlaywrightAssertions.assertThat(page.locator("[data-zoom='4']")).hasAttribute("aria-pressed", "true");
        page.keyboard().down(" ");
        PlaywrightAssertions.assertThat(page.locator("[data-right-tag]")).isHidden();
        page.keyboard().up(" ");
        PlaywrightAssertions.assertThat(page.locator("[name=sharpen]")).isChecked();
        // A letter in a number's field goes to the page, and the number stands.
        page.click("[data-unfold=denoise]");
        page.fill("#grain", "50");
        page.keyboard().press("f");
        page.keyboard().type("e");
        assertThat(page.inputValue("#grain")).isEqualTo("50");
        PlaywrightAssertions.assertThat(page.locator("[data-mode=flip]")).hasAttribute("aria-pressed", "true");
        // A number that is none is not asked for, and nothing hangs on it.
        List<String> asked = Collections.synchronizedList(new ArrayList<>());
        page.onRequest(request -> asked.add(request.url()));
        page.fill("#grain", "");
        page.click("[data-body=denoise] [data-more]");
        page.fill("#detail", "250");
        page.keyboard().press("x");
        page.waitForRequest(request -> request.url().contains("grainKept=20"), () -> {
            page.fill("#grain", "20");
            page.fill("#detail", "0");
        });
        assertThat(asked).noneMatch(url -> url.contains("NaN") || url.contains("grainKept=&") || url.contains("=250"));
        assertThat(page.locator("[data-status]").textContent()).doesNotContain("not NaN");
        // Keep and drop where sharpness is judged.
        page.keyboard().press("q");
        PlaywrightAssertions.assertThat(page.locator("[data-mark-as=keep]")).hasAttribute("aria-pressed", "true");
        LiveApplication.await(
                "the mark to be kept",
                () -> application.get("/shoots/" + shoot + "/sheet").body().contains("\"mark\":\"keep\""));
        page.keyboard().press("q");
        LiveApplication.await(
                "the mark to go",
                () -> !application.get("/shoots/" + shoot + "/sheet").body().contains("\"mark\":\"keep\""));
        assertThat(browser.problems).isEmpty();
    }

    @Test
    void nothingIsLost() {
        page.fill("#grain", "55");
        page.keyboard().press("Enter");
        page.keyboard().press("ArrowRight");
        page.waitForURL("**/frames/" + second);
        page.keyboard().press("ArrowLeft");
        page.waitForURL("**/frames/" + first);
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue("55");
        PlaywrightAssertions.assertThat(page.locator("[data-forget]")).isVisible();
        // It is told on the contact sheet.
        page.navigate(application.url("/shoots/" + shoot));
        PlaywrightAssertions.assertThat(page.locator("[data-frame]").first()).containsText("change not applied");
        page.goBack();
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue("55");
        // Step by step back.
        String inForce = (String) page.evaluate("document.querySelector('#grain').defaultValue");
        page.fill("#grain", "60");
        page.keyboard().press("Enter");
        page.keyboard().press("u");
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue("55");
        page.click("[data-forget]");
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue(inForce);
        PlaywrightAssertions.assertThat(page.locator("[data-forget]")).isHidden();
        assertThat(browser.problems).isEmpty();
    }

    /** Frame, then camera, then lens: each undo takes back the last one, and there is none when nothing was changed. */
    @Test
    void oneUndoWhereverItReached() {
        Locator undo = page.locator("[data-undo]");
        PlaywrightAssertions.assertThat(undo).isDisabled();
        String begun = page.inputValue("#grain");
        apply("#grain", "61", "frame");
        page.selectOption("[data-target]", "camera");
        page.fill("#grain", "72");
        page.click("[data-apply]");
        // Old and new numbers, and frames where they are sharp, before anything is written.
        PlaywrightAssertions.assertThat(page.locator("[data-widen-rungs] tr").first())
                .containsText("→");
        PlaywrightAssertions.assertThat(page.locator("[data-widen-words]")).containsText("Two of them");
        page.click("[data-widen-yes]");
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("at every ISO");
        // The camera's page stands whole.
        assertThat(application.get("/book?camera=Pilbo+S").body()).contains("</html>");
        assertThat(application.get("/frames/" + second).body()).contains("value=\"72\"");
        page.click("[data-unfold=optics]");
        page.click("[data-step=optics] .mesh");
        PlaywrightAssertions.assertThat(page.locator("[data-body=optics]")).containsText("Belongs to the lens");
        page.click("[data-apply]");
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("all 3 frames of this lens");

        undo.click();
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("this lens");
        PlaywrightAssertions.assertThat(page.locator("[name=optics]")).not().isChecked();
        undo.click();
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("Pilbo S");
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue("61");
        assertThat(application.get("/frames/" + second).body()).doesNotContain("value=\"72\"");
        undo.click();
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue(begun);
        PlaywrightAssertions.assertThat(undo).isDisabled();
        Locator redo = page.locator("[data-redo]");
        redo.click();
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue("61");
        redo.click();
        PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue("72");
        for (int i = 0; i < 2; i++) {
            undo.click();
            PlaywrightAssertions.assertThat(page.locator("#grain")).hasValue(i == 0 ? "61" : begun);
        }
        assertThat(browser.problems).isEmpty();
    }

    /** Who leaves while pictures are made gives them up before the next page is asked for. */
    @Test
    void leavingWaitsForNothing() {
        List<String> told = Collections.synchronizedList(new ArrayList<>());
        page.onRequestFailed(request -> told.add("given up " + request.url()));
        page.onRequest((Request request) -> {
            if (request.url().contains("/left") || request.isNavigationRequest()) {
                told.add(request.url());
            }
        });
        // Pictures never come: as if the worker were busy for long.
        page.route("**/picture/**", route -> {});
        page.keyboard().press("5");
        LiveApplication.await(
                "pictures to be asked for",
                () -> ((Number) page.evaluate("document.querySelectorAll('[data-stage] canvas').length")).intValue()
                        > 0);
        page.keyboard().press("ArrowRight");
        // Its own pictures never come either, so it never is loaded in full.
        page.waitForURL("**/frames/" + second, new Page.WaitForURLOptions().setWaitUntil(WaitUntilState.COMMIT));
        int left = index(told, "/left");
        int next = index(told, "/frames/" + second);
        assertThat(left).as("%s", told).isGreaterThanOrEqualTo(0).isLessThan(next);
    }

    private static int index(List<String> told, String part) {
        synchronized (told) {
            for (int i = 0; i < told.size(); i++) {
                if (told.get(i).contains(part) && !told.get(i).startsWith("given up")) {
                    return i;
                }
            }
        }
        return -1;
    }

    @Test
    void cropByHand() {
        page.click("[data-step=crop] .mesh");
        page.click("[data-body=crop] [data-more]");
        page.selectOption("#aspect", "1:1");
        // About the middle: 600 of 900 px across.
        assertThat(number("#left")).isCloseTo(100.0 / 6, within(0.1));
        page.fill("#width", "40");
        page.fill("#height", "60");
        page.keyboard().press("Enter");
        // Moved from inside.
        BoundingBox stage = box("[data-stage]");
        double scale = 0.9 * Math.min(stage.width / 900, stage.height / 600);
        double left = stage.x + stage.width / 2 - 450 * scale;
        double top = stage.y + stage.height / 2 - 300 * scale;
        double x = left + (number("#left") / 100 + 0.15) * 900 * scale;
        double y = top + (number("#top") / 100 + 0.35) * 600 * scale;
        double before = number("#left");
        drag(x, y, 0.1 * 900 * scale, 0);
        assertThat(number("#left")).isCloseTo(before + 10, within(0.5));
        assertThat(number("#width")).isCloseTo(40, within(0.01));
        // A line along a horizon that falls by 4° levels the picture.
        page.click("[data-level]");
        drag(left + 200 * scale, top + 200 * scale, 400 * scale, 400 * scale * Math.tan(Math.toRadians(4)));
        assertThat(number("#turn")).isCloseTo(-4, within(0.3));
        PlaywrightAssertions.assertThat(page.locator("[data-body=crop]")).isVisible();
        // By step back: the turn, then the place.
        page.keyboard().press("u");
        assertThat(number("#turn")).isZero();
        page.keyboard().press("u");
        assertThat(number("#left")).isCloseTo(before, within(0.01));
        page.click("[data-forget]");
        assertThat(browser.problems).isEmpty();
    }

    private void drag(double x, double y, double dx, double dy) {
        page.mouse().move(x, y);
        page.mouse().down();
        page.mouse().move(x + dx / 2, y + dy / 2);
        page.mouse().move(x + dx, y + dy);
        page.mouse().up();
    }

    private void apply(String field, String value, String target) {
        page.selectOption("[data-target]", target);
        page.fill(field, value);
        page.click("[data-apply]");
        PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("Applied to");
    }

    /** Zoom, lift and place, as the picture's corner tells them. */
    private String view() {
        return page.locator("[data-status]").textContent().replaceAll("(x [\\d,]+ y [\\d,]+).*", "$1");
    }

    private double number(String selector) {
        return Double.parseDouble(page.inputValue(selector));
    }

    private BoundingBox box(String selector) {
        return page.locator(selector).first().boundingBox();
    }

    private static long frame(long shoot, String name) {
        Matcher matcher = Pattern.compile("\"id\":(\\d+),\"name\":\"" + name)
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        assertThat(matcher.find()).isTrue();
        return Long.parseLong(matcher.group(1));
    }
}
