package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.stereotype.Service;

/** Folders below the allowed roots: listing them, and making sure that a request never leaves them. */
@Service
public class FolderService {
    private static final String REFUSED = "That folder is not below one of the allowed folders.";

    private static final int DEEPEST = 20;
    private static final int MOST_FILES = 50_000;
    private static final long AHEAD_MS = 600_000;
    /** Letters of a path that are kept. */
    public static final int LONGEST_PATH = 2000;

    private final List<Path> roots;

    FolderService(SieveProperties properties) {
        roots = properties.roots();
    }

    /** One folder to choose from. */
    public record Folder(int root, String path, String name) {}

    /** A file found by name only; nothing of it was read. */
    public record Found(Path path, long sizeBytes) {
        /** Why it can never be opened by what is kept of its path, in plain words; null when it can. */
        public String unusable() {
            String text = path.toString();
            if (text.length() > LONGEST_PATH) {
                return "The path of this file is longer than 2,000 letters. Give the folders above it shorter names, and take it in again.";
            }
            // Bytes that are no letters are shown as this one, by which the file is not found again.
            boolean noText = text.indexOf('\uFFFD') >= 0 && !Files.exists(Path.of(text), LinkOption.NOFOLLOW_LINKS);
            return noText
                    ? "The name of this file, or of a folder above it, is no readable text (it is not UTF-8). Rename it, and take it in again."
                    : null;
        }
    }

    public List<Folder> roots() {
        List<Folder> folders = new ArrayList<>();
        for (int i = 0; i < roots.size(); i++) {
            folders.add(new Folder(i, "", roots.get(i).toString()));
        }
        return folders;
    }

    /** Names of the folders directly below any folder, hidden ones left out. */
    public static List<String> namesBelow(Path folder) {
        try (Stream<Path> entries = Files.list(folder)) {
            return entries.filter(entry -> Files.isDirectory(entry, LinkOption.NOFOLLOW_LINKS))
                    .map(entry -> entry.getFileName().toString())
                    .filter(name -> !name.startsWith("."))
                    .sorted()
                    .toList();
        } catch (IOException e) {
            throw new NotPossibleException("That folder cannot be listed. Check that it is there and may be read.");
        }
    }

    /** The folders directly below a folder, by name. */
    public List<Folder> below(int root, String path) {
        Path folder = resolve(root, path);
        Path base = realRoot(root);
        return namesBelow(folder).stream()
                .map(name ->
                        new Folder(root, base.relativize(folder.resolve(name)).toString(), name))
                .toList();
    }

    /**
     * Everything in a folder that may be a frame: every file but hidden ones, and folders named like raw files.
     *
     * @param deep with all folders below it but hidden ones; links are not followed
     */
    public List<Found> candidates(int root, String path, boolean deep) {
        List<Found> found = new ArrayList<>();
        collect(resolve(root, path), deep ? DEEPEST : 0, found);
        return found;
    }

    /** The same of a folder known already, but files that were changed lately; empty when it cannot be listed now. */
    public List<Found> settled(Path folder, boolean deep, Instant changedBefore) {
        List<Found> found = new ArrayList<>();
        try {
            collect(folder, deep ? DEEPEST : 0, found);
        } catch (NotPossibleException e) {
            return List.of(); // a disk that is not there now may come back
        }
        long latest = changedBefore.toEpochMilli();
        return found.stream()
                .filter(one -> {
                    long changed = one.path().toFile().lastModified();
                    // A clock that is ahead dates files in the future; one being written has the date of this moment.
                    return changed < latest || changed > latest + AHEAD_MS;
                })
                .toList();
    }

    private static void collect(Path folder, int deeper, List<Found> found) {
        try (Stream<Path> entries = Files.list(folder)) {
            for (Path entry : entries.sorted().toList()) {
                String name = entry.getFileName().toString();
                boolean plain = Files.isRegularFile(entry, LinkOption.NOFOLLOW_LINKS);
                boolean odd = !plain && name.toLowerCase(Locale.ROOT).endsWith(".dng");
                boolean sidecar = name.toLowerCase(Locale.ROOT).endsWith(".xmp");
                if (name.startsWith(".") || sidecar) {
                    continue;
                }
                if (plain || odd) {
                    found.add(new Found(entry, plain ? Files.size(entry) : 0));
                } else if (deeper > 0 && Files.isDirectory(entry, LinkOption.NOFOLLOW_LINKS)) {
                    collect(entry, deeper - 1, found);
                }
                if (found.size() > MOST_FILES) {
                    throw new NotPossibleException("There are more than " + MOST_FILES
                            + " files below that folder. Take in its folders one by one.");
                }
            }
        } catch (IOException e) {
            throw new NotPossibleException("That folder cannot be listed. Check that it is there and may be read.");
        }
    }

    /** The real file behind an absolute path, refused unless it is an ordinary file below an allowed folder. */
    public Path allowedFile(Path path) {
        try {
            Path real = path.toRealPath();
            for (int root = 0; root < roots.size(); root++) {
                if (real.startsWith(realRoot(root)) && Files.isRegularFile(real)) {
                    return real;
                }
            }
        } catch (IOException e) {
            throw new NotPossibleException("There is no file " + path + ".");
        }
        throw new NotPossibleException(
                "The file " + path
                        + " is not below one of the allowed folders. Allow its folder with SIEVE_ROOTS when starting Rain Sieve.");
    }

    /** The real folder behind a request, refused unless it lies below the root. Links are not followed out of it. */
    public Path resolve(int root, String path) {
        if (root < 0 || root >= roots.size() || path == null) {
            throw new NotPossibleException(REFUSED);
        }
        if (path.indexOf('\0') >= 0 || path.indexOf('\\') >= 0 || path.startsWith("/") || path.matches("[A-Za-z]:.*")) {
            throw new NotPossibleException(REFUSED);
        }
        for (String part : path.split("/")) {
            if (part.equals("..")
                    || part.equals(".")
                    || part.equals(Temporaries.FOLDER)
                    || part.equals(Discarded.FOLDER)) {
                throw new NotPossibleException(REFUSED);
            }
        }
        try {
            Path real = realRoot(root).resolve(path).toRealPath();
            if (!real.startsWith(realRoot(root)) || !Files.isDirectory(real)) {
                throw new NotPossibleException(REFUSED);
            }
            return real;
        } catch (IOException | InvalidPathException e) {
            throw new NotPossibleException("That folder is not there any more.");
        }
    }

    private Path realRoot(int root) {
        try {
            return roots.get(root).toRealPath();
        } catch (IOException e) {
            throw new NotPossibleException("The allowed folder " + roots.get(root) + " is not there.");
        }
    }
}
