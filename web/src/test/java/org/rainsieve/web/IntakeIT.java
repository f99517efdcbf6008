package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.assertions.PlaywrightAssertions;
import java.awt.color.ColorSpace;
import java.awt.color.ICC_Profile;
import java.awt.image.BufferedImage;
import java.io.BufferedReader;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.URLEncoder;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.file.Sha256;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.tiff.Tag;
import org.rainsieve.xmp.Xmp;

/** Ways in: folders with what lies below them, dropped files, files handed over; and kinds other than DNG through a run. */
class IntakeIT {
    @TempDir
    private static Path folder;

    private static LiveApplication application;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos"));
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS",
                        folder.resolve("photos").toString(),
                        "SIEVE_CARDS",
                        folder.resolve("media").toString()));
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    private static byte[] dng(int seed) {
        return PlainFrames.frame(SimulatedCamera.ONDREL_24, 1600, 400, 300, 2 * seed);
    }

    /** A noisy picture as a program might save it. */
    private static byte[] picture(String format) throws IOException {
        BufferedImage image = new BufferedImage(480, 320, BufferedImage.TYPE_INT_RGB);
        SplittableRandom random = new SplittableRandom(5);
        for (int i = 0; i < 480 * 320; i++) {
            int value = 60 + i % 480 / 4 + random.nextInt(24);
            image.setRGB(i % 480, i / 480, value << 16 | value + random.nextInt(9) << 8 | value);
        }
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ImageIO.write(image, format, out);
        return out.toByteArray();
    }

    private static long begun(String name) {
        HttpResponse<String> begun = application.post("/intake/uploads", Map.of("name", name));
        Matcher id = Pattern.compile("\"shoot\":(\\d+)").matcher(begun.body());
        assertThat(id.find()).as(begun.body()).isTrue();
        return Long.parseLong(id.group(1));
    }

    private static HttpResponse<String> put(long shoot, String name, byte[] content) {
        return application.postBytes(
                "/intake/uploads/" + shoot + "?name=" + URLEncoder.encode(name, StandardCharsets.UTF_8), content);
    }

    private static void awaitRead(long shoot) {
        LiveApplication.await(
                "frames to be read",
                () -> application.get("/shoots/" + shoot + "/standing").body().contains("\"unread\":0"));
    }

    /** Pictures beside raw files, in folders below, are told by content, read, run and returned; originals stay as they are. */
    @Test
    void everyKindGoesThroughARun() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/mixed/below"));
        Files.write(shoot.resolve("a.dng"), dng(1));
        Files.write(shoot.resolve("b.jpg"), picture("jpeg"));
        Files.write(shoot.resolve("c.really-a-png"), picture("png"));
        Files.write(shoot.resolve("d.tif"), picture("tiff"));
        Files.writeString(shoot.resolve("e.jpg"), "no picture at all");
        String before = Sha256.of(Files.readAllBytes(shoot.resolve("b.jpg")));
        long id =
                LiveApplication.idOf(application.post("/shoots", Map.of("root", "0", "path", "mixed", "deep", "true")));
        awaitRead(id);
        assertThat(application.get("/shoots/" + id + "/standing").body()).contains("\"ready\":4", "\"refused\":1");
        String page = application.get("/shoots/" + id).body();
        assertThat(page).contains("This is a text file, whatever its name says.", "Support report");
        long run = LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(id), "destination", "beside")));
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        String done = application.get("/runs/" + run).body();
        assertThat(done).doesNotContain("■ failed");
        Matcher returned =
                Pattern.compile("data-return href=\"/returns/(\\d+)\"").matcher(done);
        int returns = 0;
        while (returned.find()) {
            HttpResponse<String> file = application.get("/returns/" + returned.group(1) + "/file");
            assertThat(file.statusCode()).isEqualTo(200);
            assertThat(file.headers().firstValue("Content-Disposition").orElse(""))
                    .startsWith("attachment")
                    .contains("-denoise.dng");
            assertThat(application
                            .get("/returns/" + returned.group(1) + "/after?kind=overview")
                            .statusCode())
                    .isEqualTo(200);
            assertThat(application
                            .get("/returns/" + returned.group(1) + "/deliver?form=JPEG&quality=0")
                            .statusCode())
                    .isEqualTo(422);
            HttpResponse<String> copy =
                    application.get("/returns/" + returned.group(1) + "/deliver?form=TIFF&space=PROPHOTO&longEdge=100");
            assertThat(copy.statusCode()).isEqualTo(200);
            assertThat(copy.headers().firstValue("Content-Disposition").orElse(""))
                    .contains("-denoise.tif");
            assertThat(copy.body()).startsWith("II*");
            returns++;
        }
        assertThat(returns).isEqualTo(4);
        assertThat(Sha256.of(Files.readAllBytes(shoot.resolve("b.jpg")))).isEqualTo(before);
        // Where block edges are removed, a JPEG's own quality is gone by.
        long enlarged = LiveApplication.idOf(application.post(
                "/runs",
                Map.of(
                        "shoot",
                        Long.toString(id),
                        "enlargeBy",
                        "FACTOR",
                        "enlargeValue",
                        "1.5",
                        "blockEdges",
                        "true")));
        LiveApplication.await(
                "the run to end",
                () -> application.get("/runs/" + enlarged).body().contains("data-standing>finished<"));
        assertThat(application.get("/runs/" + enlarged).body()).doesNotContain("■ failed");
        EnlargeSettings own = enlarge(shoot.resolve("b-denoise-enlarge-2.dng"));
        assertThat(own.blockEdges()).isTrue();
        // The JDK's writer takes quality 75 when nothing is said.
        assertThat(own.jpegQuality()).isBetween(74, 76);
        assertThat(enlarge(shoot.resolve("d-denoise-enlarge-2.dng")).jpegQuality())
                .isEqualTo(60);
        Matcher frame = Pattern.compile("\"id\":(\\d+),\"name\":\"b.jpg\"")
                .matcher(application.get("/shoots/" + id + "/sheet").body());
        assertThat(frame.find()).isTrue();
        assertThat(application.get("/frames/" + frame.group(1)).body()).contains("data-note", "a rendered picture");
    }

    private static EnlargeSettings enlarge(Path file) throws Exception {
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            byte[] xmp = dng.main().field(Tag.XMP).orElseThrow().bytes();
            return ResolvedSettings.ofJson(Xmp.property(xmp, "Settings")).enlarge();
        }
    }

    /** Dropped files become frames of a shoot of their own; the same file twice is one, another of its name is numbered. */
    @Test
    void droppedFiles() {
        long shoot = begun("Dropped at the mere");
        assertThat(put(shoot, "x y.dng", dng(2)).body()).contains("\"name\":\"x y.dng\"", "\"already\":false");
        assertThat(put(shoot, "x y.dng", dng(2)).body()).contains("\"already\":true");
        assertThat(put(shoot, "x y.dng", dng(3)).body()).contains("\"name\":\"x y (2).dng\"", "\"already\":false");
        for (String name :
                new String[] {"../x.dng", "/etc/x.dng", "a\\b.dng", ".hidden.dng", "", "a\u0000b.dng", "C:x.dng"}) {
            assertThat(put(shoot, name, dng(2)).statusCode()).as(name).isIn(400, 422);
        }
        awaitRead(shoot);
        assertThat(application.get("/shoots/" + shoot + "/standing").body()).contains("\"ready\":2");
        assertThat(application.get("/shoots/" + shoot).body()).contains("Dropped at the mere");
        // Only shoots that were begun by dropping take dropped files.
        Path other = folder.resolve("photos/other");
        try {
            Files.write(Files.createDirectories(other).resolve("o.dng"), dng(4));
        } catch (IOException e) {
            throw new AssertionError(e);
        }
        long byReference = application.takeIn("other");
        assertThat(put(byReference, "p.dng", dng(5)).statusCode()).isEqualTo(422);
        assertThat(other.resolve("p.dng")).doesNotExist();
    }

    /** {@code ./sieve open} takes files in from below the allowed folders, prints their page, and refuses others. */
    @Test
    void filesHandedOver() throws Exception {
        Path file = Files.write(
                Files.createDirectories(folder.resolve("photos/handed")).resolve("h.dng"), dng(6));
        Path outside = Files.write(folder.resolve("outside.dng"), dng(7));
        String opened = open(0, file);
        assertThat(opened).startsWith("http://127.0.0.1:" + application.port + "/frames/");
        String page = opened.strip().substring(opened.indexOf("/frames/"));
        LiveApplication.await(
                "the frame to be read", () -> application.get(page).body().contains("data-steps"));
        assertThat(open(0, file).strip()).as("the same frame again").isEqualTo(opened.strip());
        assertThat(open(1, outside)).contains("is not below one of the allowed folders");
        assertThat(open(1, folder.resolve("missing.dng"))).contains("There is no file");
        String report = application.get(page + "/report").body();
        assertThat(report)
                .contains("engine: Rain Sieve", "camera: Ondrel 24", "First bytes of the file:\n", "End of worker.log");
    }

    /**
     * A TIFF that was handed over comes back as a TIFF of 16 bits with its own profile and resolution, whatever else the run
     * returns; its returns are known for ours when the folder is taken in again.
     */
    @Test
    void handedOverTiffsComeBackAsTiffs() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/edits"));
        Path tiff = Files.write(shoot.resolve("e.tif"), picture("tiff"));
        Files.write(shoot.resolve("f.dng"), dng(30));
        byte[] profile = ICC_Profile.getInstance(ColorSpace.CS_LINEAR_RGB).getData();
        Files.write(folder.resolve("own.icc"), profile);
        exiftool(
                "-overwrite_original",
                "-XResolution=240",
                "-YResolution=240",
                "-ResolutionUnit=inches",
                "-icc_profile<=" + folder.resolve("own.icc"),
                tiff.toString());
        String before = Sha256.of(Files.readAllBytes(tiff));
        open(0, tiff);
        long id = application.takeIn("edits");
        awaitRead(id);
        long run = LiveApplication.idOf(application.post(
                "/runs",
                Map.of("shoot", Long.toString(id), "forms", "DNG,JPEG", "space", "ADOBE_RGB", "longEdge", "200")));
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        assertThat(application.get("/runs/" + run).body())
                .doesNotContain("■ failed")
                .contains("linear DNG, JPEG, 16-bit TIFF", "e-denoise.tif", "f-denoise.dng", "f-denoise.jpg");
        assertThat(shoot.resolve("e-denoise.dng")).doesNotExist();
        assertThat(Sha256.of(Files.readAllBytes(tiff))).isEqualTo(before);
        Path back = shoot.resolve("e-denoise.tif");
        assertThat(exiftool("-s3", "-BitsPerSample", "-XResolution", "-ImageWidth", back.toString())
                        .lines())
                .containsExactly("16 16 16", "240", "480");
        exiftool("-icc_profile", "-b", "-w", "icc", back.toString());
        assertThat(Files.readAllBytes(shoot.resolve("e-denoise.icc"))).isEqualTo(profile);
        Files.delete(shoot.resolve("e-denoise.icc"));
        // Apart from its noise it is the same picture.
        BufferedImage original = ImageIO.read(tiff.toFile());
        // The Java platform's reader knows no predictor with 16 bits; libtiff does.
        Process plain = new ProcessBuilder(
                        "tiffcp",
                        "-c",
                        "none",
                        back.toString(),
                        folder.resolve("plain.tif").toString())
                .start();
        assertThat(plain.waitFor()).isZero();
        BufferedImage returned = ImageIO.read(folder.resolve("plain.tif").toFile());
        long[] sums = new long[2];
        for (int i = 0; i < 480 * 320; i++) {
            sums[0] += original.getRaster().getSample(i % 480, i / 480, 1);
            sums[1] += returned.getRaster().getSample(i % 480, i / 480, 1);
        }
        assertThat(sums[1] / 257.0 / sums[0]).isBetween(0.98, 1.02);
        Path jpeg = shoot.resolve("f-denoise.jpg");
        assertThat(ImageIO.read(jpeg.toFile()).getWidth()).isEqualTo(200);
        assertThat(exiftool("-s3", "-ProfileDescription", "-Model", jpeg.toString())
                        .lines())
                .containsExactly("Adobe RGB (1998)", "Ondrel 24");
        assertThat(shoot.resolve(".rain-sieve-tmp")).doesNotExist();
        application.takeIn("edits");
        awaitRead(id);
        assertThat(application.get("/shoots/" + id + "/standing").body()).contains("\"frames\":2");
    }

    static String exiftool(String... arguments) throws Exception {
        List<String> command = new ArrayList<>(List.of("exiftool"));
        command.addAll(List.of(arguments));
        Process process = new ProcessBuilder(command).redirectErrorStream(true).start();
        String out = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor()).as(out).isZero();
        return out;
    }

    /**
     * What comes into a watched folder is taken in by itself, with what its sidecar says; a picture that had to make room is
     * made again when it is asked for.
     */
    @Test
    void watchedFoldersTakeInWhatComes() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/watched"));
        Files.write(shoot.resolve("w1.dng"), dng(40));
        long id = LiveApplication.idOf(
                application.post("/shoots", Map.of("root", "0", "path", "watched", "watched", "true")));
        Files.writeString(
                shoot.resolve("w2.xmp"),
                "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                        + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='4'"
                        + " xmlns:dc='http://purl.org/dc/elements/1.1/'><dc:subject><rdf:Bag><rdf:li>heron</rdf:li></rdf:Bag>"
                        + "</dc:subject></rdf:Description></rdf:RDF></x:xmpmeta>");
        Files.write(shoot.resolve("w2.dng"), dng(41));
        LiveApplication.await(
                "the new file",
                () -> application.get("/shoots/" + id + "/standing").body().contains("\"frames\":2"));
        awaitRead(id);
        // Reading and a glance at what stands beside the file come in either order.
        LiveApplication.await(
                "what the sidecar says",
                () -> application
                        .get("/shoots/" + id + "/sheet")
                        .body()
                        .contains("\"rating\":4,\"keywords\":\"heron\""));
        String sheet = application.get("/shoots/" + id + "/sheet").body();
        Matcher frame = Pattern.compile("\"id\":(\\d+),\"name\":\"w2.dng\"").matcher(sheet);
        assertThat(frame.find()).isTrue();
        String picture = "/frames/" + frame.group(1) + "/thumbnail";
        assertThat(application.get(picture).statusCode()).isEqualTo(200);
        Files.delete(folder.resolve("home/cache/thumbnails/" + frame.group(1) + ".jpg"));
        assertThat(application.get(picture).statusCode()).isEqualTo(404);
        LiveApplication.await("a new picture", () -> application.get(picture).statusCode() == 200);
        // No longer watched, the folder is left alone: the next file is not there after another one's time has passed.
        application.post("/shoots/" + id + "/watch", Map.of("watched", "false"));
        Files.write(shoot.resolve("w3.dng"), dng(42));
        Thread.sleep(11_000);
        assertThat(application.get("/shoots/" + id + "/standing").body()).contains("\"frames\":2");
    }

    /**
     * A card is copied file by file, compared, never changed; what was copied before is left out; a copy that ended with a
     * problem goes on in the same shoot.
     */
    @Test
    void cards() throws Exception {
        assertThat(application.get("/intake/cards").body()).isEqualTo("[]");
        Path images = Files.createDirectories(folder.resolve("media/MERE/DCIM/100MERE"));
        Files.write(images.resolve("M_1.DNG"), dng(20));
        Files.write(images.resolve("M_1.JPG"), picture("jpeg"));
        Path second = Files.createDirectories(folder.resolve("media/MERE/DCIM/101MERE"));
        Files.write(second.resolve("M_1.DNG"), dng(21));
        Files.write(second.resolve("M_2.DNG"), dng(20));
        // A folder where a file should be cannot be read however often it is tried: the copy ends with a problem.
        Path broken = Files.write(second.resolve("M_3.DNG"), dng(22));
        Files.setPosixFilePermissions(broken, java.util.Set.of());
        assertThat(application.get("/intake/cards").body())
                .contains("\"name\":\"MERE\"", "\"files\":5", "\"goesOn\":false");
        boolean root = "root".equals(System.getProperty("user.name"));
        String done = copied();
        assertThat(done).contains("\"copied\":" + (root ? 4 : 3), "\"already\":1");
        Files.setPosixFilePermissions(broken, java.nio.file.attribute.PosixFilePermissions.fromString("rw-r--r--"));
        if (!root) {
            assertThat(done).contains("M_3.DNG: could not be read");
            assertThat(application.get("/intake/cards").body()).contains("\"goesOn\":true");
            assertThat(copied()).contains("\"copied\":1", "\"already\":4", "\"problems\":[]");
        }
        Matcher shoot = Pattern.compile("\"shoot\":(\\d+)").matcher(done);
        assertThat(shoot.find()).isTrue();
        awaitRead(Long.parseLong(shoot.group(1)));
        assertThat(application.get("/shoots/" + shoot.group(1) + "/sheet").body())
                .contains(
                        "\"name\":\"M_1.DNG\"",
                        "\"name\":\"101MERE M_1.DNG\"",
                        "\"name\":\"M_1.JPG\"",
                        "\"name\":\"M_3.DNG\"")
                .doesNotContain("M_2.DNG");
        assertThat(copied()).contains("\"copied\":0", "\"already\":5");
        assertThat(Files.readAllBytes(images.resolve("M_1.DNG"))).isEqualTo(dng(20));
    }

    private static String copied() {
        HttpResponse<String> begun = application.post("/intake/cards", Map.of("card", "0"));
        Matcher id = Pattern.compile("\"id\":(\\d+)").matcher(begun.body());
        assertThat(id.find()).as(begun.body()).isTrue();
        String page = "/intake/copies/" + id.group(1);
        LiveApplication.await(
                "the card to be copied", () -> application.get(page).body().contains("\"done\":true"));
        return application.get(page).body();
    }

    /** Originals that were moved are noticed, found again by name and size, and can be run; others are not taken for them. */
    @Test
    void movedOriginalsAreFoundAgain() throws Exception {
        Path before = Files.createDirectories(folder.resolve("photos/before"));
        Files.write(before.resolve("m.dng"), dng(8));
        Files.write(before.resolve("n.dng"), dng(9));
        long id = application.takeIn("before");
        assertThat(application.get("/shoots/" + id + "/missing").body()).isEqualTo("[]");
        Path after = Files.createDirectories(folder.resolve("photos/after/deep"));
        Files.move(before.resolve("m.dng"), after.resolve("m.dng"));
        Files.delete(before.resolve("n.dng"));
        Files.writeString(after.resolve("n.dng"), "another file of that name");
        assertThat(application.get("/shoots/" + id + "/missing").body()).isEqualTo("[\"m.dng\",\"n.dng\"]");
        assertThat(application
                        .post("/shoots/" + id + "/relocate", Map.of("root", "0", "path", "mixed/.."))
                        .statusCode())
                .isEqualTo(422);
        assertThat(application
                        .post("/shoots/" + id + "/relocate", Map.of("root", "0", "path", "after"))
                        .statusCode())
                .isEqualTo(302);
        assertThat(application.get("/shoots/" + id + "/missing").body()).isEqualTo("[\"n.dng\"]");
        long run = LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(id), "destination", "beside")));
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        assertThat(after.resolve("m-denoise.dng")).exists();
        assertThat(application.get("/runs/" + run).body()).contains("The file is not there any more.");
        // Forgotten, the shoot and its runs are gone, and every file is where it was.
        assertThat(application.post("/shoots/" + id + "/forget", Map.of()).statusCode())
                .isEqualTo(302);
        assertThat(application.get("/shoots/" + id).statusCode()).isEqualTo(404);
        assertThat(application.get("/runs/" + run).statusCode()).isEqualTo(404);
        assertThat(after.resolve("m.dng")).exists();
        assertThat(after.resolve("m-denoise.dng")).exists();
    }

    /** What is set on the page is kept for the next start; what cannot be used is said, and nothing is changed. */
    @Test
    void setUpIsKeptForTheNextStart() throws Exception {
        assertThat(application
                        .post("/set-up", Map.of("SIEVE_QUIET", "08:00-18:00", "SIEVE_MEMORY_MB", "900"))
                        .statusCode())
                .isEqualTo(302);
        assertThat(application.get("/set-up").body()).contains("value=\"08:00-18:00\"", "value=\"900\"");
        assertThat(application.get("/set-up/folders?path=" + folder).body())
                .contains("\"up\":\"" + folder.getParent() + "\"", "\"photos\"");
        assertThat(application.get("/set-up/folders?path=photos").statusCode()).isEqualTo(422);
        assertThat(application
                        .post("/set-up", Map.of("SIEVE_ROOTS", "/nowhere"))
                        .body())
                .contains("There is no folder /nowhere");
        assertThat(Files.readString(folder.resolve("home/set-up.conf")))
                .contains("SIEVE_QUIET=08:00-18:00", "SIEVE_MEMORY_MB=900")
                .doesNotContain("/nowhere");
    }

    /** The program that handed a file over waits until it is sent back from the bench, and is told where it lies. */
    @Test
    void sentBackFromTheBench() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/sent"));
        Path tiff = Files.write(shoot.resolve("s.tif"), picture("tiff"));
        Process waiting = opening("--wait", tiff.toString());
        BufferedReader told =
                new BufferedReader(new InputStreamReader(waiting.getInputStream(), StandardCharsets.UTF_8));
        String page = told.readLine();
        assertThat(page).contains("/frames/");
        try (LiveBrowser browser = new LiveBrowser()) {
            browser.page.navigate(page);
            browser.page.click("[data-send-back]");
            PlaywrightAssertions.assertThat(browser.page.locator("[data-said]")).containsText("Sent back");
        }
        assertThat(waiting.waitFor(60, TimeUnit.SECONDS)).isTrue();
        assertThat(waiting.exitValue()).isZero();
        assertThat(Path.of(told.readLine())).hasParent(shoot).exists();
    }

    private static Process opening(String... what) throws IOException {
        List<String> command =
                new ArrayList<>(List.of(Path.of("..", "sieve").toAbsolutePath().toString(), "open"));
        command.addAll(List.of(what));
        ProcessBuilder builder = new ProcessBuilder(command);
        builder.environment().put("SIEVE_PORT", Integer.toString(application.port));
        builder.environment().put("SIEVE_NO_BUILD", "1");
        return builder.redirectErrorStream(true).start();
    }

    private static String open(int status, Path file) throws Exception {
        Process process = opening(file.toString());
        String out = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor(60, TimeUnit.SECONDS)).isTrue();
        assertThat(process.exitValue()).as(out).isEqualTo(status);
        return out;
    }
}
