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
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedLens;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.xmp.Xmp;

/** The bench: what it shows is what a run writes; changes go where they are meant to, and back. */
class BenchIT {
    private static final Pattern NUMBER = Pattern.compile("name=\"version\" value=\"(\\d+)\"");

    /** Values of the left half that are not the same in the right one, but for what a canvas rounds when it reduces pictures. */
    private static final String PAIR_DIFFERS = """
            (() => { const c = document.querySelector("[data-stage] > canvas"), half = Math.floor(c.width / 2), w = c.width - half - 1;
              const g = c.getContext("2d"), l = g.getImageData(0, 0, w, c.height).data, r = g.getImageData(half + 1, 0, w, c.height).data;
              let n = 0; for (let i = 0; i < l.length; i++) n += Math.abs(l[i] - r[i]) > 3 ? 1 : 0; return n; })()""";

    /** Pixels that differ from the flipped picture, but for the wipe's edge in the middle. */
    private static final String FLIP_DIFFERS = """
            (() => { const c = document.querySelector("[data-stage] > canvas"), d = c.getContext("2d").getImageData(0, 0, 9999, 400).data;
              let n = 0; for (let i = 0; i < d.length; i++) if (Math.abs((i >> 2) % 9999 - c.width / 2) > 12) n += Math.abs(d[i] - window.flipped[i]) > 3 ? 1 : 0;
              return n; })()""";

    @TempDir
    private static Path folder;

    private static LiveApplication application;
    private static final int[] TURNS = {1, 3, 5, 6, 8};

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("lenses"));
        Files.writeString(folder.resolve("lenses/own.xml"), SimulatedLens.profiles());
        Files.write(Files.createDirectories(folder.resolve("photos/own")).resolve("O.dng"), withOwnCorrection());
        for (String shoot : new String[] {"all", "seen", "spots"}) {
            Path photos = Files.createDirectories(folder.resolve("photos/" + shoot));
            for (int i = 0; i < 2; i++) {
                SimulatedCamera camera = shoot.equals("all") ? SimulatedCamera.ONDREL_24 : SimulatedCamera.PILBO_S;
                Files.write(photos.resolve("B_" + i + ".dng"), PlainFrames.frame(camera, 1600, 700, 600, 2 * i));
            }
        }
        Path elsewhere = Files.createDirectories(folder.resolve("photos/elsewhere"));
        Files.write(elsewhere.resolve("B_0.dng"), PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, 700, 600, 0));
        BufferedImage half = new BufferedImage(350, 300, BufferedImage.TYPE_INT_RGB);
        half.createGraphics().fillRect(100, 60, 50, 30);
        ImageIO.write(half, "jpg", elsewhere.resolve("B_0.jpg").toFile());
        for (int orientation : TURNS) {
            // Little-endian in our own order of tags: the entry of tag 274 and its value.
            byte[] dng = PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, 320, 200, 2);
            byte[] entry = {0x12, 0x01, 3, 0, 1, 0, 0, 0};
            int at = new String(dng, StandardCharsets.ISO_8859_1)
                    .indexOf(new String(entry, StandardCharsets.ISO_8859_1));
            dng[at + 8] = (byte) orientation;
            Files.write(Files.createDirectories(folder.resolve("photos/turned")).resolve(orientation + ".dng"), dng);
        }
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS",
                        folder.resolve("photos").toString(),
                        "SIEVE_LENSES",
                        folder.resolve("lenses").toString()));
    }

    /** A frame whose opcode list 3 asks for a little pincushion. */
    private static byte[] withOwnCorrection() {
        SimulatedCamera camera = SimulatedCamera.PILBO_S;
        Planes scene = new PlainScene(600, 480, 2).srgb();
        camera.see(scene);
        NoiseModel law = camera.noiseAt(1600);
        TiffDirectory tags = camera.tags(
                new SimulatedCamera.Shot(1600, 0.01, 5, "A lens of its own", 50, "2026-10-03T21:14:05"), true);
        ByteBuffer list = ByteBuffer.allocate(4 + 16 + 4 + 64);
        list.putInt(1).putInt(1).putInt(0x01030000).putInt(0).putInt(68).putInt(1);
        for (double k : new double[] {1, -0.02, 0, 0, 0, 0, 0.5, 0.5}) {
            list.putDouble(k);
        }
        tags.put(TiffField.ofBytes(Tag.OPCODE_LIST_3, TiffType.UNDEFINED, list.array()));
        return CfaDngWriter.write(
                camera.sensor().expose(scene, law.a().get(0), law.b().get(0), 3),
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                tags);
    }

    /** The file's own correction can be chosen instead of a lens: it is done, and the return does not ask for it again. */
    @Test
    void theFilesOwnCorrection() throws Exception {
        long shoot = application.takeIn("own");
        long frame = frame(shoot, "O.dng");
        Map<String, String> cards = cards();
        cards.put("crop", "false");
        cards.put("turn", "0");
        cards.put("sharpen", "false");
        cards.put("lens", "file");
        cards.put("target", "frame");
        cards.put("version", version(frame));
        assertThat(application.post("/frames/" + frame + "/settings", cards).statusCode())
                .isEqualTo(302);
        assertThat(application.get("/frames/" + frame).body()).contains("the file&#39;s own correction");
        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(shoot))));
        LiveApplication.await(
                "the run to finish",
                () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        Path returned = folder.resolve("photos/own/O-denoise-optics.dng");
        assertThat(settings(returned).optics().correction().bends()).isTrue();
        try (LinearDngFile dng = LinearDngFile.open(returned)) {
            assertThat(dng.image().has(Tag.OPCODE_LIST_3)).isFalse();
        }
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    private static Map<String, String> cards() {
        Map<String, String> cards = new LinkedHashMap<>();
        String[] pairs =
                ("on=true method=Quick grainKept=25 colourNoiseKept=0 more=true sharpen=true soft=1.3 disc=0 line=0"
                                + " angle=0 corners=0.4 fine=80 coarse=40 rim=4 optics=true lens=matched distortion=100 fringes=100"
                                + " shading=100 crop=true left=10 top=10 width=80 height=80 turn=-2 aspect=free")
                        .split(" ");
        for (String pair : pairs) {
            cards.put(pair.substring(0, pair.indexOf('=')), pair.substring(pair.indexOf('=') + 1));
        }
        return cards;
    }

    /** All steps on: the region on the bench equals the region of the file that a run writes, pixel for pixel. */
    @Test
    void whatIsSeenIsWhatIsWritten() throws Exception {
        long shoot = application.takeIn("all");
        long frame = frame(shoot, "B_0.dng");
        Map<String, String> cards = cards();
        String query = cards.entrySet().stream()
                .map(card -> card.getKey() + "=" + card.getValue())
                .collect(Collectors.joining("&"));
        Matcher shape = Pattern.compile("\"width\":(\\d+)|\"height\":(\\d+)")
                .matcher(application.get("/frames/" + frame + "/shape?" + query).body());
        assertThat(shape.find()).isTrue();
        String region = "x=200&y=150&w=180&h=140&lift=1";
        String after = "/frames/" + frame + "/picture/after?" + region + "&" + query;
        BufferedImage seen = picture(after + "&viewer=7&asked=2");
        HttpResponse<String> stale = application.get(after + "&viewer=7&asked=1");
        assertThat(stale.statusCode()).as("given up, which is no failure").isEqualTo(204);
        BufferedImage plain = picture("/frames/" + frame + "/picture/before?" + region + "&" + query);
        BufferedImage soft = picture("/frames/" + frame + "/picture/after?" + region + "&without=sharpen&" + query);
        assertThat(largestDifference(seen, soft)).as("sharpening shows").isGreaterThan(3);

        // The amounts go to the rung, so the other frame takes them too; the crop stays with this frame.
        cards.put("target", "rung");
        cards.put("version", version(frame));
        assertThat(application.post("/frames/" + frame + "/settings", cards).statusCode())
                .isEqualTo(302);
        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(shoot))));
        LiveApplication.await(
                "the run to finish",
                () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        Matcher item = Pattern.compile("href=\"/returns/(\\d+)\"")
                .matcher(application.get("/frames/" + frame).body());
        assertThat(item.find()).isTrue();
        String returned = "/returns/" + item.group(1);
        assertThat(largestDifference(seen, picture(returned + "/after?" + region)))
                .isLessThanOrEqualTo(1);
        assertThat(largestDifference(plain, picture(returned + "/before?" + region)))
                .isLessThanOrEqualTo(1);
        ResolvedSettings own = settings(folder.resolve("photos/all/B_0-denoise-sharpen-optics-crop.dng"));
        ResolvedSettings other = settings(folder.resolve("photos/all/B_1-denoise-sharpen-optics.dng"));
        assertThat(own.crop().turnDegrees()).isEqualTo(-2);
        assertThat(other.crop().on()).isFalse();
        assertThat(other.sharpen()).isEqualTo(own.sharpen());
        assertThat(other.sharpen().spread().softPx()).isCloseTo(1.3, within(1e-9));
        assertThat(other.optics().correction().lens()).isEqualTo("Ondrel 380 mm f/5");
    }

    /** A picture of half the size is laid over the frame, at any zoom, and cut as the frame is. */
    @Test
    void aPictureRenderedElsewhereLiesInItsPlace() throws Exception {
        long shoot = application.takeIn("elsewhere");
        long frame = frame(shoot, "B_0.dng");
        String partner = "partner=frame:" + frame(shoot, "B_0.jpg");
        assertThat(application.get("/frames/" + frame).body())
                .contains("\"" + partner + "\"")
                .contains("B_0.jpg, rendered elsewhere");
        String url = "/frames/" + frame + "/picture/partner?" + partner
                + "&on=true&method=Quick&grainKept=0&colourNoiseKept=0";
        BufferedImage seen = picture(url + "&x=150&y=100&w=200&h=100");
        assertThat(seen.getRGB(60, 30) & 255).as("inside the white").isGreaterThan(240);
        for (int[] outside : new int[][] {{40, 30}, {160, 30}, {60, 10}, {60, 90}}) {
            assertThat(seen.getRGB(outside[0], outside[1]) & 255).isLessThan(15);
        }
        BufferedImage draft = picture(url + "&kind=overview");
        assertThat((double) draft.getWidth() / draft.getHeight()).isCloseTo(700.0 / 600, within(0.01));
        assertThat(draft.getRGB(draft.getWidth() * 250 / 700, draft.getHeight() * 150 / 600) & 255)
                .isGreaterThan(240);
        assertThat(draft.getRGB(draft.getWidth() / 2, draft.getHeight() / 2) & 255)
                .isLessThan(15);
    }

    @Test
    void changesAreUndoneAndRefusedInWords() throws Exception {
        long shoot = application.takeIn("seen");
        long frame = frame(shoot, "B_1.dng");
        Map<String, String> cards = cards();
        cards.put("turn", "0");
        cards.put("optics", "false");
        cards.put("target", "frame");
        cards.put("version", version(frame));
        application.post("/frames/" + frame + "/settings", cards);
        assertThat(application.get("/frames/" + frame).body())
                .contains("settings of its own")
                .contains("value=\"1.3\"");
        application.post("/frames/" + frame + "/undo", Map.of());
        assertThat(application.get("/frames/" + frame).body())
                .doesNotContain("settings of its own")
                .doesNotContain("value=\"1.3\"");
        application.post("/frames/" + frame + "/redo", Map.of());
        assertThat(application.get("/frames/" + frame).body()).contains("value=\"1.3\"");
        assertThat(application.post("/frames/" + frame + "/redo", Map.of()).body())
                .contains("nothing to redo");
        cards.put("soft", "9");
        HttpResponse<String> refused = application.post("/frames/" + frame + "/settings", cards);
        assertThat(refused.statusCode()).isEqualTo(422);
        assertThat(refused.body()).contains("The soft blur must be 0 to 6 px");
        cards.put("soft", "1");
        cards.put("left", "70");
        String query = cards.entrySet().stream()
                .map(card -> card.getKey() + "=" + card.getValue())
                .collect(Collectors.joining("&"));
        HttpResponse<String> outside = application.get("/frames/" + frame + "/picture/after?w=10&h=10&" + query);
        assertThat(outside.statusCode()).isEqualTo(422);
        assertThat(outside.body()).contains("inside the frame");
        HttpResponse<String> bare = application.get("/frames/" + frame + "/picture/after?w=10&h=10");
        assertThat(bare.statusCode()).isEqualTo(422);
        assertThat(bare.body()).contains("There is no method");
        // Optics that cannot find the lens makes strays of its frames; none is no fault.
        cards.put("left", "10");
        cards.put("optics", "true");
        cards.put("lens", "a lens that nobody knows");
        cards.put("version", version(frame));
        assertThat(application.post("/frames/" + frame + "/settings", cards).statusCode())
                .isEqualTo(302);
        assertThat(application.get("/shoots/" + shoot).body()).contains("lens not matched");
        cards.put("lens", "none");
        application.post("/frames/" + frame + "/settings", cards);
        assertThat(application.get("/shoots/" + shoot).body()).doesNotContain("lens not matched");
        // One aspect for all kept frames, each undone by itself.
        application.post("/frames/" + frame + "/aspect-all", Map.of("aspect", "1:1"));
        for (String name : new String[] {"B_0.dng", "B_1.dng"}) {
            assertThat(application.get("/frames/" + frame(shoot, name)).body())
                    .as(name)
                    .contains("value=\"1:1\" selected");
        }
        assertThat(application
                        .post("/frames/" + frame + "/aspect-all", Map.of("aspect", "free"))
                        .statusCode())
                .isEqualTo(422);
        application.post("/frames/" + frame(shoot, "B_0.dng") + "/undo", Map.of());
        // A rung that was changed elsewhere meanwhile is not overwritten: the difference is shown.
        cards.put("target", "rung");
        String stale = version(frame);
        cards.put("version", stale);
        assertThat(application.post("/frames/" + frame + "/settings", cards).statusCode())
                .isEqualTo(302);
        cards.put("grainKept", "71");
        cards.put("version", stale);
        HttpResponse<String> later = application.post("/frames/" + frame + "/settings", cards);
        assertThat(later.statusCode()).isEqualTo(409);
        assertThat(later.body()).contains("Put mine on top");
        application.post("/book/undo", Map.of("version", version(frame)));
        // An enlargement that cannot be made is said before anything runs.
        HttpResponse<String> huge = application.post(
                "/runs", Map.of("shoot", Long.toString(shoot), "enlargeBy", "LONG_EDGE_PX", "enlargeValue", "64000"));
        assertThat(huge.statusCode()).isEqualTo(422);
        assertThat(huge.body()).contains("between 1 and 6 times");
        application.post("/frames/" + frame + "/follow", Map.of());
    }

    @Test
    void inTheBrowserThePictureFollowsTheCards() throws Exception {
        long shoot = application.takeIn("seen");
        long frame = frame(shoot, "B_0.dng");
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            page.navigate(application.url("/frames/" + frame));
            page.keyboard().press("4");
            page.keyboard().press("f");
            exact(page);
            PlaywrightAssertions.assertThat(page.locator("[data-status]")).containsText("100 %");
            String clean = canvas(page);
            page.fill("#grain", "100");
            LiveApplication.await("grain to show", () -> !canvas(page).equals(clean));
            exact(page);
            String grainy = canvas(page);
            page.fill("#grain", "0");
            LiveApplication.await("grain to go", () -> !canvas(page).equals(grainy));
            exact(page);
            String smooth = canvas(page);
            page.keyboard().press("Escape");
            page.locator("[data-step=sharpen] .mesh").click();
            page.locator("[data-body=sharpen] [data-more]").click();
            page.fill("#soft", "1.5");
            LiveApplication.await("sharpening to show", () -> !canvas(page).equals(smooth));
            exact(page);
            // Holding a step's title shows the picture without it.
            String sharp = canvas(page);
            Locator title = page.locator("[data-hold=sharpen]");
            title.hover();
            page.mouse().down();
            LiveApplication.await("the step to be left out", () -> !canvas(page).equals(sharp));
            page.mouse().up();
            LiveApplication.await("the step to come back", () -> canvas(page).equals(sharp));
            // A crop of a fixed aspect, dragged by its right edge on the picture.
            page.locator("[data-step=crop] .mesh").click();
            page.selectOption("#aspect", "1:1");
            page.locator("[data-body=crop] [data-more]").click();
            page.fill("#width", "60");
            page.fill("[name=height]", "70");
            page.locator("[data-zoom='0']").click();
            double[] edge = edge(page);
            page.mouse().move(edge[0], edge[1]);
            page.mouse().down();
            page.mouse().move(edge[0] - 40, edge[1]);
            page.mouse().up();
            double width = Double.parseDouble(page.inputValue("#width"));
            double height = Double.parseDouble(page.inputValue("[name=height]"));
            assertThat(width).isBetween(40.0, 58.0);
            assertThat(width * 700).isCloseTo(height * 600, within(60.0));
            page.keyboard().press("b");
            PlaywrightAssertions.assertThat(page.locator("#width")).isHidden();
            page.keyboard().press("b");
            page.locator("[data-apply]").click();
            PlaywrightAssertions.assertThat(page.locator("[data-said]")).containsText("Applied to this frame");
            PlaywrightAssertions.assertThat(page.locator("[data-follow]")).isVisible();
            assertThat(Double.parseDouble(page.inputValue("#width"))).isCloseTo(width, within(0.01));
            assertThat(browser.problems).isEmpty();
        }
    }

    /**
     * With the same picture on both sides, wipe, pair and flip must give the same pixels at every zoom: each shows the same spot
     * in the same place.
     */
    @Test
    void sameSpotAtEveryZoom() {
        long frame = frame(application.takeIn("spots"), "B_0.dng");
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            page.navigate(application.url("/frames/" + frame));
            page.selectOption("[data-partner]", "saved");
            page.locator("[data-stage] > canvas").first().focus();
            for (int zoom = 1; zoom <= 7; zoom++) {
                // From 100 % on pixels are whole; below, a handful of a million values is rounded otherwise.
                int most = zoom >= 4 && zoom <= 6 ? 0 : 100;
                page.keyboard().press(Integer.toString(zoom));
                page.keyboard().press("p");
                settled(page);
                assertThat(((Number) page.evaluate(PAIR_DIFFERS)).intValue())
                        .as("pair at zoom " + zoom)
                        .isLessThanOrEqualTo(most);
                page.keyboard().press("f");
                settled(page);
                page.evaluate(
                        "void (window.flipped = document.querySelector('[data-stage] > canvas').getContext('2d').getImageData(0, 0, 9999, 400).data)");
                page.keyboard().press("f");
                settled(page);
                assertThat(((Number) page.evaluate(FLIP_DIFFERS)).intValue())
                        .as("flip at zoom " + zoom)
                        .isLessThanOrEqualTo(most);
                page.keyboard().press("x");
                settled(page);
                assertThat(((Number) page.evaluate(FLIP_DIFFERS)).intValue())
                        .as("wipe at zoom " + zoom)
                        .isLessThanOrEqualTo(most);
                page.keyboard().press("f");
                page.keyboard().press("f");
            }
            assertThat(browser.problems).isEmpty();
        }
    }

    /**
     * Upright and mirrored ones are shown the right way up, pixel for pixel at 100 %: where TIFF 6.0 says that row 0 and
     * column 0 of what is stored belong (tag 274).
     */
    @Test
    void turnedFramesStandUpright() {
        long shoot = application.takeIn("turned");
        int w = 320;
        int h = 200;
        try (LiveBrowser browser = new LiveBrowser()) {
            Page page = browser.page;
            for (int orientation : TURNS) {
                page.navigate(application.url("/frames/" + frame(shoot, orientation + ".dng")));
                page.waitForLoadState();
                // The view stays from frame to frame.
                if (orientation == TURNS[0]) {
                    page.keyboard().press("b");
                    page.keyboard().press("f");
                    page.keyboard().press("4");
                }
                exact(page);
                int across = orientation >= 5 ? h : w;
                int down = orientation >= 5 ? w : h;
                List<?> shown = (List<?>) page.evaluate("""
                        ([across, down]) => {
                          const c = document.querySelector('[data-stage] > canvas');
                          const x = Math.round(c.width / 2 - across / 2), y = Math.round(c.height / 2 - down / 2);
                          return Array.from(c.getContext('2d').getImageData(x, y, across, down).data);
                        }""", List.of(across, down));
                List<?> stored = (List<?>) page.evaluate("""
                        async ([w, h]) => {
                          const url = performance.getEntriesByType('resource').map((e) => e.name)
                            .filter((u) => u.includes('/after?') && u.includes('&x=')).pop()
                            .replace(/&x=.*&h=[0-9]+/, '&x=0&y=0&w=' + w + '&h=' + h);
                          const image = await createImageBitmap(await (await fetch(url)).blob());
                          const c = new OffscreenCanvas(image.width, image.height), x = c.getContext('2d');
                          x.drawImage(image, 0, 0);
                          return Array.from(x.getImageData(0, 0, image.width, image.height).data);
                        }""", List.of(w, h));
                assertThat(stored).hasSize(4 * w * h);
                for (int y = 0; y < down; y += 3) {
                    for (int x = 0; x < across; x += 3) {
                        int[] from = switch (orientation) {
                            case 3 -> new int[] {w - 1 - x, h - 1 - y};
                            case 5 -> new int[] {y, x};
                            case 6 -> new int[] {y, h - 1 - x};
                            case 8 -> new int[] {w - 1 - y, x};
                            default -> new int[] {x, y};
                        };
                        int to = 4 * (y * across + x);
                        int source = 4 * (from[1] * w + from[0]);
                        assertThat(shown.subList(to, to + 3))
                                .as("orientation %d at %d %d", orientation, x, y)
                                .isEqualTo(stored.subList(source, source + 3));
                    }
                }
            }
            assertThat(browser.problems).isEmpty();
        }
    }

    /** The middle of the crop's right edge on the canvas, the frame shown whole. */
    private static double[] edge(Page page) {
        var box = page.locator("[data-stage]").boundingBox();
        double scale = 0.9 * Math.min(box.width / 700, box.height / 600);
        double left = box.x + box.width / 2 - 350 * scale;
        double top = box.y + box.height / 2 - 300 * scale;
        double x = Double.parseDouble(page.inputValue("#left")) / 100;
        double w = Double.parseDouble(page.inputValue("#width")) / 100;
        double y = Double.parseDouble(page.inputValue("[name=top]")) / 100;
        double h = Double.parseDouble(page.inputValue("[name=height]")) / 100;
        return new double[] {left + (x + w) * 700 * scale, top + (y + h / 2) * 600 * scale};
    }

    /** After what was just asked for was drawn once. */
    private static void settled(Page page) {
        page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(0))))");
        exact(page);
    }

    private static void exact(Page page) {
        LiveApplication.await(
                "the exact picture",
                () -> "true"
                        .equals(page.locator("[data-stage] > canvas").first().getAttribute("data-exact")));
    }

    private static String canvas(Page page) {
        return (String) page.evaluate("document.querySelector('[data-stage] > canvas').toDataURL()");
    }

    private static String version(long frame) {
        Matcher matcher = NUMBER.matcher(application.get("/frames/" + frame).body());
        assertThat(matcher.find()).isTrue();
        return matcher.group(1);
    }

    private static long frame(long shoot, String name) {
        Matcher matcher = Pattern.compile("\"id\":(\\d+),\"name\":\"" + name)
                .matcher(application.get("/shoots/" + shoot + "/sheet").body());
        assertThat(matcher.find()).isTrue();
        return Long.parseLong(matcher.group(1));
    }

    private static BufferedImage picture(String path) throws Exception {
        HttpResponse<byte[]> answer = HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(application.url(path)))
                                .build(),
                        HttpResponse.BodyHandlers.ofByteArray());
        assertThat(answer.statusCode()).as(new String(answer.body())).isEqualTo(200);
        return ImageIO.read(new ByteArrayInputStream(answer.body()));
    }

    private static int largestDifference(BufferedImage a, BufferedImage b) {
        int most = 0;
        for (int y = 0; y < a.getHeight(); y++) {
            for (int x = 0; x < a.getWidth(); x++) {
                for (int shift = 0; shift <= 16; shift += 8) {
                    most = Math.max(most, Math.abs((a.getRGB(x, y) >> shift & 255) - (b.getRGB(x, y) >> shift & 255)));
                }
            }
        }
        return most;
    }

    private static ResolvedSettings settings(Path file) throws Exception {
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            return ResolvedSettings.ofJson(
                    Xmp.property(dng.main().field(Tag.XMP).orElseThrow().bytes(), "Settings"));
        }
    }
}
