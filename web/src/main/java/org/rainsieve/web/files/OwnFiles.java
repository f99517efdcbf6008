package org.rainsieve.web.files;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.channels.FileChannel;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileTime;
import java.nio.file.attribute.PosixFilePermissions;
import org.rainsieve.web.setup.NotPossibleException;

/**
 * What the application does to files: whatever is written, named, moved or deleted goes through this package (see
 * docs/files.md), so that it can be seen in one place that originals are safe. Nothing is written over, no link is followed.
 */
public final class OwnFiles {
    private OwnFiles() {}

    /**
     * A folder of ours inside another, made where it is missing.
     *
     * @throws NotPossibleException where something else than a folder has that name: what is written or deleted behind a link is
     *     not ours
     */
    public static Path folder(Path in, String name) throws IOException {
        Path folder = in.resolve(name);
        try {
            return Files.createDirectory(folder);
        } catch (FileAlreadyExistsException e) {
            if (!Files.isDirectory(folder, LinkOption.NOFOLLOW_LINKS)) {
                throw new NotPossibleException(folder + " is a link or a file, and Rain Sieve writes into folders only."
                        + " Move it away, or choose another place for returns.");
            }
            return folder;
        }
    }

    /** The same for a way down of several folders. */
    static Path folders(Path in, Path down) throws IOException {
        Path folder = in;
        for (Path name : down) {
            if (!name.toString().isEmpty()) {
                folder = folder(folder, name.toString());
            }
        }
        return folder;
    }

    /** A folder of ours that must not be there yet. */
    public static Path newFolder(Path in, String name) throws IOException {
        return Files.createDirectory(in.resolve(name));
    }

    /** A folder that the set-up names, made where it is missing; it may be a link. */
    public static Path ofSetUp(Path folder) throws IOException {
        if (!Files.isDirectory(folder)) {
            Files.createDirectories(folder);
        }
        return folder.toRealPath();
    }

    /** A new folder for what lives no longer than this process, in the system's place for temporary files. */
    public static Path scratch(String what) throws IOException {
        return Files.createTempDirectory("rain-sieve-" + what);
    }

    /** Puts a secret into a file that only its owner can read, in place of the one of the last start. */
    public static void replaceSecret(Path file, String secret) throws IOException {
        Path part = file.resolveSibling(file.getFileName() + ".part");
        Files.deleteIfExists(part);
        Files.createFile(part, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        Files.writeString(part, secret);
        Files.move(part, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    /** A name for a file that is written here, and named when it is done. */
    public static Path part(Path folder) {
        return folder.resolve(".rain-sieve-" + Long.toHexString(System.nanoTime()) + ".part");
    }

    /** Opens a file that must not be there yet. */
    public static OutputStream create(Path file) throws IOException {
        return Files.newOutputStream(file, StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE);
    }

    /** Copies a file, with its times, to a name that must not be there yet. */
    static void copy(Path from, Path to) throws IOException {
        Files.copy(from, to, StandardCopyOption.COPY_ATTRIBUTES, LinkOption.NOFOLLOW_LINKS);
        try (FileChannel channel = FileChannel.open(to, StandardOpenOption.READ, LinkOption.NOFOLLOW_LINKS)) {
            channel.force(true);
        }
    }

    /** Removes a file that this process made. A link of that name is removed itself, not what it points to. */
    public static void remove(Path file) throws IOException {
        Files.deleteIfExists(file);
    }

    /** The time that the original was changed, for its copy. */
    public static void setTime(Path file, FileTime time) throws IOException {
        Files.setLastModifiedTime(file, time);
    }

    /**
     * Gives a finished file its name. Afterwards the file may have its old name, too, or not.
     *
     * @throws FileAlreadyExistsException when that name is taken
     */
    public static void publish(Path temporary, Path name) throws IOException {
        try {
            Files.createLink(name, temporary);
        } catch (FileAlreadyExistsException | NoSuchFileException e) {
            throw e;
        } catch (UnsupportedOperationException | IOException e) {
            // File systems without links say so in many ways.
            publishWithoutLinks(temporary, name);
        }
    }

    /** The name is taken by an empty file first, which fails where it is taken already, as a move alone would not. */
    static void publishWithoutLinks(Path temporary, Path name) throws IOException {
        Files.createFile(name);
        try {
            Files.move(temporary, name, StandardCopyOption.ATOMIC_MOVE);
        } catch (IOException | RuntimeException e) {
            if (Files.isRegularFile(name, LinkOption.NOFOLLOW_LINKS) && Files.size(name) == 0) {
                Files.delete(name);
            }
            throw e;
        }
    }

    /** Moves a file of ours to a name that must be free. */
    static void move(Path file, Path to) throws IOException {
        publish(file, to);
        Files.deleteIfExists(file);
    }

    /** Waits until the names in a folder are on the disk. */
    public static void force(Path folder) throws IOException {
        try (FileChannel channel = FileChannel.open(folder, StandardOpenOption.READ)) {
            channel.force(true);
        }
    }

    /** Waits until a file's bytes are on the disk. */
    public static void forceFile(Path file) throws IOException {
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE, LinkOption.NOFOLLOW_LINKS)) {
            channel.force(true);
        }
    }
}
