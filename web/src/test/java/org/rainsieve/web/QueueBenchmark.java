package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;

/** What the queue costs, on real processes: {@code ./sieve benchmark queue}. It prints figures and asserts only that runs end well. */
class QueueBenchmark {
    private static final int FRAMES = 24;
    private static final int FORECAST_AT = 10;
    private static final int MANY = 5000;
    private static final int WATCHED_S = 40;

    @TempDir
    private Path folder;

    private LiveApplication application;
    private final HttpClient client = HttpClient.newHttpClient();

    private void draw(String name, int frames, int width, int height) throws IOException {
        Path shoot = Files.createDirectories(folder.resolve("photos").resolve(name));
        byte[][] drawn = new byte[3][];
        for (int i = 0; i < drawn.length; i++) {
            drawn[i] = PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, width, height, 2 * i);
        }
        for (int i = 0; i < frames; i++) {
            Files.write(shoot.resolve(String.format("Q_%03d.dng", i)), drawn[i % drawn.length]);
        }
    }

    private LiveApplication live(String home) throws IOException {
        return new LiveApplication(
                "serve",
                folder.resolve(home),
                // As it is started by hand, but for the workers.
                Map.of(
                        "SIEVE_ROOTS", folder.resolve("photos").toString(),
                        "SIEVE_WEB_OPTIONS", "-Xlog:disable",
                        "SIEVE_WORKERS", "0"));
    }

    private long start(long shoot) {
        return LiveApplication.idOf(
                application.post("/runs", Map.of("shoot", Long.toString(shoot), "destination", "sub-folder")));
    }

    private static double seconds(long from) {
        return (System.nanoTime() - from) / 1e9;
    }

    private void finish(long run) {
        while (!application.get("/runs/" + run).body().contains("data-standing>finished<")) {
            try {
                Thread.sleep(100);
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    /** One event of an open page, as text. */
    private String event(long run) throws IOException, InterruptedException {
        HttpResponse<Stream<String>> events = client.send(
                HttpRequest.newBuilder(URI.create(application.url("/runs/" + run + "/events")))
                        .build(),
                HttpResponse.BodyHandlers.ofLines());
        try (Stream<String> lines = events.body()) {
            return lines.filter(line -> line.startsWith("data:")).findFirst().orElse("");
        }
    }

    private static double number(String event, String name) {
        Matcher value = Pattern.compile("\"" + name + "\":(-?[0-9.E+]+)").matcher(event);
        return value.find() ? Double.parseDouble(value.group(1)) : Double.NaN;
    }

    private static void print(String words, Object... values) {
        System.out.printf(Locale.ROOT, words + "%n", values);
    }

    /** The same run by one worker with both cores and by two workers with one each; the first one's forecasts on the way. */
    @Test
    void twoWorkersAndForecasts() throws Exception {
        draw("many", FRAMES, 3000, 2000);
        double[] took = new double[2];
        for (int workers = 1; workers <= 2; workers++) {
            application = live("home" + workers);
            try {
                for (int i = 0; i < workers; i++) {
                    application.worker(
                            "-XX:+UseParallelGC",
                            "-Xmx1400m",
                            "-XX:TieredStopAtLevel=4",
                            "-XX:ActiveProcessorCount=" + 2 / workers);
                }
                long shoot = application.takeIn("many");
                finish(start(shoot)); // warms up
                long begun = System.nanoTime();
                long run = start(shoot);
                if (workers == 1) {
                    forecast(run, begun);
                } else {
                    finish(run);
                }
                took[workers - 1] = seconds(begun);
            } finally {
                application.close();
            }
        }
        print(
                "%d frames of 6 MP: one worker with two cores %.1f s, two workers with one core each %.1f s, ratio %.2f (asked: 1.15)",
                FRAMES, took[0], took[1], took[1] / took[0]);
    }

    private void forecast(long run, long begun) throws Exception {
        String event = event(run);
        while (number(event, "returned") < FORECAST_AT) {
            Thread.sleep(200);
            event = event(run);
        }
        double at = seconds(begun);
        double left = number(event, "secondsLeft");
        double bytes = number(event, "bytesInAll");
        finish(run);
        double whole = seconds(begun);
        double written = number(event(run), "returnsBytes");
        print(
                "forecast after %d frames: %.1f s left, in truth %.1f s (%+.0f %%, asked: 20); %.1f MB in all, in truth %.1f MB (%+.0f %%, asked: 10)",
                FORECAST_AT,
                left,
                whole - at,
                100 * (left / (whole - at) - 1),
                bytes / 1e6,
                written / 1e6,
                100 * (bytes / written - 1));
    }

    /** 5,000 small frames: queued, worked on while a page is open. */
    @Test
    void fiveThousandItems() throws Exception {
        draw("many", 1, 400, 300);
        application = live("home");
        try {
            application.worker("-XX:TieredStopAtLevel=4");
            long shoot = application.takeIn("many");
            Path first = folder.resolve("photos/many/Q_000.dng");
            try (Connection database = application.database();
                    Statement sql = database.createStatement()) {
                multiply(sql, shoot, first);
                planned(shoot);
                long begun = System.nanoTime();
                long run = start(shoot);
                print("%,d items queued in %.2f s (asked: 5)", MANY, seconds(begun));
                watch(sql, run);
                application.post("/runs/" + run + "/stop", Map.of());
            }
        } finally {
            application.close();
        }
    }

    /** What a run of all of them would do, asked for as the page does; the middle of eleven, after a few to warm up. */
    private void planned(long shoot) {
        double[] took = new double[11];
        for (int i = -4; i < took.length; i++) {
            long begun = System.nanoTime();
            assertThat(application
                            .post("/shoots/" + shoot + "/plan", Map.of("take", "ALL", "forms", "DNG"))
                            .body())
                    .contains("\"frames\":" + MANY);
            took[Math.max(0, i)] = seconds(begun);
        }
        Arrays.sort(took);
        print("what a run of %,d frames would do: told in %.0f ms (asked: 300)", MANY, 1000 * took[took.length / 2]);
    }

    /** The one frame that was read, again and again under other names. */
    private static void multiply(Statement sql, long shoot, Path first) throws SQLException, IOException {
        List<String> columns = new ArrayList<>();
        try (ResultSet all = sql.executeQuery("SHOW COLUMNS FROM frame")) {
            while (all.next()) {
                if (!List.of("id", "path", "path_hash", "name").contains(all.getString(1))) {
                    columns.add(all.getString(1));
                }
            }
        }
        String rest = String.join(", ", columns);
        for (int i = 1; i < MANY; i++) {
            Files.createLink(first.resolveSibling(String.format("Q_%04d.dng", i)), first);
        }
        sql.execute("INSERT INTO frame (path, path_hash, name, " + rest + ") SELECT REPLACE(path, 'Q_000', q),"
                + " UNHEX(SHA2(REPLACE(path, 'Q_000', q), 256)), CONCAT(q, '.dng'), " + rest
                + " FROM frame, (SELECT CONCAT('Q_', LPAD(seq, 4, '0')) q FROM seq_1_to_" + (MANY - 1) + ") n"
                + " WHERE shoot_id = " + shoot);
    }

    private void watch(Statement sql, long run) throws Exception {
        ProcessHandle web = ProcessHandle.allProcesses()
                .filter(process -> process.info()
                        .commandLine()
                        .map(line -> line.endsWith(" serve") && line.contains("java"))
                        .orElse(false))
                .filter(process -> application.started(process))
                .findFirst()
                .orElseThrow();
        Thread.sleep(5000); // what is compiled now would not be later
        HttpResponse<Stream<String>> events = client.send(
                HttpRequest.newBuilder(
                                URI.create(application.url("/runs/" + run + "/events?since=2999-01-01%2000:00:00")))
                        .build(),
                HttpResponse.BodyHandlers.ofLines());
        Thread reader = new Thread(() -> {
            try {
                events.body().forEach(line -> {});
            } catch (UncheckedIOException e) {
                return; // the application has ended
            }
        });
        reader.setDaemon(true);
        reader.start();
        Thread.sleep(10_000);
        double before = cpuSeconds(web);
        Thread.sleep(WATCHED_S * 1000L);
        double used = cpuSeconds(web) - before;
        print(
                "the page of the run, open for %d s: %.1f %% of a core in the application (asked: 2)",
                WATCHED_S, 100 * used / WATCHED_S);
        try (ResultSet waits = sql.executeQuery("SHOW GLOBAL STATUS LIKE 'Innodb_row_lock_time_max'")) {
            assertThat(waits.next()).isTrue();
            print("longest wait for a lock: %d ms (asked: 1,000)", waits.getLong(2));
        }
        print("%.0f returned meanwhile", number(event(run), "returned"));
    }

    private static double cpuSeconds(ProcessHandle process) {
        return process.info().totalCpuDuration().orElseThrow().toNanos() / 1e9;
    }
}
