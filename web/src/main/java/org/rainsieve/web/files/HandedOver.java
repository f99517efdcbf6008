package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.Locale;
import org.rainsieve.web.setup.NotPossibleException;

/** A file that another program handed over, and waits to find changed. */
public final class HandedOver {
    private HandedOver() {}

    /**
     * Puts a return in the place of the file that it was made from. That one is kept beside it under a name of its own, and is back in
     * its place when anything fails on the way.
     *
     * @return where the file that was handed over lies now
     * @throws NotPossibleException in plain words where the return is of another kind than the file
     */
    public static Path takePlace(Path file, Path made) throws IOException {
        if (!kind(file).equals(kind(made))) {
            throw new NotPossibleException("The return is a ." + kind(made) + " and cannot take the place of a ."
                    + kind(file) + ". It lies at " + made + ". Choose the form of the file that was handed over.");
        }
        if (!Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)) {
            throw new NotPossibleException(
                    "The file that was handed over is not there any more. The return lies at " + made + ".");
        }
        Path part = OwnFiles.part(file.toAbsolutePath().getParent());
        try {
            OwnFiles.copy(made, part);
            Path kept = keep(file);
            try {
                OwnFiles.publish(part, file);
            } catch (IOException | RuntimeException e) {
                OwnFiles.move(kept, file);
                throw e;
            }
            OwnFiles.force(file.toAbsolutePath().getParent());
            return kept;
        } finally {
            OwnFiles.remove(part);
        }
    }

    private static Path keep(Path file) throws IOException {
        String name = file.getFileName().toString();
        int dot = name.lastIndexOf('.');
        for (int i = 1; ; i++) {
            Path kept = file.resolveSibling(
                    name.substring(0, dot) + "-before" + (i == 1 ? "" : "-" + i) + name.substring(dot));
            try {
                OwnFiles.move(file, kept);
                return kept;
            } catch (FileAlreadyExistsException e) {
                // An earlier one is kept there: the next name.
            }
        }
    }

    private static String kind(Path file) {
        String name = file.getFileName().toString().toLowerCase(Locale.ROOT);
        return switch (name.substring(name.lastIndexOf('.') + 1)) {
            case "tif", "tiff" -> "tif";
            case "jpg", "jpeg" -> "jpg";
            case "dng" -> "dng";
            default -> "file of its own kind";
        };
    }
}
