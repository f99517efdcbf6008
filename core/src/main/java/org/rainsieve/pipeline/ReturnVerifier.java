package org.rainsieve.pipeline;

import java.io.IOException;
import java.nio.file.Path;
import java.util.stream.IntStream;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.RefusedException;

/** Reads a written return back before it is published: all its bytes, its directories, and a sample of its tiles. */
public final class ReturnVerifier {
    private ReturnVerifier() {}

    /**
     * @param everyTile 1 decodes all tiles, n every n-th
     * @return SHA-256 of the file's bytes as read back
     * @throws IOException when the file does not hold what it should
     */
    public static String verify(Path file, int width, int height, int everyTile) throws IOException {
        String hash = Sha256.of(file);
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            if (dng.width() != width || dng.height() != height) {
                throw new IOException("The written file has another size than the frame.");
            }
            IntStream.range(0, (dng.tiles() + everyTile - 1) / everyTile)
                    .parallel()
                    .forEach(i -> {
                        try {
                            dng.tile(i * everyTile);
                        } catch (IOException | RefusedException e) {
                            throw new IllegalStateException(e.getMessage(), e);
                        }
                    });
        } catch (RefusedException | IllegalStateException e) {
            throw new IOException("The written file could not be read back: " + e.getMessage(), e);
        }
        return hash;
    }
}
