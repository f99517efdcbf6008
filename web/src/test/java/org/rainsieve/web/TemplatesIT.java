package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/**
 * Every page in every state that data brings it into, names with apostrophes, angle brackets and braces among them: a template that
 * breaks off in the middle sends half a page with a good status, so each is looked at for its end.
 */
class TemplatesIT {
    /** Letters that end strings, tags and expressions where somebody forgot them. */
    private static final String ODD = "O'Hara \"${7*7}\" <b>[[&]]</b>";

    /** Parts of other pages, which are never a page themselves; and what is asked for only with a password (AccessIT). */
    private static final List<String> ELSEWHERE = List.of("column", "delivery", "folders", "layout", "mesh", "sign-in");

    @TempDir
    private static Path folder;

    private static LiveApplication application;
    private final TreeSet<String> seen = new TreeSet<>();

    @BeforeAll
    static void start() throws IOException {
        Path photos = Files.createDirectories(folder.resolve("photos").resolve(ODD.replace("/", "-")));
        for (int i = 0; i < 4; i++) {
            int noiseIso = i == 3 ? 6400 : 1600;
            Files.write(
                    photos.resolve(i + " " + ODD.replace("/", "-") + ".dng"),
                    PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, noiseIso, 1200, 900, i == 3 ? 7 : 2 * i));
        }
        Files.writeString(photos.resolve("letter '" + ".dng"), "no picture");
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString(), "SIEVE_WORKERS", "0"));
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    /** @param template that the page is made of */
    private String whole(String template, HttpResponse<String> answer) {
        String body = answer.body();
        assertThat(body.stripTrailing())
                .as("%s, %s", template, answer.uri())
                .startsWith("<!doctype html>")
                .endsWith("</html>")
                .doesNotContain("\"49\"", "<b>[[")
                .contains("</main>");
        seen.add(template);
        return body;
    }

    /** As a browser asks. */
    private String whole(String template, String path) {
        return whole(
                template,
                application.send(HttpRequest.newBuilder(URI.create(application.url(path)))
                        .header("Accept", "text/html")
                        .build()));
    }

    @Test
    void everyTemplateInEveryState() throws Exception {
        // Nothing there yet.
        for (String empty : List.of("shoots", "book", "runs", "catalogue", "set-up")) {
            whole(empty, "/" + empty);
        }
        whole("error", "/nowhere");
        // Taken in, and nobody has read it.
        long shoot = LiveApplication.idOf(application.post(
                "/shoots", Map.of("root", "0", "path", ODD.replace("/", "-"), "name", "The shoot of " + ODD)));
        whole("shoots", "/shoots");
        whole("shoot", "/shoots/" + shoot);
        List<Long> frames = frames(shoot);
        whole("frame-waiting", "/frames/" + frames.get(0));
        application.worker("-XX:TieredStopAtLevel=1");
        LiveApplication.await(
                "the frames to be read",
                () -> application.get("/shoots/" + shoot + "/standing").body().contains("\"unread\":0"));
        // Read: good ones, one that stands out, one that was refused.
        String page = whole("shoot", "/shoots/" + shoot);
        assertThat(page).contains("data-stray", "This is a text file");
        whole("shoot", "/shoots/" + shoot + "?camera=Pilbo%20S&iso=1600&each=true");
        for (long frame : frames) {
            HttpResponse<String> answer = application.get("/frames/" + frame);
            whole(answer.body().contains("data-steps") ? "frame" : "frame-waiting", answer);
        }
        whole("strip", "/frames/" + frames.get(0) + "/strip");
        whole("burst", "/frames/" + frames.get(0) + "/burst");
        whole("book", "/book?camera=Pilbo%20S");
        held(shoot, page);
        // Changed for the whole camera; then by two at once.
        Map<String, String> steps = steps(frames.get(0));
        String stale = steps.get("version");
        application.post("/frames/" + frames.get(0) + "/settings", steps);
        whole("book", "/book?camera=Pilbo%20S");
        whole("frame", "/frames/" + frames.get(0));
        steps.put("grainKept", "71");
        steps.put("version", stale);
        whole("book-conflict", application.post("/frames/" + frames.get(0) + "/settings", steps));
        steps.put("method", ODD);
        whole("problem", application.post("/frames/" + frames.get(0) + "/settings", steps));
        String exported = application.get("/book/file?camera=Pilbo%20S").body();
        whole(
                "book-import",
                application.post(
                        "/book/import",
                        Map.of(
                                "camera",
                                "Pilbo S",
                                "text",
                                exported.replaceAll("\"grainKeptPercent\" ?: ?[\\d.]+", "\"grainKeptPercent\":33"))));
        // A run in all its states.
        long run = LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(shoot), "forms", "DNG,JPEG")));
        whole("run", "/runs/" + run);
        for (String action : List.of("pause", "resume")) {
            application.post("/runs/" + run + "/" + action, Map.of());
            whole("run", "/runs/" + run);
            whole("runs", "/runs");
        }
        LiveApplication.await(
                "the run", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        String finished = whole("run", "/runs/" + run);
        assertThat(finished).contains("data-morning");
        Matcher returned = Pattern.compile("/returns/(\\d+)").matcher(finished);
        assertThat(returned.find()).isTrue();
        whole("compare", "/returns/" + returned.group(1));
        whole("catalogue", "/catalogue?shoot=" + shoot);
        application.post("/runs/" + run + "/discard", Map.of());
        whole("run", "/runs/" + run);
        whole("catalogue", "/catalogue?shoot=" + shoot);
        whole("shoots", "/shoots");

        try (Stream<Path> templates = Files.list(Path.of("src/main/resources/templates"))) {
            assertThat(seen)
                    .as("every template was looked at")
                    .containsAll(templates
                            .map(file -> file.getFileName().toString().replace(".html", ""))
                            .filter(name -> !ELSEWHERE.contains(name))
                            .collect(Collectors.toSet()));
        }
    }

    /** Held back, and taken along again. */
    private void held(long shoot, String page) {
        Matcher group = Pattern.compile("name=\"frames\" value=\"([\\d,]+)\"").matcher(page);
        assertThat(group.find()).isTrue();
        for (String decision : List.of("hold", "follow")) {
            application.post("/shoots/" + shoot + "/decide", Map.of("frames", group.group(1), "decision", decision));
            whole("shoot", "/shoots/" + shoot);
        }
    }

    private static List<Long> frames(long shoot) {
        return Pattern.compile("\"id\":(\\d+),\"name\"")
                .matcher(application.get("/shoots/" + shoot + "/sheet").body())
                .results()
                .map(match -> Long.valueOf(match.group(1)))
                .toList();
    }

    private static Map<String, String> steps(long frame) {
        Map<String, String> steps = new LinkedHashMap<>();
        for (String pair :
                ("on=true method=Quick grainKept=25 colourNoiseKept=0 detail=0 more=true sharpen=true soft=1.3 disc=0"
                                + " line=0 angle=0 corners=0 fine=80 coarse=40 rim=4 lens=matched distortion=100 fringes=100 shading=100"
                                + " left=0 top=0 width=100 height=100 turn=0 aspect=free target=camera")
                        .split(" ")) {
            steps.put(pair.substring(0, pair.indexOf('=')), pair.substring(pair.indexOf('=') + 1));
        }
        Matcher version = Pattern.compile("name=\"version\" value=\"(\\d+)\"")
                .matcher(application.get("/frames/" + frame).body());
        assertThat(version.find()).isTrue();
        steps.put("version", version.group(1));
        return steps;
    }
}
