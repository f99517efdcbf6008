package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** What the application refuses, and what it says then. */
class DefenceIT {
    @TempDir
    static Path folder;

    private static LiveApplication application;
    private static long shoot;

    @BeforeAll
    static void start() throws IOException {
        Files.createDirectories(folder.resolve("photos/inside"));
        Files.createDirectories(folder.resolve("elsewhere"));
        Files.createSymbolicLink(folder.resolve("photos/link"), folder.resolve("elsewhere"));
        application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString()));
        Files.writeString(
                Files.createDirectories(folder.resolve("photos/taken")).resolve("a.dng"), "no raw file");
        shoot = application.takeIn("taken");
    }

    @AfterAll
    static void stop() {
        if (application != null) {
            application.close();
        }
    }

    @Test
    void onlyOurOwnNameIsAnswered() throws IOException {
        assertThat(application.status("GET /shoots")).contains("200");
        assertThat(application.status("GET /shoots", "Host: localhost:" + application.port))
                .contains("200");
        assertThat(application.status("GET /shoots", "Host: photos.example:" + application.port))
                .contains("403");
        assertThat(application.status("GET /shoots", "Host: 127.0.0.1.example")).contains("403");
        assertThat(application.status("GET /shoots", "X-Forwarded-For: 192.0.2.7"))
                .as("without a password for this machine only")
                .contains("403");
    }

    @Test
    void changesNeedATokenAndOurOrigin() {
        HttpRequest.Builder bare = HttpRequest.newBuilder(URI.create(application.url("/shoots")))
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString("root=0&path=inside"));
        assertThat(application.send(bare.build()).statusCode()).isEqualTo(403);
        HttpRequest foreign = HttpRequest.newBuilder(URI.create(application.url("/shoots")))
                .header("Origin", "https://elsewhere.example")
                .build();
        assertThat(application.send(foreign).statusCode()).isEqualTo(403);
    }

    @Test
    void pagesAllowOnlyOurOwnScripts() {
        HttpResponse<String> page = application.get("/shoots");
        assertThat(page.headers().firstValue("Content-Security-Policy").orElse(""))
                .contains("default-src 'none'", "script-src 'self'", "frame-ancestors 'none'")
                .doesNotContain("unsafe");
        assertThat(page.headers().firstValue("X-Content-Type-Options")).hasValue("nosniff");
        assertThat(page.body()).doesNotContainPattern("<script(?![^>]*src=)").doesNotContain(" style=");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "..",
                "../elsewhere",
                "inside/../../elsewhere",
                "/etc",
                "link",
                "inside/./..",
                "C:\\photos",
                "..\\elsewhere",
                "%2e%2e",
                "inside\0",
                "\\\\server\\share",
                ".rain-sieve-tmp",
                "nowhere"
            })
    void pathsStayBelowTheirRoot(String path) {
        String encoded = URLEncoder.encode(path, StandardCharsets.UTF_8);
        HttpResponse<String> listed = application.get("/folders?root=0&path=" + encoded);
        assertThat(listed.statusCode()).isBetween(400, 499);
        assertThat(listed.body()).doesNotContain("elsewhere", "passwd", "Exception", "org.rainsieve");
        HttpResponse<String> taken = application.post("/shoots", Map.of("root", "0", "path", path));
        assertThat(taken.statusCode()).isBetween(400, 499);
        HttpResponse<String> moved =
                application.post("/shoots/" + shoot + "/relocate", Map.of("root", "0", "path", path));
        assertThat(moved.statusCode()).isBetween(400, 499);
        HttpResponse<String> opened = application.post("/intake/open", Map.of("file", "/" + path));
        assertThat(opened.statusCode()).isBetween(400, 499);
    }

    /** Handed over at once, files of one folder make one shoot; a pipe called like a raw file is refused and holds nobody up. */
    @Test
    void oneFolderIsOneShoot() throws Exception {
        Path together = Files.createDirectories(folder.resolve("photos/together"));
        List<CompletableFuture<HttpResponse<String>>> answers = new ArrayList<>();
        for (int i = 0; i < 4; i++) {
            Path file = together.resolve("T_" + i + ".dng");
            Files.write(file, PlainFrames.frame(SimulatedCamera.PILBO_S, 800, 320, 240, 2 * i));
        }
        assertThat(new ProcessBuilder("mkfifo", together.resolve("pipe.dng").toString())
                        .start()
                        .waitFor())
                .isZero();
        for (int i = 0; i < 4; i++) {
            Map<String, String> form =
                    Map.of("file", together.resolve("T_" + i + ".dng").toString());
            answers.add(CompletableFuture.supplyAsync(() -> application.post("/intake/open", form)));
        }
        for (CompletableFuture<HttpResponse<String>> answer : answers) {
            assertThat(answer.join().statusCode()).isEqualTo(200);
        }
        assertThat(application.get("/shoots").body()).containsOnlyOnce(">together<");
        long id = application.takeIn("together");
        assertThat(application.get("/shoots/" + id).body()).contains("pipe.dng", "not an ordinary file");
        // A form that is sent several times at once starts one run.
        Map<String, String> form = Map.of("shoot", Long.toString(id), "once", "a word of the form");
        List<CompletableFuture<HttpResponse<String>>> starts = new ArrayList<>();
        for (int i = 0; i < 4; i++) {
            starts.add(CompletableFuture.supplyAsync(() -> application.post("/runs", form)));
        }
        assertThat(starts.stream()
                        .map(start ->
                                start.join().headers().firstValue("Location").orElse(""))
                        .distinct())
                .singleElement()
                .asString()
                .contains("/runs/");
    }

    @Test
    void rootsThatDoNotExistAreRefused() {
        for (String root : new String[] {"7", "-2", "99999999999", "x"}) {
            assertThat(application.get("/folders?root=" + root + "&path=").statusCode())
                    .isIn(200, 400, 422);
            assertThat(application
                            .post("/shoots", Map.of("root", root, "path", ""))
                            .statusCode())
                    .isBetween(400, 499);
        }
    }

    @Test
    void errorsSayNothingOfTheInside() {
        for (String path :
                new String[] {"/nothing", "/shoots/999", "/runs/999", "/returns/999", "/returns/1/other", "/shoots/x"
                }) {
            HttpResponse<String> answer = application.get(path);
            assertThat(answer.statusCode()).isIn(400, 404);
            assertThat(answer.body()).doesNotContain("Exception", "org.rainsieve", "\tat ", folder.toString());
        }
    }

    /** Bad input in a folder: each listed with its reason, the rest goes through, and names are shown as text. */
    @Test
    void badFilesAreListedWithTheirReasons() throws Exception {
        Path shoot = Files.createDirectories(folder.resolve("photos/Mixed & <b>bold äöü"));
        byte[] good = PlainFrames.frame(SimulatedCamera.PILBO_S, 800, 320, 240, 4);
        Files.write(shoot.resolve("good one ä.dng"), good);
        Files.write(shoot.resolve("<img src=x onerror=alert(1)>.dng"), new byte[0]);
        Files.writeString(shoot.resolve("text.dng"), "Only words.");
        Files.write(shoot.resolve("short.dng"), java.util.Arrays.copyOf(good, good.length / 2));
        Files.createDirectories(shoot.resolve("folder.dng"));
        // Two names that are no UTF-8, which look alike; one that is as long as names can be; a path beyond what is
        // kept.
        Files.write(shoot.resolve("l".repeat(251) + ".dng"), good);
        String deepest = "d".repeat(240);
        assertThat(new ProcessBuilder(
                                "bash",
                                "-c",
                                "cp short.dng $'x\\xff.dng'; cp short.dng $'x\\xfe.dng'; for i in 1 2 3 4 5 6 7 8 9; do mkdir "
                                        + deepest + "; cd " + deepest + "; done; echo far > far.dng")
                        .directory(shoot.toFile())
                        .start()
                        .waitFor())
                .isZero();
        long id = LiveApplication.idOf(application.post(
                "/shoots", Map.of("root", "0", "path", shoot.getFileName().toString(), "deep", "true")));
        LiveApplication.await(
                "frames to be read",
                () -> application.get("/shoots/" + id + "/standing").body().contains("\"unread\":0"));
        String page = application.get("/shoots/" + id).body();
        assertThat(page.split("is no readable text", -1)).as("both of them").hasSize(3);
        assertThat(application.get("/shoots/" + id + "/sheet").body()).contains("l".repeat(251) + ".dng");
        assertThat(page)
                .contains(
                        "The file is empty.",
                        "This is a text file",
                        "the file is cut short",
                        "This is a folder, not a file.",
                        "longer than 2,000 letters")
                .contains("7 files", "&lt;img src=x")
                .doesNotContain("<img src=x");
        assertThat(application.get("/shoots/" + id + "/sheet").body())
                .contains("good one ä.dng")
                .doesNotContain("onerror");
    }

    /** A name that holds line ends and quotes is a name in a download, too, and never a header. */
    @Test
    void namesAreNoHeaders() throws IOException {
        Path shoot = Files.createDirectories(folder.resolve("photos/lines"));
        Files.write(
                shoot.resolve("a\r\nX-Evil: 1\";x=\".dng"),
                PlainFrames.frame(SimulatedCamera.PILBO_S, 800, 320, 240, 4));
        long id = application.takeIn("lines");
        long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", Long.toString(id))));
        LiveApplication.await(
                "the run", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        Matcher item = Pattern.compile("href=\"/returns/(\\d+)\"")
                .matcher(application.get("/runs/" + run).body());
        assertThat(item.find()).isTrue();
        for (String path : new String[] {
            "/returns/" + item.group(1) + "/file",
            "/returns/" + item.group(1) + "/deliver?form=JPEG",
            "/book/file?camera=" + "x%0d%0aX-Evil:%201%22",
            "/book/starter-file?name=" + "x%0d%0aX-Evil:%201%22"
        }) {
            HttpResponse<String> answer = application.get(path);
            assertThat(answer.headers().map().keySet())
                    .as(path)
                    .noneMatch(name -> name.toLowerCase(Locale.ROOT).contains("evil"));
            answer.headers()
                    .firstValue("Content-Disposition")
                    .ifPresent(
                            value -> assertThat(value).startsWith("attachment").doesNotContain("\r", "\n", "1\";x"));
        }
    }

    /** What announces more than is read is refused before it comes; JSON that is nothing but depth is no settings. */
    @Test
    void uploadsAndJsonHaveTheirLimits() throws IOException {
        String upload =
                application.post("/intake/uploads", Map.of("name", "huge")).body();
        Matcher number = Pattern.compile("\\d+").matcher(upload);
        assertThat(number.find()).as(upload).isTrue();
        String answer = application.announce("/intake/uploads/" + number.group() + "?name=huge.dng", 2L << 30);
        assertThat(answer).contains(" 422 ").contains("larger than 1 GiB");
        String deep = "[".repeat(100_000);
        for (String text :
                new String[] {deep, "{\"kind\":\"rain-sieve-page\",\"page\":" + deep, "{\"a\":".repeat(100_000)}) {
            HttpResponse<String> refused = application.post("/book/import", Map.of("camera", "Pilbo S", "text", text));
            assertThat(refused.statusCode()).isEqualTo(422);
            assertThat(refused.body()).doesNotContain("Exception", "\tat ");
        }
    }

    /** Clients that begin a sign-in and never end it take nobody's place: a page comes while all of them still hang. */
    @Test
    void slowClientsStallNobody() throws IOException {
        List<Socket> slow = new ArrayList<>();
        try {
            for (int i = 0; i < 230; i++) {
                Socket socket = new Socket("127.0.0.1", application.port);
                slow.add(socket);
                socket.getOutputStream()
                        .write(("POST /sign-in HTTP/1.1\r\nHost: 127.0.0.1:" + application.port
                                        + "\r\nContent-Type: application/x-www-form-urlencoded\r\n"
                                        + "Content-Length: 900\r\n\r\npassword=")
                                .getBytes(StandardCharsets.US_ASCII));
            }
            assertThat(application.get("/shoots").statusCode()).isEqualTo(200);
            int hanging = 0;
            for (Socket socket : slow) {
                socket.setSoTimeout(1);
                try {
                    socket.getInputStream().read();
                } catch (SocketTimeoutException e) {
                    hanging++;
                }
            }
            assertThat(hanging).as("clients that have no answer yet").isEqualTo(slow.size());
        } finally {
            for (Socket socket : slow) {
                socket.close();
            }
        }
    }

    /** Pages whose reader has gone to sleep take what they are sent as far as it goes; everybody else's progress goes on. */
    @Test
    void readersThatNeverReadHoldUpNobody() throws Exception {
        Files.write(
                Files.createDirectories(folder.resolve("photos/long")).resolve("L.dng"),
                PlainFrames.frame(SimulatedCamera.PILBO_S, 1600, 300, 200, 1));
        long of = application.takeIn("long");
        long run = LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(of), "destination", "beside")));
        LiveApplication.await(
                "the run to end", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
        try (Connection connection = application.database();
                Statement sql = connection.createStatement()) {
            // Paused, and as long as a night: what is told of it fills every buffer on the way.
            sql.execute("UPDATE run SET state = 'paused' WHERE id = " + run);
            sql.execute(
                    "INSERT INTO item (run_id, frame_id, settings, made_from) SELECT run_id, frame_id, settings, seq"
                            + " FROM item, seq_1_to_40000 WHERE run_id = " + run);
        }
        List<Socket> asleep = new ArrayList<>();
        try {
            for (int i = 0; i < 20; i++) {
                Socket socket = new Socket();
                socket.setReceiveBufferSize(4096);
                socket.connect(new InetSocketAddress("127.0.0.1", application.port));
                asleep.add(socket);
                socket.getOutputStream()
                        .write(("GET /runs/" + run + "/events HTTP/1.1\r\nHost: 127.0.0.1:" + application.port
                                        + "\r\n\r\n")
                                .getBytes(StandardCharsets.US_ASCII));
            }
            HttpResponse<InputStream> events = HttpClient.newHttpClient()
                    .send(
                            HttpRequest.newBuilder(URI.create(
                                            application.url("/runs/" + run + "/events?since=2100-01-01%2000:00:00")))
                                    .build(),
                            HttpResponse.BodyHandlers.ofInputStream());
            try (BufferedReader reader =
                    new BufferedReader(new InputStreamReader(events.body(), StandardCharsets.UTF_8))) {
                assertThat(reader.lines()
                                .filter(line -> line.startsWith("data:"))
                                .limit(3))
                        .hasSize(3);
            }
            assertThat(application.get("/shoots").statusCode()).isEqualTo(200);
        } finally {
            for (Socket socket : asleep) {
                socket.close();
            }
        }
    }
}
