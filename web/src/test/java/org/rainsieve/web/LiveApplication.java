package org.rainsieve.web;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.net.CookieManager;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The real application, started by {@code ./sieve} with its own database and folders, and driven over HTTP. */
final class LiveApplication implements AutoCloseable {
    private static final Path PROJECT = Path.of("..").toAbsolutePath().normalize();
    private static final Path UNPACKED = Path.of("target", "app").toAbsolutePath();
    /** Tests wait for starts more than for work: quick to start goes before quick in the long run. */
    private static final String QUICK_START = "-XX:TieredStopAtLevel=1";

    private static final int PORTS = 2000;
    private static final int FIRST_PORT = 20_000 + PORTS * Integer.getInteger("sieve.fork", 1);
    private static int nextPort;

    private static final Duration LONGEST = Duration.ofMinutes(
            4 + Integer.getInteger("sieve.chaos.frames", 0) / 20 + 3 * Integer.getInteger("sieve.memory.frames", 0));

    final Path home;
    final int port;
    private final Process server;
    private final Map<String, String> settings;
    private final List<Process> workers = new ArrayList<>();
    private final HttpClient client =
            HttpClient.newBuilder().cookieHandler(new CookieManager()).build();

    /** @param command {@code demo} or {@code serve} */
    LiveApplication(String command, Path home, Map<String, String> more) throws IOException {
        this.home = home;
        this.settings = more;
        this.port = freePort();
        ProcessBuilder builder = new ProcessBuilder(PROJECT.resolve("sieve").toString(), command);
        builder.environment().put("SIEVE_HOME", home.toString());
        builder.environment().put("SIEVE_PORT", Integer.toString(port));
        builder.environment().put("SIEVE_DB_PORT", Integer.toString(freePort()));
        builder.environment().put("SIEVE_NO_BUILD", "1");
        builder.environment().put("SIEVE_WEB_OPTIONS", QUICK_START);
        // Two applications at a time: a polite worker would wait for the other's test.
        builder.environment().put("SIEVE_NICE", "0");
        builder.environment().put("SIEVE_TRIAL", "false");
        if (command.equals("demo")) {
            builder.environment().put("SIEVE_CATALOGUE", "http://127.0.0.1:" + freePort());
        }
        builder.environment().putAll(more);
        Files.createDirectories(home);
        builder.redirectErrorStream(true)
                .redirectOutput(home.resolve("sieve.log").toFile());
        server = builder.start();
        await("the application to start", () -> {
            if (!server.isAlive()) {
                throw new IllegalStateException("./sieve " + command + " ended: " + read(home.resolve("sieve.log")));
            }
            return read(home.resolve("sieve.log")).contains("Rain Sieve is at");
        });
    }

    /** A port that no other test process takes in the meantime: each has a range of its own, below those that systems give out. */
    static synchronized int freePort() {
        while (true) {
            int port = FIRST_PORT + nextPort++ % PORTS;
            try (ServerSocket socket = new ServerSocket(port)) {
                return socket.getLocalPort();
            } catch (IOException e) {
                continue; // somebody else's
            }
        }
    }

    static String read(Path file) {
        try {
            return Files.exists(file) ? Files.readString(file) : "";
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Waits as long as the slowest machine may need; a test that waits in vain has failed anyway. */
    static void await(String what, BooleanSupplier condition) {
        long until = System.nanoTime() + LONGEST.toNanos();
        while (!condition.getAsBoolean()) {
            if (System.nanoTime() > until) {
                throw new AssertionError("Waited in vain for " + what);
            }
            try {
                Thread.sleep(100);
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    String url(String path) {
        return "http://127.0.0.1:" + port + path;
    }

    /** The status line of an answer to a request with headers that a client of the library would not send. */
    String status(String request, String... headers) throws IOException {
        String host = Stream.of(headers).anyMatch(h -> h.startsWith("Host:")) ? "" : "Host: 127.0.0.1:" + port + "\r\n";
        try (Socket socket = new Socket("127.0.0.1", port)) {
            socket.getOutputStream()
                    .write((request + " HTTP/1.1\r\n" + host + String.join("\r\n", headers)
                                    + "\r\nConnection: close\r\n\r\n")
                            .getBytes(StandardCharsets.UTF_8));
            return new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8))
                    .readLine();
        }
    }

    HttpResponse<String> get(String path) {
        return send(HttpRequest.newBuilder(URI.create(url(path))).build());
    }

    HttpResponse<String> send(HttpRequest request) {
        try {
            return client.send(request, HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private String token() {
        Matcher token = Pattern.compile("name=\"csrf\" content=\"([^\"]+)\"")
                .matcher(get("/runs").body());
        if (!token.find()) {
            throw new AssertionError("The page holds no CSRF token");
        }
        return token.group(1);
    }

    /** Posts a form as a page of the application would, with its CSRF token. */
    HttpResponse<String> post(String path, Map<String, String> fields) {
        StringBuilder body = new StringBuilder("_csrf=" + token());
        fields.forEach((name, value) ->
                body.append('&').append(name).append('=').append(URLEncoder.encode(value, StandardCharsets.UTF_8)));
        return send(HttpRequest.newBuilder(URI.create(url(path)))
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString(body.toString()))
                .build());
    }

    /** Sends bytes as the body, with the page's CSRF token as scripts do. */
    HttpResponse<String> postBytes(String path, byte[] body) {
        return send(HttpRequest.newBuilder(URI.create(url(path)))
                .header("Content-Type", "application/octet-stream")
                .header("X-CSRF-TOKEN", token())
                .POST(HttpRequest.BodyPublishers.ofByteArray(body))
                .build());
    }

    /** Announces a body of that length, sends a little of it and tells what is answered. */
    String announce(String path, long length) throws IOException {
        String token = token();
        String cookies = ((CookieManager) client.cookieHandler().orElseThrow())
                .getCookieStore().getCookies().stream()
                        .map(cookie -> cookie.getName() + "=" + cookie.getValue())
                        .collect(Collectors.joining("; "));
        try (Socket socket = new Socket("127.0.0.1", port)) {
            socket.getOutputStream()
                    .write(("POST " + path + " HTTP/1.1\r\nHost: 127.0.0.1:" + port + "\r\nCookie: " + cookies
                                    + "\r\nX-CSRF-TOKEN: " + token
                                    + "\r\nContent-Type: application/octet-stream\r\nConnection: close\r\nContent-Length: "
                                    + length + "\r\n\r\nsome")
                            .getBytes(StandardCharsets.UTF_8));
            // The rest is not waited for: the application would like to see it, if only to throw it away.
            StringBuilder answer = new StringBuilder();
            byte[] some = new byte[4096];
            for (int n; answer.indexOf("\r\n\r\n") < 0 || answer.toString().endsWith("\r\n\r\n"); ) {
                n = socket.getInputStream().read(some);
                if (n < 0) {
                    break;
                }
                answer.append(new String(some, 0, n, StandardCharsets.UTF_8));
            }
            return answer.toString();
        }
    }

    /** The number at the end of the address that an answer redirects to. */
    static long idOf(HttpResponse<String> redirect) {
        String to = redirect.headers().firstValue("Location").orElseThrow(() -> new AssertionError(redirect.body()));
        return Long.parseLong(to.substring(to.lastIndexOf('/') + 1));
    }

    /** Whether that process belongs to this application. */
    boolean started(ProcessHandle process) {
        return server.descendants().anyMatch(process::equals);
    }

    /** The worker that {@code ./sieve} keeps; null while there is none. */
    ProcessHandle workerOfItsOwn() {
        return server.descendants()
                .filter(process -> process.info().arguments().stream()
                        .anyMatch(
                                arguments -> arguments.length > 0 && arguments[arguments.length - 1].equals("worker")))
                .findFirst()
                .orElse(null);
    }

    /** Takes in a folder below root 0 and waits until every frame is read. */
    long takeIn(String folder) {
        long id = idOf(post("/shoots", Map.of("root", "0", "path", folder)));
        await(
                "frames to be read",
                () -> get("/shoots/" + id + "/standing").body().contains("\"unread\":0"));
        return id;
    }

    /** Runs one of the script's other commands on a home to its end; its exit code. */
    static int sieve(Path home, Map<String, String> more, String... words) throws IOException, InterruptedException {
        List<String> command = new ArrayList<>(List.of(PROJECT.resolve("sieve").toString()));
        command.addAll(List.of(words));
        ProcessBuilder builder = new ProcessBuilder(command);
        builder.environment().put("SIEVE_HOME", home.toString());
        builder.environment().put("SIEVE_DB_PORT", Integer.toString(freePort()));
        builder.environment().putAll(more);
        return builder.redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .start()
                .waitFor();
    }

    /** The database behind it. */
    Connection database() throws SQLException {
        return database(home);
    }

    /** The database of a home, whether the application is at work or not. */
    static Connection database(Path home) throws SQLException {
        Matcher password = Pattern.compile("SIEVE_DB_PASSWORD=(\\w+)").matcher(read(home.resolve("db/env")));
        if (!password.find()) {
            throw new IllegalStateException("There is no database in " + home);
        }
        return DriverManager.getConnection(
                "jdbc:mariadb://127.0.0.1:" + read(home.resolve("db.port")) + "/sieve", "sieve", password.group(1));
    }

    /** Starts a worker process of its own that can be killed. */
    Process worker(String... options) throws IOException {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx700m",
                QUICK_START,
                "-Djava.awt.headless=true",
                "--enable-native-access=ALL-UNNAMED"));
        command.addAll(List.of(options));
        try (Stream<Path> archives = Files.list(UNPACKED)) {
            archives.filter(file -> file.toString().endsWith(".jsa"))
                    .forEach(file -> command.add("-XX:SharedArchiveFile=" + file));
        }
        command.addAll(List.of("-jar", UNPACKED.resolve("rain-sieve.jar").toString(), "worker"));
        ProcessBuilder builder = new ProcessBuilder(command);
        Map<String, String> environment = builder.environment();
        for (String line : Files.readAllLines(home.resolve("db/env"))) {
            environment.put(line.substring(0, line.indexOf('=')), line.substring(line.indexOf('=') + 1));
        }
        environment.put("SIEVE_DB_URL", "jdbc:mariadb://127.0.0.1:" + read(home.resolve("db.port")) + "/sieve");
        environment.put("SIEVE_CACHE", home.resolve("cache").toString());
        environment.putAll(settings);
        environment.put("SIEVE_HEARTBEAT_MS", "300");
        environment.put("SIEVE_VERIFY_EVERY_TILE", "1");
        builder.redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(
                        home.resolve("worker-it.log").toFile()));
        Process process = builder.start();
        workers.add(process);
        return process;
    }

    static void signal(Process process, String name) {
        try {
            new ProcessBuilder("kill", "-" + name, Long.toString(process.pid()))
                    .start()
                    .waitFor();
        } catch (IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Override
    public void close() {
        workers.forEach(Process::destroyForcibly);
        server.destroy();
        try {
            if (!server.waitFor(30, TimeUnit.SECONDS)) {
                server.destroyForcibly();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
