package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.DirectoryNotEmptyException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;

/** Returns that were discarded: kept in a hidden folder beside where they lay, from which they can be brought back. */
public final class Discarded {
    static final String FOLDER = ".rain-sieve-discarded";

    private Discarded() {}

    private static Path place(Path file, long item) {
        return file.resolveSibling(FOLDER).resolve(item + "-" + file.getFileName());
    }

    /**
     * @param item number of the return, so that returns of one name do not meet
     * @return false when there is no such file any more, or it is not the one that was written
     */
    public static boolean put(Path file, long item, long sizeBytes) throws IOException {
        if (!Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS) || Files.size(file) != sizeBytes) {
            return false;
        }
        Path place = place(file, item);
        Files.createDirectories(place.getParent());
        Files.move(file, place, StandardCopyOption.ATOMIC_MOVE);
        return true;
    }

    /** @return false when it is gone, or another file has taken its name meanwhile; that one is left alone */
    public static boolean bringBack(Path file, long item) throws IOException {
        Path place = place(file, item);
        if (!Files.isRegularFile(place, LinkOption.NOFOLLOW_LINKS)) {
            return false;
        }
        try {
            Files.createLink(file, place); // fails where the name is taken, as a move would not
            Files.delete(place);
        } catch (FileAlreadyExistsException e) {
            return false;
        } catch (UnsupportedOperationException | IOException e) {
            if (Files.exists(file, LinkOption.NOFOLLOW_LINKS)) {
                return false;
            }
            Files.move(place, file);
        }
        try {
            Files.delete(place.getParent());
        } catch (DirectoryNotEmptyException e) {
            // Others lie there still.
        }
        return true;
    }
}
