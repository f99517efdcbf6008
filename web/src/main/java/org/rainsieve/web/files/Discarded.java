package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.DirectoryNotEmptyException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import org.rainsieve.file.Sha256;

/** Returns that were discarded: kept in a hidden folder beside where they lay, from which they can be brought back. */
public final class Discarded {
    static final String FOLDER = ".rain-sieve-discarded";

    private Discarded() {}

    private static String name(Path file, long item) {
        return item + "-" + file.getFileName();
    }

    /**
     * @param item number of the return, so that returns of one name do not meet
     * @param sha256 of what was written
     * @return false when there is no such file any more, or it is not the one that was written
     */
    public static boolean put(Path file, long item, long sizeBytes, String sha256) throws IOException {
        if (!Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)
                || Files.size(file) != sizeBytes
                || !Sha256.of(file).equals(sha256)) {
            return false;
        }
        OwnFiles.move(file, OwnFiles.folder(file.getParent(), FOLDER).resolve(name(file, item)));
        return true;
    }

    /** @return false when it is gone, or another file has taken its name meanwhile; that one is left alone */
    public static boolean bringBack(Path file, long item) throws IOException {
        Path folder = file.resolveSibling(FOLDER);
        Path place = folder.resolve(name(file, item));
        if (!Files.isDirectory(folder, LinkOption.NOFOLLOW_LINKS)
                || !Files.isRegularFile(place, LinkOption.NOFOLLOW_LINKS)) {
            return false;
        }
        try {
            OwnFiles.move(place, file);
        } catch (FileAlreadyExistsException e) {
            return false;
        }
        try {
            Files.delete(folder);
        } catch (DirectoryNotEmptyException e) {
            // Others lie there still.
        }
        return true;
    }
}
