package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.OutputStream;
import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermission;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.zip.GZIPOutputStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** Access by password, and the database as a file and back. */
class AccessIT {
    private static final String PASSWORD = "a heron stands still";

    @TempDir
    private Path folder;

    private record Ended(int status, String said) {}

    /** {@code ./sieve} with other words, on the application's home. */
    private Ended sieve(int port, Map<String, String> more, String in, String... words) throws Exception {
        ProcessBuilder builder = new ProcessBuilder(
                java.util.stream.Stream.concat(java.util.stream.Stream.of("../sieve"), java.util.Arrays.stream(words))
                        .toList());
        builder.environment().put("SIEVE_HOME", folder.resolve("home").toString());
        builder.environment().put("SIEVE_PORT", Integer.toString(port));
        builder.environment().put("SIEVE_NO_BUILD", "1");
        builder.environment().putAll(more);
        Path said = Files.createTempFile(folder, "said", ".txt");
        Process process =
                builder.redirectErrorStream(true).redirectOutput(said.toFile()).start();
        process.getOutputStream().write(in.getBytes(StandardCharsets.UTF_8));
        process.getOutputStream().close();
        return new Ended(process.waitFor(), Files.readString(said));
    }

    private LiveApplication live(int frames) throws IOException {
        Path photos = Files.createDirectories(folder.resolve("photos/few"));
        for (int i = 0; i < frames; i++) {
            Files.write(
                    photos.resolve("A_" + i + ".dng"), PlainFrames.frame(SimulatedCamera.PILBO_S, 800, 320, 240, 2));
        }
        return new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString(), "SIEVE_KEEP_DB", "1"));
    }

    /** One browser: its cookies, and forms with the token of the page they stand on. */
    private static final class Visitor {
        private final CookieManager cookies = new CookieManager();
        private final HttpClient client =
                HttpClient.newBuilder().cookieHandler(cookies).build();
        private final LiveApplication application;

        Visitor(LiveApplication application) {
            this.application = application;
        }

        HttpResponse<String> get(String path) throws Exception {
            return client.send(
                    HttpRequest.newBuilder(URI.create(application.url(path))).build(),
                    HttpResponse.BodyHandlers.ofString());
        }

        HttpResponse<String> signIn(String password) throws Exception {
            return post("/sign-in", token(), password);
        }

        String token() throws Exception {
            return pageToken("/sign-in");
        }

        String pageToken(String page) throws Exception {
            Matcher token = Pattern.compile("name=\"_csrf\" value=\"([^\"]+)\"")
                    .matcher(get(page).body());
            assertThat(token.find()).isTrue();
            return token.group(1);
        }

        HttpResponse<String> post(String path, String token, String password) {
            return send(path, "_csrf=" + token + "&username=photographer&password=" + password.replace(' ', '+'));
        }

        HttpResponse<String> send(String path, String form) {
            try {
                return client.send(
                        HttpRequest.newBuilder(URI.create(application.url(path)))
                                .header("Content-Type", "application/x-www-form-urlencoded")
                                .POST(HttpRequest.BodyPublishers.ofString(form))
                                .build(),
                        HttpResponse.BodyHandlers.ofString());
            } catch (IOException | InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }

        String session() {
            return cookies.getCookieStore().getCookies().stream()
                    .filter(cookie -> cookie.getName().contains("SESSION"))
                    .map(cookie -> cookie.getName() + "=" + cookie.getValue())
                    .findFirst()
                    .orElse("");
        }
    }

    private static int status(Visitor visitor) {
        try {
            return visitor.get("/shoots").statusCode();
        } catch (Exception e) {
            throw new IllegalStateException(e);
        }
    }

    private static String to(HttpResponse<String> answer) {
        return answer.headers().firstValue("Location").orElse("");
    }

    @Test
    void passwordBackupAndRestore() throws Exception {
        Path backup = folder.resolve("kept.sql.gz");
        try (LiveApplication application = live(2)) {
            application.takeIn("few");
            assertThat(application.get("/health").body()).contains("\"state\":\"up\"");
            assertThat(application.get("/metrics").body()).contains("sieve_workers 1");

            // Listening elsewhere asks for a password first.
            Ended refused = sieve(
                    LiveApplication.freePort(),
                    Map.of(
                            "SIEVE_ADDRESS",
                            "0.0.0.0",
                            "SIEVE_WORKERS",
                            "0",
                            "SIEVE_HOME",
                            folder.resolve("another").toString(),
                            "SIEVE_DB_PORT",
                            Integer.toString(LiveApplication.freePort())),
                    "",
                    "serve");
            assertThat(refused.status()).isNotZero();
            assertThat(refused.said()).contains("Set a password first");
            // A second one on the same home would end the first one's database.
            Ended second = sieve(LiveApplication.freePort(), Map.of("SIEVE_WORKERS", "0"), "", "serve");
            assertThat(second.status()).isNotZero();
            assertThat(second.said()).contains("at work").contains("SIEVE_HOME");
            assertThat(application.get("/shoots").statusCode()).isEqualTo(200);

            assertThat(sieve(application.port, Map.of(), "short\n", "password").said())
                    .contains("at least 10 characters");
            assertThat(application.get("/shoots").statusCode()).isEqualTo(200);
            assertThat(sieve(application.port, Map.of(), PASSWORD + "\n", "password")
                            .said())
                    .contains("The password is set");
            LiveApplication.await(
                    "the password to be asked for",
                    () -> application.get("/shoots").statusCode() == 302);

            Visitor visitor = new Visitor(application);
            for (String path :
                    List.of("/shoots", "/frames/1", "/frames/1/picture/after", "/runs", "/folders?root=0&path=")) {
                HttpResponse<String> answer = visitor.get(path);
                assertThat(answer.statusCode()).as(path).isEqualTo(302);
                assertThat(to(answer)).contains("/sign-in");
            }
            assertThat(visitor.get("/health").statusCode()).isEqualTo(200);
            String before = visitor.session();
            HttpResponse<String> in = visitor.signIn(PASSWORD);
            assertThat(to(in)).endsWith("/shoots");
            // The session that was begun before signing in is worth nothing after it.
            assertThat(visitor.session()).isNotEmpty().isNotEqualTo(before);
            assertThat(in.headers().firstValue("Set-Cookie").orElse("")).contains("HttpOnly", "SameSite=Strict");
            assertThat(visitor.get("/shoots").statusCode()).isEqualTo(200);

            // An outside program hands files over without a password, as it can read the home folder.
            Ended opened = sieve(
                    application.port,
                    Map.of(),
                    "",
                    "open",
                    folder.resolve("photos/few/A_0.dng").toString());
            assertThat(opened.said()).contains("/frames/");
            assertThat(Files.getPosixFilePermissions(folder.resolve("home/open.token")))
                    .containsExactlyInAnyOrder(PosixFilePermission.OWNER_READ, PosixFilePermission.OWNER_WRITE);
            assertThat(application.status("GET /metrics", "X-Forwarded-For: 127.0.0.1"))
                    .as("passed on by somebody")
                    .contains(" 302");
            assertThat(application.status("GET /shoots", "Host: photos.example"))
                    .contains(" 403");

            // Another password, set on the page by whoever knows the one until now, ends what was begun with the old
            // one.
            String form = visitor.pageToken("/set-up");
            assertThat(visitor.send(
                                    "/password",
                                    "_csrf=" + form
                                            + "&now=a+wrong+guess&next=another+heron+flies&again=another+heron+flies")
                            .body())
                    .contains("That is not the password until now");
            assertThat(status(visitor)).isEqualTo(200);
            assertThat(visitor.send(
                                    "/password",
                                    "_csrf=" + form + "&now=" + PASSWORD.replace(' ', '+')
                                            + "&next=another+heron+flies&again=another+heron+flies")
                            .statusCode())
                    .isEqualTo(302);
            LiveApplication.await("old sessions to end", () -> status(visitor) == 302);
            assertThat(to(new Visitor(application).signIn(PASSWORD))).contains("wrong");
            assertThat(sieve(application.port, Map.of(), PASSWORD + "\n", "password")
                            .said())
                    .contains("The password is set");

            // Sixty guesses at once, under a name of the page that is spelled otherwise: no more than five are looked
            // at.
            Visitor guesser = new Visitor(application);
            String token = guesser.token();
            List<CompletableFuture<String>> guesses = new ArrayList<>();
            for (int i = 0; i < 60; i++) {
                String word = "guess number " + i;
                guesses.add(CompletableFuture.supplyAsync(() -> to(guesser.post("/%73ign-in", token, word))));
            }
            long evaluated = guesses.stream()
                    .map(CompletableFuture::join)
                    .filter(where -> where.contains("wrong"))
                    .count();
            assertThat(evaluated).isLessThanOrEqualTo(5);
            HttpResponse<String> waiting = guesser.signIn(PASSWORD);
            assertThat(to(waiting)).contains("wait=");
            assertThat(waiting.headers().firstValue("Retry-After")).isPresent();
            assertThat(guesser.get("/shoots").statusCode()).isEqualTo(302);

            assertThat(sieve(application.port, Map.of(), "", "backup", backup.toString())
                            .said())
                    .contains("Everything the database holds");
            assertThat(sieve(application.port, Map.of(), "", "backup", backup.toString())
                            .said())
                    .contains("exists already");
            assertThat(sieve(application.port, Map.of(), "", "restore", backup.toString())
                            .said())
                    .contains("is running");
            sieve(application.port, Map.of(), "", "password", "--remove");
            LiveApplication.await(
                    "the password to be gone", () -> application.get("/shoots").statusCode() == 200);
            Files.createDirectories(folder.resolve("photos/more"));
            Files.write(
                    folder.resolve("photos/more/M.dng"), PlainFrames.frame(SimulatedCamera.PILBO_S, 800, 320, 240, 4));
            application.takeIn("more");
            assertThat(application.get("/shoots").body()).contains(">more<", ">few<");
        }
        // A cut backup is refused; restoring brings back what was, without what was taken in after it.
        Path cut = folder.resolve("cut.sql.gz");
        byte[] whole = Files.readAllBytes(backup);
        Files.write(cut, java.util.Arrays.copyOf(whole, whole.length / 2));
        int port = LiveApplication.freePort();
        assertThat(sieve(port, Map.of(), "", "restore", cut.toString()).said()).contains("no complete backup");
        // Nor is one that is not ours, nor are commands for the client carried out that somebody put into one.
        Path trap = folder.resolve("trap.sql.gz");
        Path sprung = folder.resolve("sprung");
        try (OutputStream out = new GZIPOutputStream(Files.newOutputStream(trap))) {
            out.write(("\\! touch " + sprung + "\nsystem touch " + sprung + "\nCREATE TABLE frame (id INT);\n"
                            + "-- Dump completed on 2026-05-01\n")
                    .getBytes(StandardCharsets.UTF_8));
        }
        assertThat(sieve(port, Map.of(), "", "restore", trap.toString()).said()).contains("no whole database");
        assertThat(sprung).doesNotExist();
        Ended restored = sieve(port, Map.of(), "", "restore", backup.toString());
        assertThat(restored.status()).as(restored.said()).isZero();
        assertThat(restored.said()).contains("Restored from");
        try (LiveApplication application = live(0)) {
            // The backup was made while a password was set.
            Visitor visitor = new Visitor(application);
            assertThat(to(visitor.signIn(PASSWORD))).endsWith("/shoots");
            assertThat(visitor.get("/shoots").body()).contains(">few<").doesNotContain(">more<");
        } finally {
            sieve(port, Map.of(), "", "db-stop");
        }
    }
}
