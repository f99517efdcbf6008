package org.rainsieve.web.shoot;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.HexFormat;
import java.util.List;
import org.rainsieve.pipeline.ResolvedSettings;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * What a stranger needs to help with a frame, as one text file: versions, where the frame stands, its settings, the first
 * bytes of its file and the end of the logs. No pictures.
 */
@Component
class SupportReport {
    private static final int HEAD_BYTES = 2048;
    private static final int LOG_BYTES = 20_000;

    private final Path home;

    SupportReport(@Value("${sieve.home:}") String home) {
        this.home = home.isBlank() ? null : Path.of(home);
    }

    String of(FrameRow row, Path file) {
        StringBuilder out = new StringBuilder("Rain Sieve, support report\n\n");
        line(out, "engine", ResolvedSettings.ENGINE);
        line(out, "Java", System.getProperty("java.vendor") + " " + System.getProperty("java.version"));
        line(
                out,
                "system",
                System.getProperty("os.name") + " " + System.getProperty("os.version") + " "
                        + System.getProperty("os.arch") + ", "
                        + Runtime.getRuntime().availableProcessors() + " cores");
        out.append('\n');
        line(out, "file", row.name());
        line(out, "state", row.standing());
        line(out, "reason", row.reason());
        line(out, "camera", row.camera());
        line(out, "ISO", row.iso());
        line(out, "size", row.width() == null ? null : row.width() + " x " + row.height());
        line(out, "push", row.push());
        line(out, "own settings", row.steps());
        line(out, "reading", row.reading());
        out.append("\nFirst bytes of the file:\n").append(head(file));
        if (home != null) {
            for (String log : List.of("worker.log", "web.log")) {
                out.append("\nEnd of ").append(log).append(":\n").append(end(home.resolve(log)));
            }
        }
        return out.toString();
    }

    private static void line(StringBuilder out, String name, Object value) {
        if (value != null) {
            out.append(name).append(": ").append(value).append('\n');
        }
    }

    private static String head(Path file) {
        if (!Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)) {
            return "The file is not there any more.\n";
        }
        try (RandomAccessFile in = new RandomAccessFile(file.toFile(), "r")) {
            byte[] head = new byte[(int) Math.min(HEAD_BYTES, in.length())];
            in.readFully(head);
            StringBuilder out = new StringBuilder(in.length() + " bytes in all\n");
            for (int i = 0; i < head.length; i += 32) {
                int end = Math.min(head.length, i + 32);
                out.append(HexFormat.of().formatHex(head, i, end)).append('\n');
            }
            return out.toString();
        } catch (IOException e) {
            return "It cannot be read: " + e.getMessage() + "\n";
        }
    }

    private static String end(Path log) {
        try (RandomAccessFile in = new RandomAccessFile(log.toFile(), "r")) {
            byte[] tail = new byte[(int) Math.min(LOG_BYTES, in.length())];
            in.seek(in.length() - tail.length);
            in.readFully(tail);
            return new String(tail, StandardCharsets.UTF_8) + "\n";
        } catch (IOException e) {
            return "none\n";
        }
    }
}
