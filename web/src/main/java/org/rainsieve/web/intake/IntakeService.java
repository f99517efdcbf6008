package org.rainsieve.web.intake;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.time.LocalDateTime;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import org.rainsieve.file.Sha256;
import org.rainsieve.web.files.FolderService;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.Temporaries;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.stereotype.Service;

/** Ways in besides a folder by reference: files dropped onto a page, and files handed over by another program. */
@Service
public class IntakeService {
    private static final long LARGEST_FILE = 1L << 30;
    private static final long ROOM_LEFT = 512L << 20;
    private static final int LONGEST_NAME = 200;
    private static final int MOST_HANDED_OVER = 2000;
    private static final DateTimeFormatter FOLDER = DateTimeFormatter.ofPattern("yyyy-MM-dd HHmmss.SSS");

    private final ShootService shoots;
    private final FolderService folders;
    private final Path uploads;

    IntakeService(ShootService shoots, FolderService folders, SieveProperties properties) {
        this.shoots = shoots;
        this.folders = folders;
        this.uploads = properties.uploads();
    }

    /** Makes an empty shoot with a folder of its own, into which files are then put one by one. */
    public long beginUpload(String name) {
        String title = name == null || name.isBlank() ? "Dropped files" : name.strip();
        try {
            Path folder = OwnFiles.newFolder(
                    OwnFiles.ofSetUp(uploads), LocalDateTime.now().format(FOLDER));
            return shoots.addShoot(title, folder);
        } catch (IOException e) {
            throw new NotPossibleException(
                    "The folder for dropped files cannot be written. Check its permissions, or take in a folder instead.");
        }
    }

    /** What became of a file that was put in: its frame, or that the shoot has the same file already. */
    public record Put(String name, boolean already) {}

    /**
     * Streams one file into a shoot that {@link #beginUpload} made. A file of the same name with other content gets a
     * number; what breaks off leaves nothing behind.
     *
     * @param length as announced, or -1
     */
    public Put put(long shootId, String name, long length, InputStream content) {
        Path folder = uploadFolder(shootId);
        String plain = plainName(name);
        Path part = folder.resolve(Temporaries.FOLDER + "-" + Long.toHexString(System.nanoTime()));
        try {
            if (length > LARGEST_FILE) {
                throw new NotPossibleException("The file is larger than 1 GiB, more than is read.");
            }
            checkRoom(folder, length);
            MessageDigest digest = Sha256.digest();
            try (InputStream in = new DigestInputStream(content, digest);
                    OutputStream out = OwnFiles.create(part)) {
                byte[] buffer = new byte[1 << 16];
                long total = 0;
                for (int n = in.read(buffer); n >= 0; n = in.read(buffer)) {
                    total += n;
                    if (total > LARGEST_FILE) {
                        throw new NotPossibleException("The file is larger than 1 GiB, more than is read.");
                    }
                    out.write(buffer, 0, n);
                }
                if (length >= 0 && total != length) {
                    throw new NotPossibleException("The file broke off on its way. Drop it again.");
                }
            }
            return named(shootId, folder, part, plain, Sha256.hex(digest));
        } catch (IOException e) {
            throw new NotPossibleException("The file broke off on its way. Drop it again.");
        } finally {
            remove(part);
        }
    }

    private Put named(long shootId, Path folder, Path part, String plain, String hash) throws IOException {
        int dot = plain.lastIndexOf('.');
        String stem = dot > 0 ? plain.substring(0, dot) : plain;
        String ending = dot > 0 ? plain.substring(dot) : "";
        for (int number = 1; ; number++) {
            Path file = folder.resolve(number == 1 ? plain : stem + " (" + number + ")" + ending);
            try {
                long size = Files.size(part);
                OwnFiles.publish(part, file);
                shoots.addFrames(shootId, List.of(new FolderService.Found(file, size)));
                return new Put(file.getFileName().toString(), false);
            } catch (FileAlreadyExistsException e) {
                if (Files.size(file) == Files.size(part) && hash.equals(Sha256.of(file))) {
                    return new Put(file.getFileName().toString(), true);
                }
            }
        }
    }

    private static void remove(Path part) {
        try {
            OwnFiles.remove(part);
        } catch (IOException e) {
            // Emptied with the folder; a frame it never becomes, as its name begins with a dot.
        }
    }

    private Path uploadFolder(long shootId) {
        Path folder = Path.of(shoots.shoot(shootId).folder());
        try {
            if (folder.startsWith(uploads.toRealPath())) {
                return folder;
            }
        } catch (IOException e) {
            // Refused below.
        }
        throw new NotPossibleException("Files can only be dropped into a shoot that was begun by dropping files.");
    }

    /** A name without folders, control characters or a leading dot. */
    private static String plainName(String name) {
        String plain = name == null ? "" : name.strip();
        boolean bad = plain.isEmpty()
                || plain.length() > LONGEST_NAME
                || plain.startsWith(".")
                || plain.chars().anyMatch(c -> c < 32 || c == 127 || c == '/' || c == '\\' || c == ':');
        if (bad) {
            throw new NotPossibleException("A file of this name is not taken. Rename it and drop it again.");
        }
        return plain;
    }

    /** @throws NotPossibleException when the disk would be full after a file of that size */
    void checkRoom(Path folder, long bytes) throws IOException {
        if (Files.getFileStore(folder).getUsableSpace() < ROOM_LEFT + Math.max(0, bytes)) {
            throw new NotPossibleException(
                    "There is not enough room on the disk for this file. Make room and try again.");
        }
    }

    /**
     * Takes in files that another program hands over, each into the shoot of its folder.
     *
     * @return the frame of the first of them
     */
    public long open(List<String> paths) {
        if (paths.isEmpty() || paths.size() > MOST_HANDED_OVER) {
            throw new NotPossibleException("Between 1 and " + MOST_HANDED_OVER + " files can be handed over at once.");
        }
        List<Path> files = paths.stream().map(this::allowed).toList();
        long first = -1;
        for (Path file : files) {
            long frame = shoots.takeInFile(file);
            first = first < 0 ? frame : first;
        }
        return first;
    }

    private Path allowed(String path) {
        try {
            return folders.allowedFile(Path.of(path));
        } catch (InvalidPathException e) {
            throw new NotPossibleException(String.format(Locale.ROOT, "There is no file called %s.", path));
        }
    }
}
