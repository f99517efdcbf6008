package org.rainsieve.web.worker;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;

/**
 * A named place in the work at which a worker can be made to stand still, so that tests can kill it exactly there. Set by
 * the system property {@code sieve.pause-at=NAME=FILE}: on reaching NAME the file is created and the worker waits while
 * it exists.
 */
final class PausePoint {
    private final String name;
    private final Path marker;

    PausePoint(String setting) {
        int split = setting.indexOf('=');
        name = split < 0 ? "" : setting.substring(0, split);
        marker = split < 0 ? null : Path.of(setting.substring(split + 1));
    }

    void reach(String place) {
        if (!place.equals(name)) {
            return;
        }
        try {
            Files.createFile(marker);
            while (Files.exists(marker)) {
                Thread.sleep(50);
            }
        } catch (java.nio.file.FileAlreadyExistsException e) {
            // Once is enough.
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
