package org.rainsieve.web.process;

import java.io.PrintStream;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import tools.jackson.databind.json.JsonMapper;

/** What is told while frames are worked on: a line for each, and where a person looks on what is left. */
final class Progress {
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final long EVERY_NS = 500_000_000L;

    private final PrintStream out;
    private final PrintStream err;
    private final boolean json;
    private final boolean watched;
    private long begun;
    private long last;
    private long all;
    private long done;

    Progress(PrintStream out, PrintStream err, boolean json, boolean watched) {
        this.out = out;
        this.err = err;
        this.json = json;
        this.watched = watched;
    }

    void reading(int at, int of) {
        show(String.format(Locale.ROOT, "reading %d of %d", at + 1, of));
    }

    void begin(long pixels) {
        all = Math.max(1, pixels);
        begun = System.nanoTime();
    }

    synchronized void at(long pixels, double share) {
        double part = (done + pixels * share) / all;
        double seconds = (System.nanoTime() - begun) / 1e9;
        show(String.format(Locale.ROOT, "%.0f %%", 100 * part)
                + (part > 0.02 ? String.format(Locale.ROOT, ", about %.0f s left", seconds / part - seconds) : ""));
    }

    void done(long pixels) {
        done += pixels;
    }

    private void show(String words) {
        if (watched && System.nanoTime() - last > EVERY_NS) {
            last = System.nanoTime();
            err.print("\r" + words + "\u001b[K");
            err.flush();
        }
    }

    private void line(String words) {
        if (watched) {
            err.print("\r\u001b[K");
            err.flush();
        }
        out.println(words);
    }

    void told(Path file, String state, String reason) {
        line(
                json
                        ? JSON.writeValueAsString(
                                ordered("file", file.getFileName().toString(), "state", state, "reason", reason))
                        : file.getFileName() + "  " + state + "  " + reason);
    }

    void returned(Path file, List<String> names, double seconds) {
        line(
                json
                        ? JSON.writeValueAsString(ordered(
                                "file",
                                file.getFileName().toString(),
                                "state",
                                "returned",
                                "returns",
                                names,
                                "seconds",
                                Math.round(10 * seconds) / 10.0))
                        : String.format(
                                Locale.ROOT,
                                "%s  returned as %s  %.1f s",
                                file.getFileName(),
                                String.join(", ", names),
                                seconds));
    }

    void nothing(String words) {
        line(json ? JSON.writeValueAsString(ordered("state", "nothing", "reason", words)) : words);
    }

    private static Map<String, Object> ordered(Object... pairs) {
        Map<String, Object> map = new LinkedHashMap<>();
        for (int i = 0; i < pairs.length; i += 2) {
            map.put((String) pairs[i], pairs[i + 1]);
        }
        return map;
    }
}
