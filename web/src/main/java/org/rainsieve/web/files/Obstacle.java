package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.FileStore;
import java.nio.file.Files;
import java.nio.file.Path;

/**
 * What keeps files from being written into a folder, looked at afterwards on the disk itself: what the system says of it comes in
 * many languages.
 */
public final class Obstacle {
    /** With less than this free a disk is full. */
    private static final long FULL_BYTES = 4L << 20;

    private Obstacle() {}

    /** In plain words, for a run that waits; null when nothing stands in the way any more, or something else does. */
    public static String inWords(Path folder) {
        try {
            Path there = folder;
            while (there != null && !Files.isDirectory(there)) {
                there = there.getParent();
            }
            if (there == null) {
                return null;
            }
            FileStore disk = Files.getFileStore(there);
            if (disk.isReadOnly() || !Files.isWritable(there)) {
                return "The place of the returns may not be written. The run goes on by itself when it may.";
            }
            return disk.getUsableSpace() < FULL_BYTES
                    ? "The disk of the returns is full. The run goes on by itself when there is room."
                    : null;
        } catch (IOException e) {
            return null;
        }
    }
}
