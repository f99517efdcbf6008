package org.rainsieve.web.files;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.rainsieve.raw.FencedDecoder;

/** The one decoder of other makers' raw files that a process has, unpacked into a folder of its own on first use. */
public final class SharedDecoder {
    private static final List<String> PARTS = List.of("decoder.mjs", "libraw.js", "libraw.wasm");

    private static FencedDecoder decoder;

    private SharedDecoder() {}

    public static synchronized FencedDecoder get() {
        if (decoder == null) {
            Path folder = unpacked();
            FencedDecoder made = new FencedDecoder("node", folder);
            Runtime.getRuntime().addShutdownHook(new Thread(() -> remove(made, folder)));
            decoder = made;
        }
        return decoder;
    }

    private static Path unpacked() {
        try {
            Path folder = Files.createTempDirectory("rain-sieve-decoder");
            for (String part : PARTS) {
                try (InputStream in = SharedDecoder.class.getResourceAsStream("/decoder/" + part)) {
                    Files.copy(in, folder.resolve(part));
                }
            }
            return folder;
        } catch (IOException e) {
            throw new UncheckedIOException("The decoder could not be unpacked", e);
        }
    }

    private static void remove(FencedDecoder made, Path folder) {
        made.close();
        try {
            for (String part : PARTS) {
                Files.deleteIfExists(folder.resolve(part));
            }
            Files.deleteIfExists(folder);
        } catch (IOException e) {
            // The system empties its folder for temporary files by itself.
        }
    }
}
