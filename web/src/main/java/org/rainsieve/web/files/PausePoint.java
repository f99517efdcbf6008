package org.rainsieve.web.files;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;

/**
 * Named places in the work at which a worker can be made to stand still, so that tests can kill it exactly there. The
 * system property {@code sieve.pause-in} names a folder: the worker that reaches NAME and finds a file of that name in it
 * renames it to its own process number (so one worker only stands still) and waits while it exists.
 */
public final class PausePoint {
    private final Path folder;

    public PausePoint(String folder) {
        this.folder = folder.isEmpty() ? null : Path.of(folder);
    }

    public void reach(String place) {
        if (folder == null) {
            return;
        }
        try {
            Path marker = folder.resolve(Long.toString(ProcessHandle.current().pid()));
            Files.move(folder.resolve(place), marker, StandardCopyOption.ATOMIC_MOVE);
            while (Files.exists(marker)) {
                Thread.sleep(20);
            }
        } catch (NoSuchFileException e) {
            // Nobody asked for a pause here.
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
