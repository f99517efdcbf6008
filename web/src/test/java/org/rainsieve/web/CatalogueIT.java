package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.BufferedImage;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
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
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.file.Sha256;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/**
 * The way back: returns go into the inbox of a catalogue that shares no code with us (LibRaw and another library's tag
 * reader decide whether they are right), are stacked with their originals and moved; versions are kept and discarded.
 */
class CatalogueIT {
    @TempDir
    private static Path folder;

    private static LiveApplication application;
    private static Process catalogue;
    private static String address;

    @BeforeAll
    static void start() throws IOException {
        Path module = Path.of("..", "catalogue", "target").toAbsolutePath().normalize();
        catalogue = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-Xmx128m",
                        "-cp",
                        module.resolve("classes") + ":" + module.resolve("lib") + "/*",
                        "org.rainsieve.catalogue.Catalogue",
                        folder.resolve("inbox").toString(),
                        folder.resolve("pictures").toString(),
                        "0")
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        String line = new BufferedReader(new InputStreamReader(catalogue.getInputStream())).readLine();
        Matcher told = Pattern.compile("(http://[0-9.:]+)/pictures").matcher(String.valueOf(line));
        assertThat(told.find()).as(String.valueOf(line)).isTrue();
        address = told.group(1);
        Path shoot = Files.createDirectories(folder.resolve("photos/mere/deep"));
        Files.write(shoot.resolve("a.dng"), PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 400, 300, 2));
        Files.write(shoot.resolve("b.dng"), PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 400, 300, 4));
        Files.writeString(
                shoot.resolve("a.xmp"),
                "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                        + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='4'"
                        + " xmlns:crs='http://ns.adobe.com/camera-raw-settings/1.0/' crs:Temperature='4321' crs:Sharpness='60'/>"
                        + "</rdf:RDF></x:xmpmeta>");
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of(
                        "SIEVE_ROOTS", folder.resolve("photos").toString(),
                        "SIEVE_INBOX", folder.resolve("inbox").toString(),
                        "SIEVE_RETURNS", folder.resolve("tree").toString(),
                        "SIEVE_CATALOGUE", address));
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
        if (catalogue != null) {
            catalogue.destroyForcibly();
        }
    }

    private static String asked(String what) {
        try {
            return HttpClient.newHttpClient()
                    .send(
                            HttpRequest.newBuilder(URI.create(address + what)).build(),
                            HttpResponse.BodyHandlers.ofString())
                    .body();
        } catch (IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private static short[] tile(Path file) throws Exception {
        try (LinearDngFile opened = LinearDngFile.open(file)) {
            return opened.tile(0);
        }
    }

    private static void finished(long run) {
        LiveApplication.await(
                "run " + run, () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        assertThat(application.get("/runs/" + run).body()).doesNotContain("■ failed");
    }

    private static long run(long shoot, String destination, String forms) {
        long run = LiveApplication.idOf(application.post(
                "/runs", Map.of("shoot", Long.toString(shoot), "destination", destination, "forms", forms)));
        finished(run);
        return run;
    }

    private static long files(Path below, String ending) throws IOException {
        if (!Files.exists(below)) {
            return 0;
        }
        try (Stream<Path> all = Files.walk(below)) {
            return all.filter(file -> file.toString().endsWith(ending)).count();
        }
    }

    private static Path only(Path below, String name) throws IOException {
        try (Stream<Path> all = Files.walk(below)) {
            List<Path> found = all.filter(file -> file.getFileName().toString().equals(name))
                    .toList();
            assertThat(found).as(name).hasSize(1);
            return found.get(0);
        }
    }

    /** Number of the version in that line of the page, by the name of its file. */
    private static String version(String page, String name) {
        Matcher row = Pattern.compile(
                        "data-version=\"(\\d+)\"(?:(?!data-version).)*?" + Pattern.quote(name), Pattern.DOTALL)
                .matcher(page);
        assertThat(row.find()).as(name).isTrue();
        return row.group(1);
    }

    @Test
    void returnsArriveAndOneIsKept() throws Exception {
        Path original = folder.resolve("photos/mere/deep/a.dng");
        String before = Sha256.of(Files.readAllBytes(original));
        long shoot =
                LiveApplication.idOf(application.post("/shoots", Map.of("root", "0", "path", "mere", "deep", "true")));
        LiveApplication.await(
                "frames to be read",
                () -> application.get("/shoots/" + shoot + "/standing").body().contains("\"unread\":0"));
        assertThat(application.get("/catalogue").body()).contains("No return yet");
        // With originals and their sidecars along, and with what was edited.
        finished(LiveApplication.idOf(application.post(
                "/runs",
                Map.of(
                        "shoot",
                        Long.toString(shoot),
                        "destination",
                        "inbox",
                        "forms",
                        "DNG,JPEG",
                        "copyOriginals",
                        "true",
                        "carryEdits",
                        "true"))));
        LiveApplication.await("all to be picked up", () -> asked("/pictures").split("sha256\"").length == 7);
        LiveApplication.await("the sidecar to be picked up", () -> {
            try {
                return files(folder.resolve("pictures"), "a.xmp") == 1;
            } catch (IOException e) {
                return false;
            }
        });
        String held = asked("/pictures");
        // Stacked with what they were made from, both of them, and that itself.
        assertThat(held.split("sha256:" + before, -1)).hasSize(4);
        String returned =
                Files.readString(only(folder.resolve("pictures"), "a-denoise.dng"), StandardCharsets.ISO_8859_1);
        assertThat(returned).contains("Temperature", "4321").doesNotContain("Sharpness");
        assertThat(held).contains("\"camera\":\"Ondrel 24\"", "\"arrivedAs\":\"a-denoise.jpg\"", "\"width\":400");
        assertThat(asked("/refused")).isEqualTo("[]");
        LiveApplication.await(
                "the page to say so", () -> application.get("/catalogue").body().split("picked up: ", -1).length == 5);
        assertThat(files(folder.resolve("inbox"), "")).as("the inbox itself").isEqualTo(1);
        // Into a tree of its own, named as the allowed folder and what lies below it.
        run(shoot, "mirror", "DNG");
        assertThat(folder.resolve("tree/photos/mere/deep/a-denoise-2.dng")).exists();
        assertThat(files(folder.resolve("tree"), "")).isEqualTo(6);
        String page = application.get("/catalogue?shoot=" + shoot).body();
        assertThat(page)
                .contains(
                        "2</span> originals with returns",
                        "title=\"" + folder.toRealPath().resolve("tree"),
                        "in mere/deep");
        // Made again from what it says of itself: a third version with the same pixels; and the whole run once more,
        // compact.
        assertThat(application
                        .get("/returns/" + version(page, "a-denoise-2.dng") + "/made")
                        .body())
                .contains("\"engine\":\"Rain Sieve", "\"words\":\"\"");
        long again = LiveApplication.idOf(
                application.post("/returns/" + version(page, "a-denoise-2.dng") + "/again", Map.of()));
        finished(again);
        Path tree = folder.resolve("tree/photos/mere/deep");
        assertThat(tile(tree.resolve("a-denoise-3.dng"))).isEqualTo(tile(tree.resolve("a-denoise-2.dng")));
        long compact = run(shoot, "mirror", "COMPACT");
        long repeated = LiveApplication.idOf(application.post("/runs/" + compact + "/repeat", Map.of()));
        finished(repeated);
        assertThat(tree.resolve("a-denoise-2-compact.dng")).exists();
        assertThat(Files.size(tree.resolve("b-denoise-compact.dng")))
                .isLessThan(Files.size(tree.resolve("b-denoise-2.dng")) * 3 / 4);
        for (long done : new long[] {again, compact, repeated}) {
            application.post("/runs/" + done + "/discard", Map.of());
        }
        // Keep the second version: the others go out of the way, but not what the catalogue took: that is the
        // catalogue's.
        String second = version(page, "a-denoise-2.dng");
        String first = version(page, "a-denoise.dng");
        long pictures =
                files(folder.resolve("pictures"), "a-denoise.dng") + files(folder.resolve("pictures"), "a-denoise.jpg");
        assertThat(pictures).isEqualTo(2);
        assertThat(application
                        .post("/catalogue/returns/" + second + "/keep", Map.of())
                        .statusCode())
                .isEqualTo(302);
        page = application.get("/catalogue?shoot=" + shoot).body();
        // The third version and two compact ones of this frame, and the compact ones of the other.
        assertThat(page.split(">discarded<", -1)).hasSize(6);
        assertThat(asked("/pictures").split("sha256\"")).hasSize(7);
        assertThat(folder.resolve("tree/photos/mere/deep/a-denoise-2.dng")).exists();
        assertThat(application
                        .post("/catalogue/returns/" + first + "/discard", Map.of())
                        .statusCode())
                .as("in the catalogue")
                .isNotEqualTo(302);
        assertThat(files(folder.resolve("pictures"), "a-denoise.dng")).isEqualTo(1);
        // What is picked up can be looked at like any other return.
        assertThat(application.get("/returns/" + first + "/after?kind=overview").statusCode())
                .isEqualTo(200);
        // A return that somebody has changed is left alone.
        Path changed = folder.resolve("tree/photos/mere/deep/b-denoise-2.dng");
        Files.write(changed, new byte[] {1, 2, 3});
        assertThat(application
                        .post("/catalogue/returns/" + version(page, "b-denoise-2.dng") + "/discard", Map.of())
                        .statusCode())
                .isEqualTo(422);
        assertThat(changed).exists();
        // Copies of many: of the newest linear DNG of each that is there, where that was not changed since.
        long copies = LiveApplication.idOf(application.post(
                "/catalogue/deliver",
                Map.of(
                        "shoot",
                        Long.toString(shoot),
                        "destination",
                        "mirror",
                        "form",
                        "JPEG",
                        "quality",
                        "80",
                        "longEdge",
                        "200")));
        LiveApplication.await(
                "the copies", () -> application.get("/runs/" + copies).body().contains("data-standing>finished<"));
        assertThat(application.get("/runs/" + copies).body())
                .contains("The return that this is a copy of was changed by another program.");
        assertThat(files(tree, ".jpg"))
                .as(application.get("/runs/" + copies).body().replaceAll("(?s).*<tbody>(.*)</tbody>.*", "$1"))
                .isEqualTo(1);
        BufferedImage copy = ImageIO.read(tree.resolve("a-denoise-2.jpg").toFile());
        assertThat(Math.max(copy.getWidth(), copy.getHeight())).isEqualTo(200);
        assertThat(files(tree, "b-denoise-2.jpg")).isZero();
        assertThat(application
                        .post(
                                "/catalogue/deliver",
                                Map.of("shoot", Long.toString(shoot), "which", "ticked", "form", "TIFF"))
                        .body())
                .contains("No return is ticked.");
        // Version against version on the bench.
        String compared = application
                .get("/catalogue?shoot=" + shoot)
                .body()
                .transform(body -> Pattern.compile("href=\"(/frames/\\d+\\?with=version:\\d+&amp;show=version:\\d+)\"")
                        .matcher(body)
                        .results()
                        .findFirst()
                        .orElseThrow(() -> new AssertionError("No two versions to compare"))
                        .group(1));
        String bench = application.get(compared.replace("&amp;", "&")).body();
        assertThat(bench).contains("value=\"" + compared.replaceAll(".*with=(version:\\d+)&.*", "$1") + "\"");
        // What is no picture, or cut short, the catalogue puts aside with a reason.
        Files.write(folder.resolve("inbox/cut.dng"), java.util.Arrays.copyOf(Files.readAllBytes(original), 60_000));
        Files.writeString(folder.resolve("inbox/note.dng"), "no picture");
        LiveApplication.await("two refusals", () -> asked("/refused").split("\"why\"").length == 3);
        assertThat(asked("/refused")).contains("Its pixels cannot be decoded.", "no picture of a kind");
        assertThat(Sha256.of(Files.readAllBytes(original))).isEqualTo(before);
        List<Path> mine;
        try (Stream<Path> lying = Files.walk(folder.resolve("photos"))) {
            mine = lying.filter(Files::isRegularFile).toList();
        }
        assertThat(mine).as("beside originals and their sidecar lies nothing").hasSize(3);
        ReturnVerifier.verify(folder.resolve("tree/photos/mere/deep/a-denoise-2.dng"), 400, 300, 1);
    }
}
