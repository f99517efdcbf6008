package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.WaitUntilState;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/**
 * What a look at 24 MP frames takes as a photographer sees it, in a real browser on the real application:
 * {@code ./sieve benchmark look}. It prints figures and asserts nothing.
 */
class LookBenchmark {
    private static final int WIDTH = 6016;
    private static final int HEIGHT = 4016;
    private static final int MOVES = 30;
    private static final int FRAMES = 8;

    /** Canvas of about a megapixel. */
    private static final int WINDOW_WIDTH = 1500;

    private static final int WINDOW_HEIGHT = 1130;

    /** Until every pixel is exact again; with a new value in that field first, if one is named. */
    private static final String EXACT = """
            ([field, value]) => new Promise((done) => {
              const canvas = document.querySelector("[data-stage] canvas"), from = performance.now();
              let begun = false;
              const look = () => {
                if (!begun && canvas.dataset.exact === "false") begun = true;
                if (begun && canvas.dataset.exact === "true") return done(performance.now() - from);
                requestAnimationFrame(look);
              };
              if (field) {
                const input = document.querySelector(field);
                input.value = value;
                input.dispatchEvent(new Event("input", { bubbles: true }));
              }
              requestAnimationFrame(look);
            })
            """;

    @TempDir
    private Path folder;

    private LiveApplication application;

    private static double exact(Page page, String field, String value) {
        return ((Number) page.evaluate(EXACT, List.of(field, value))).doubleValue();
    }

    private static void print(String words, Object... values) {
        System.out.printf(Locale.ROOT, words + "%n", values);
    }

    private long frame(long shoot, int number) {
        Matcher matcher = Pattern.compile("\"id\":(\\d+),\"name\":\"L_" + number + ".dng")
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        if (!matcher.find()) {
            throw new AssertionError("No frame " + number);
        }
        return Long.parseLong(matcher.group(1));
    }

    /** From the link to every pixel of a megapixel at 100 %; and from the zoom to it, with the whole frame shown already. */
    private void first(Page page, long frame, String method) {
        long from = System.nanoTime();
        page.navigate(application.url("/frames/" + frame));
        page.waitForLoadState();
        page.waitForFunction("() => performance.getEntriesByType('resource')"
                + ".some((e) => e.name.includes('kind=overview') && e.responseEnd > 0)");
        double loaded = (System.nanoTime() - from) / 1e9;
        page.keyboard().press("f");
        page.keyboard().press("4");
        double seconds = exact(page, "", "") / 1000;
        Object size = page.evaluate(
                "() => { const c = document.querySelector('[data-stage] canvas'); return c.width * c.height / 1e6; }");
        print(
                "%s: whole frame shown %.2f s after the link; %.2f MP exact %.2f s after the zoom to 100 %%",
                method, loaded, ((Number) size).doubleValue(), seconds);
    }

    private static void moves(Page page, String words) {
        page.setViewportSize(1280, 800);
        // What was shown before is kept, and there at once: none of the amounts may be the first one.
        String shown = page.inputValue("#grain");
        exact(page, "#grain", shown.equals("19") ? "18" : "19");
        double[] took = new double[MOVES];
        for (int i = 0; i < MOVES; i++) {
            String value = Integer.toString(21 + i);
            took[i] = exact(page, "#grain", value.equals(shown) ? "70" : value);
        }
        Arrays.sort(took);
        page.setViewportSize(WINDOW_WIDTH, WINDOW_HEIGHT);
        print(
                "amount moved%s: median %.0f ms, 95 %% within %.0f ms (asked: 250)",
                words, took[MOVES / 2], took[MOVES * 95 / 100]);
    }

    /** From the key to the next frame's bench, and to every pixel of it as it is shown being exact. */
    private static void next(Page page, String key, String words) {
        String before = page.url();
        long from = System.nanoTime();
        page.keyboard().press(key);
        page.waitForURL(url -> !url.equals(before), new Page.WaitForURLOptions().setWaitUntil(WaitUntilState.COMMIT));
        double left = (System.nanoTime() - from) / 1e6;
        page.waitForFunction("() => document.querySelector('[data-stage] canvas')?.dataset.exact === 'true'");
        print("%s: left after %.0f ms, exact after %.2f s", words, left, (System.nanoTime() - from) / 1e9);
    }

    @Test
    void aLookInTheBrowser() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/large"));
        byte[][] drawn = new byte[2][];
        for (int i = 0; i < drawn.length; i++) {
            drawn[i] = PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, WIDTH, HEIGHT, 2 * i);
        }
        for (int i = 0; i < FRAMES; i++) {
            Files.write(shoot.resolve("L_" + i + ".dng"), drawn[i % drawn.length]);
        }
        // As it is started by hand.
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS", folder.resolve("photos").toString(),
                        "SIEVE_NICE", "10",
                        "SIEVE_WEB_OPTIONS", "-Xlog:disable"));
        try (LiveBrowser browser = new LiveBrowser()) {
            long id = application.takeIn("large");
            Page page = browser.page;
            page.setViewportSize(WINDOW_WIDTH, WINDOW_HEIGHT);
            method("Quick");
            first(page, frame(id, 0), "Quick, warming up");
            first(page, frame(id, 1), "Quick");
            moves(page, ", Quick");
            method("Learned");
            first(page, frame(id, 2), "Learned, warming up");
            first(page, frame(id, 3), "Learned");
            moves(page, ", Learned");
            page.keyboard().press("f");
            page.waitForTimeout(3000);
            next(page, "ArrowRight", "Learned, fit, a frame never seen (asked: 100 ms, 1.5 s)");
            next(page, "ArrowLeft", "Learned, fit, a frame seen before (asked: 100 ms, 0.3 s)");
            next(page, "ArrowRight", "Learned, fit, and forth again (asked: 100 ms, 0.3 s)");
            long run = LiveApplication.idOf(
                    application.post("/runs", Map.of("shoot", Long.toString(id), "destination", "sub-folder")));
            LiveApplication.await(
                    "the run to be at work",
                    () -> application.get("/workers").body().contains(" %"));
            first(page, frame(id, 4), "Learned, while a run is on");
            moves(page, ", Learned, while a run is on");
            print(
                    "the run was %s then",
                    application.get("/runs/" + run).body().replaceAll("(?s).*data-standing>(\\w+)<.*", "$1"));
        } finally {
            application.close();
        }
    }

    private void method(String name) throws IOException {
        Matcher version = Pattern.compile("name=\"version\" value=\"(\\d+)\"")
                .matcher(application.get("/book?camera=Ondrel%2024").body());
        if (!version.find()) {
            throw new AssertionError("No page");
        }
        HttpResponse<String> kept = application.post(
                "/book",
                Map.of(
                        "camera",
                        "Ondrel 24",
                        "version",
                        version.group(1),
                        "ei",
                        "3200",
                        "on",
                        "on",
                        "method",
                        name,
                        "grainKept",
                        "20",
                        "colourNoiseKept",
                        "5"));
        assertThat(kept.statusCode()).as("the method is in force").isEqualTo(302);
    }
}
