package org.rainsieve.web.installation;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.run.QuietHours;
import org.rainsieve.web.setup.NotPossibleException;

/**
 * What was set on the page Set-up: {@code set-up.conf} in the home, a line {@code NAME=value} each, read by {@code ./sieve} at a
 * start. The environment goes before it. Empty values stand for what is usual.
 */
final class SetUpFile {
    /** Names as in the environment; see README. */
    static final List<String> NAMES = List.of(
            "SIEVE_ROOTS",
            "SIEVE_RETURNS",
            "SIEVE_INBOX",
            "SIEVE_QUIET",
            "SIEVE_CORES",
            "SIEVE_MEMORY_MB",
            "SIEVE_KEEP_FREE_MB",
            "SIEVE_THUMBNAIL_MB");

    private static final Set<String> FOLDERS = Set.of("SIEVE_RETURNS", "SIEVE_INBOX");
    private static final Map<String, int[]> NUMBERS = Map.of(
            "SIEVE_CORES", new int[] {1, 256},
            "SIEVE_MEMORY_MB", new int[] {600, 65_536},
            "SIEVE_KEEP_FREE_MB", new int[] {0, 10_000_000},
            "SIEVE_THUMBNAIL_MB", new int[] {16, 1_000_000});

    private static final String HEAD = """
            # Set on the page Set-up of Rain Sieve, in force from the next start on; the environment goes before it.
            # SIEVE_ROOTS: folders below which frames may lie, with commas between them. SIEVE_RETURNS, SIEVE_INBOX: folders.
            # SIEVE_QUIET: hours such as 08:00-18:00. SIEVE_CORES, SIEVE_MEMORY_MB: for a worker. Others: MB.
            """;

    private SetUpFile() {}

    static boolean isFolder(String name) {
        return name.equals("SIEVE_ROOTS") || FOLDERS.contains(name);
    }

    /** By name; what is not there is not in the map. */
    static Map<String, String> read(Path home) {
        Map<String, String> values = new LinkedHashMap<>();
        try {
            for (String line : Files.readAllLines(file(home))) {
                int equals = line.indexOf('=');
                String name = equals < 0 ? "" : line.substring(0, equals).strip();
                if (NAMES.contains(name)) {
                    values.put(name, line.substring(equals + 1).strip());
                }
            }
        } catch (IOException e) {
            return Map.of(); // nothing was set yet
        }
        return values;
    }

    /** @throws NotPossibleException in plain words for values that cannot be used */
    static void write(Path home, Map<String, String> values) throws IOException {
        StringBuilder text = new StringBuilder(HEAD);
        for (String name : NAMES) {
            String value = values.getOrDefault(name, "").strip();
            if (value.contains("\n") || value.contains("\r")) {
                throw new NotPossibleException("A value has one line. Nothing was changed.");
            }
            if (!value.isEmpty()) {
                check(name, value);
                text.append(name).append('=').append(value).append('\n');
            }
        }
        OwnFiles.replaceSecret(file(home), text.toString());
    }

    private static Path file(Path home) {
        return home.resolve("set-up.conf");
    }

    private static void check(String name, String value) {
        if (name.equals("SIEVE_ROOTS")) {
            for (String root : value.split(",")) {
                folder(root.strip());
            }
        } else if (FOLDERS.contains(name)) {
            folder(value);
        } else if (NUMBERS.containsKey(name)) {
            int[] limits = NUMBERS.get(name);
            number(value, limits[0], limits[1]);
        } else {
            try {
                QuietHours.parse(value);
            } catch (IllegalArgumentException e) {
                throw new NotPossibleException("Quiet hours are two times of day such as 08:00-18:00, not " + value
                        + ". Nothing was changed.");
            }
        }
    }

    private static void folder(String path) {
        if (!path.startsWith("/") || !Files.isDirectory(Path.of(path))) {
            throw new NotPossibleException(
                    "There is no folder " + path + ". Make it first, or write its whole path. Nothing was changed.");
        }
    }

    private static void number(String value, int least, int most) {
        int number;
        try {
            number = Integer.parseInt(value);
        } catch (NumberFormatException e) {
            throw new NotPossibleException(value + " is not a whole number. Nothing was changed.");
        }
        if (number < least || number > most) {
            throw new NotPossibleException(String.format(
                    Locale.ROOT, "%,d lies outside %,d to %,d. Nothing was changed.", number, least, most));
        }
    }
}
