package org.rainsieve.web.files;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.rainsieve.raw.FencedDecoder;

/** The one decoder of other makers' raw files that a process has, unpacked into a folder of its own on first use. */
public final class SharedDecoder {
    private static final List<String> PARTS = List.of("decoder.mjs", "libraw.js", "libraw.wasm");

    /** For one file. (Common practice: the largest take some ten seconds on a slow machine.) */
    private static final Duration PATIENCE = Duration.ofSeconds(Integer.getInteger("sieve.decoder-seconds", 60));

    private static FencedDecoder decoder;
    private static Path folder;

    private SharedDecoder() {}

    public static synchronized FencedDecoder get() {
        // A worker may live longer than the system keeps files in its folder for temporary ones.
        if (decoder == null || !PARTS.stream().allMatch(part -> Files.exists(folder.resolve(part)))) {
            Path unpacked = unpacked();
            FencedDecoder made = new FencedDecoder("node", unpacked, PATIENCE);
            Runtime.getRuntime().addShutdownHook(new Thread(() -> remove(made, unpacked)));
            folder = unpacked;
            decoder = made;
        }
        return decoder;
    }

    private static Path unpacked() {
        try {
            Path made = Files.createTempDirectory("rain-sieve-decoder");
            for (String part : PARTS) {
                try (InputStream in = SharedDecoder.class.getResourceAsStream("/decoder/" + part)) {
                    Files.copy(in, made.resolve(part));
                }
            }
            return made;
        } catch (IOException e) {
            throw new UncheckedIOException("The decoder could not be unpacked", e);
        }
    }

    private static void remove(FencedDecoder made, Path unpacked) {
        made.close();
        try {
            for (String part : PARTS) {
                Files.deleteIfExists(unpacked.resolve(part));
            }
            Files.deleteIfExists(unpacked);
        } catch (IOException e) {
            // The system empties its folder for temporary files by itself.
        }
    }
}
