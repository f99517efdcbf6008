package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.DirectoryNotEmptyException;
import java.nio.file.DirectoryStream;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.SecureDirectoryStream;
import java.util.function.Predicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The hidden folders in which returns are written before they get their names, beside where they will lie, so that the name can
 * be given in one step. Their files are called item-ITEM-ATTEMPT.part; nothing that is called otherwise is ever deleted, and
 * nothing behind a link.
 */
public final class Temporaries {
    public static final String FOLDER = ".rain-sieve-tmp";

    private static final Pattern NAME = Pattern.compile("item-(\\d{1,18})-(\\d{1,9})(?:-linear|-original)?\\.part");

    private Temporaries() {}

    /** Whether an attempt at an item is known, and nobody works on it any more. */
    public interface Abandoned {
        boolean is(long item, int attempt);
    }

    /** The name of an attempt's file; leftovers of earlier attempts at the item are removed. */
    public static Path prepare(Path folder, long item, int attempt) throws IOException {
        make(folder);
        removeOf(folder, item);
        return make(folder).resolve("item-" + item + "-" + attempt + ".part");
    }

    /** @param folder in which returns will lie */
    public static Path make(Path folder) throws IOException {
        return OwnFiles.folder(folder, FOLDER);
    }

    /** Removes what all attempts at an item left, and the folder if it is empty then. */
    public static void removeOf(Path folder, long item) throws IOException {
        delete(folder, name -> name.matches() && Long.parseLong(name.group(1)) == item);
    }

    /** Removes what one attempt left; those of whoever took the item over stay. */
    public static void removeOf(Path folder, long item, int attempt) throws IOException {
        delete(
                folder,
                name -> name.matches()
                        && Long.parseLong(name.group(1)) == item
                        && Integer.parseInt(name.group(2)) == attempt);
    }

    /** Removes what attempts that nobody works on any more left. */
    public static void sweep(Path folder, Abandoned abandoned) throws IOException {
        delete(
                folder,
                name -> name.matches() && abandoned.is(Long.parseLong(name.group(1)), Integer.parseInt(name.group(2))));
    }

    private static void delete(Path folder, Predicate<Matcher> ours) throws IOException {
        Path temporaries = folder.resolve(FOLDER);
        if (!Files.isDirectory(temporaries, LinkOption.NOFOLLOW_LINKS)) {
            return;
        }
        try (DirectoryStream<Path> outer = Files.newDirectoryStream(folder)) {
            if (outer instanceof SecureDirectoryStream<Path> held) {
                // What is held open cannot be exchanged for a link meanwhile.
                Path name = Path.of(FOLDER);
                try (SecureDirectoryStream<Path> inner = held.newDirectoryStream(name, LinkOption.NOFOLLOW_LINKS)) {
                    for (Path file : inner) {
                        if (ours.test(NAME.matcher(file.getFileName().toString()))) {
                            try {
                                inner.deleteFile(file.getFileName());
                            } catch (NoSuchFileException e) {
                                // Somebody else was quicker.
                            }
                        }
                    }
                }
                held.deleteDirectory(name);
            } else {
                try (DirectoryStream<Path> inner = Files.newDirectoryStream(temporaries)) {
                    for (Path file : inner) {
                        if (ours.test(NAME.matcher(file.getFileName().toString()))) {
                            Files.deleteIfExists(file);
                        }
                    }
                }
                Files.deleteIfExists(temporaries);
            }
        } catch (DirectoryNotEmptyException | NoSuchFileException e) {
            // Others are still writing there, or have removed it.
        }
    }
}
