package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.stereotype.Service;

/** Where returns can go on this installation. */
@Service
public class Destinations {
    public static final String BESIDE = "beside";
    public static final String SUB_FOLDER = "sub-folder";
    public static final String MIRROR = "mirror";
    public static final String INBOX = "inbox";

    private static final String FOLDER = "returns";

    private final List<Path> roots;
    private final Path uploads;
    private final Path mirror;
    private final Path inbox;

    Destinations(SieveProperties properties) {
        roots = properties.roots();
        uploads = properties.uploads();
        mirror = properties.returns();
        inbox = properties.inbox();
    }

    /** The destinations that are set up, with what they are called. */
    public Map<String, String> available() {
        Map<String, String> all = new LinkedHashMap<>();
        all.put(BESIDE, "beside the originals");
        all.put(SUB_FOLDER, "into a sub-folder “" + FOLDER + "”");
        if (mirror != null) {
            all.put(MIRROR, "into a tree of their own: " + mirror);
        }
        if (inbox != null) {
            all.put(INBOX, "into the inbox of the catalogue: " + inbox);
        }
        return all;
    }

    /**
     * The folder of a return.
     *
     * @throws NotPossibleException where this process is not told where that is, unlike the one that the run was started in
     */
    public Path folder(String destination, Path original) {
        if (!available().containsKey(destination)) {
            throw new NotPossibleException("This worker does not know where returns are to go (" + destination
                    + "). Start it with the same SIEVE_RETURNS and SIEVE_INBOX as the application, and try again.");
        }
        Path beside = original.toAbsolutePath().getParent();
        return switch (destination) {
            case SUB_FOLDER -> beside.resolve(FOLDER);
            case MIRROR -> mirrored(beside);
            case INBOX -> inbox;
            default -> beside;
        };
    }

    /** The folder of a return, made where it is missing; never a link that is not of the set-up. */
    public Path made(String destination, Path original) throws IOException {
        Path folder = folder(destination, original);
        return switch (destination) {
            case SUB_FOLDER -> OwnFiles.folder(folder.getParent(), FOLDER);
            case MIRROR -> OwnFiles.folders(OwnFiles.ofSetUp(mirror), mirror.relativize(folder));
            case INBOX -> OwnFiles.ofSetUp(inbox);
            default -> folder;
        };
    }

    /** The same way down from the folder of all returns as from the allowed folder that the original lies in. */
    private Path mirrored(Path beside) {
        List<Path> tops = new ArrayList<>(roots);
        tops.add(uploads);
        for (Path top : tops) {
            for (Path real : List.of(top.toAbsolutePath().normalize(), real(top))) {
                if (beside.startsWith(real)) {
                    // Two allowed folders may have folders of one name.
                    Path name = real.getFileName() == null ? Path.of("") : real.getFileName();
                    return mirror.resolve(name).resolve(real.relativize(beside).toString());
                }
            }
        }
        return mirror.resolve(beside.getFileName());
    }

    private static Path real(Path path) {
        try {
            return path.toRealPath();
        } catch (IOException e) {
            return path.toAbsolutePath().normalize();
        }
    }

    /** Every folder that returns of originals in these folders may have gone to. */
    public Set<Path> all(List<Path> originals) {
        Set<Path> folders = new LinkedHashSet<>();
        for (Path folder : originals) {
            for (String destination : available().keySet()) {
                folders.add(folder(destination, folder.resolve("any")));
            }
        }
        return folders;
    }
}
