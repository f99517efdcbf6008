package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.MigrationVersion;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.file.Sha256;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;
import org.slf4j.LoggerFactory;

/** A database as the first version left it is brought up to date by starting the newest: nothing of it is lost. */
class MigrationIT {
    private static final String NOISE = "{\"a\":[0.0011,0.0011,0.0011],\"b\":[2.0E-6,2.0E-6,2.0E-6]}";
    /** Pages and settings as the first version wrote them. */
    private static final String PAGE = "{\"camera\":\"Ondrel 24\",\"rungs\":["
            + "{\"ei\":100,\"denoise\":{\"on\":true,\"method\":\"Quick\",\"grainKeptPercent\":41.0,\"colourNoiseKeptPercent\":9.0}},"
            + "{\"ei\":3200,\"denoise\":{\"on\":true,\"method\":\"Quick\",\"grainKeptPercent\":23.0,\"colourNoiseKeptPercent\":0.0}}]}";

    private static final String SETTINGS =
            "{\"schema\":1,\"engine\":\"Rain Sieve 0.1.0\",\"ei\":3200.0,\"noise\":" + NOISE
                    + ",\"denoise\":{\"on\":true,\"method\":\"Quick\",\"grainKeptPercent\":23.0,\"colourNoiseKeptPercent\":0.0}}";

    @TempDir
    private Path folder;

    private int sieve(String... command) throws Exception {
        return LiveApplication.sieve(folder.resolve("home"), Map.of(), command);
    }

    @AfterEach
    void stop() throws Exception {
        sieve("db-stop");
    }

    /** A frame, a refused one, a page with an older version, a finished run with its return, and one that was interrupted. */
    private static void fill(Statement sql, Path photos, byte[] frame) throws SQLException {
        sql.execute("INSERT INTO shoot (id, name, folder) VALUES (4, 'Old marsh', '" + photos + "')");
        for (int i = 0; i < 3; i++) {
            String name = "O_" + i + ".dng";
            String hash = Sha256.of(photos.resolve(name).toString().getBytes());
            sql.execute(
                    "INSERT INTO frame (id, shoot_id, path, path_hash, name, state, reason, size_bytes, sha256, camera, iso,"
                            + " width, height, noise) VALUES (" + (20 + i) + ", 4, '" + photos.resolve(name) + "', X'"
                            + hash + "', '" + name + "', '"
                            + (i == 2 ? "refused', 'It is cut short.'" : "ready', NULL") + ", " + frame.length + ", '"
                            + Sha256.of(frame) + "', 'Ondrel 24', 3200, 400, 300, '" + NOISE + "')");
        }
        sql.execute(
                "INSERT INTO page_version (id, camera, parent_id, reason, page) VALUES (7, 'Ondrel 24', NULL, 'new camera', '"
                        + PAGE.replace("23.0", "55.0") + "')");
        sql.execute(
                "INSERT INTO page_version (id, camera, parent_id, reason, page) VALUES (9, 'Ondrel 24', 7, 'grain', '"
                        + PAGE + "')");
        sql.execute("INSERT INTO run (id, shoot_id, destination) VALUES (2, 4, 'beside'), (3, 4, 'beside')");
        String item =
                "INSERT INTO item (run_id, frame_id, state, attempt, settings, progress, version, final_path, hash,"
                        + " size_bytes, noise_left, started_at, finished_at) VALUES ";
        sql.execute(item + "(2, 20, 'returned', 1, '" + SETTINGS + "', 1, 1, '" + photos.resolve("O_0-denoise.dng")
                + "', '" + Sha256.of(new byte[] {1, 2, 3}) + "', 3, 0.24, NOW(3), NOW(3))");
        // Taken by a worker that was never heard of again.
        sql.execute(item + "(3, 21, 'taken', 1, '" + SETTINGS + "', 0.4, NULL, NULL, NULL, NULL, NULL, NOW(3), NULL)");
    }

    @Test
    void fromTheFirstSchemaToTheNewest() throws Exception {
        Path photos = Files.createDirectories(folder.resolve("photos/old"));
        byte[] frame = PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 400, 300, 2);
        for (int i = 0; i < 2; i++) {
            Files.write(photos.resolve("O_" + i + ".dng"), frame);
        }
        Files.write(photos.resolve("O_0-denoise.dng"), new byte[] {1, 2, 3});
        assertThat(sieve("db-start")).isZero();
        String password = Pattern.compile("SIEVE_DB_PASSWORD=(\\w+)")
                .matcher(Files.readString(folder.resolve("home/db/env")))
                .results()
                .findFirst()
                .orElseThrow()
                .group(1);
        String url = "jdbc:mariadb://127.0.0.1:" + Files.readString(folder.resolve("home/db.port")) + "/sieve";
        ((Logger) LoggerFactory.getLogger("org.flywaydb")).setLevel(Level.WARN);
        Flyway.configure()
                .dataSource(url, "sieve", password)
                .locations("filesystem:src/main/resources/db/migration")
                .target(MigrationVersion.fromVersion("1"))
                .load()
                .migrate();
        try (Connection connection = DriverManager.getConnection(url, "sieve", password);
                Statement sql = connection.createStatement()) {
            fill(sql, photos, frame);
            // By way of a backup, as whoever installs anew has it.
            String backup = folder.resolve("old.sql.gz").toString();
            assertThat(sieve("backup", backup)).isZero();
            sql.execute("DELETE FROM item");
            connection.close();
            assertThat(sieve("restore", backup)).isZero();
        }
        try (LiveApplication application = new LiveApplication(
                "serve",
                folder.resolve("home"),
                Map.of("SIEVE_ROOTS", folder.resolve("photos").toString(), "SIEVE_KEEP_DB", "1"))) {
            assertThat(application.get("/shoots").body()).contains("Old marsh");
            LiveApplication.await(
                    "the frames to be read again",
                    () -> application.get("/shoots/4/standing").body().contains("\"unread\":0"));
            assertThat(application.get("/shoots/4").body()).contains("O_2.dng", "It is cut short.");
            assertThat(application.get("/shoots/4/sheet").body()).contains("O_0.dng", "O_1.dng");
            // The page and its history.
            String book = application.get("/book?camera=Ondrel%2024").body();
            assertThat(book).contains("value=\"41\"", "value=\"23\"", "grain");
            Matcher version =
                    Pattern.compile("name=\"version\" value=\"(\\d+)\"").matcher(book);
            assertThat(version.find()).isTrue();
            assertThat(application
                            .post("/book/undo", Map.of("camera", "Ondrel 24", "version", version.group(1)))
                            .statusCode())
                    .isEqualTo(302);
            assertThat(application.get("/book?camera=Ondrel%2024").body()).contains("value=\"55\"");
            // The run that was finished, and the one that goes on where it was left.
            assertThat(application.get("/runs/2").body()).contains("O_0-denoise.dng", "24 %");
            LiveApplication.await("the interrupted frame", () -> Files.exists(photos.resolve("O_1-denoise.dng")));
            LiveApplication.await(
                    "its run", () -> application.get("/runs/3").body().contains("data-standing>finished<"));
            // What is done now counts on from what was.
            long run = LiveApplication.idOf(application.post("/runs", Map.of("shoot", "4")));
            LiveApplication.await(
                    "a new run", () -> application.get("/runs/" + run).body().contains("data-standing>finished<"));
            assertThat(photos.resolve("O_0-denoise-2.dng")).exists();
            assertThat(photos.resolve("O_0-denoise.dng")).hasBinaryContent(new byte[] {1, 2, 3});
            // As the first version's database had no place for it: everything that has come since can be used.
            assertThat(application.get("/catalogue?shoot=4").body()).contains("O_0-denoise-2.dng");
        }
    }
}
