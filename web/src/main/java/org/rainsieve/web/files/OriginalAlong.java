package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.opening.Glance;

/**
 * Copies an original, with its sidecar, to where its return goes. Copied and not linked: what happens to one must not happen
 * to the other. A copy that is there already is left; another file of the same name is never written over.
 */
public final class OriginalAlong {
    private OriginalAlong() {}

    /**
     * @param temporary a free name in the folder for temporary files there
     * @param sha256 of the original
     */
    public static void copy(Path original, String sha256, Path folder, Path temporary)
            throws IOException, RefusedException {
        if (Files.isSameFile(original.toAbsolutePath().getParent(), folder)) {
            return;
        }
        copyOne(original, sha256, folder, temporary);
        Path sidecar = Glance.sidecarFile(original);
        if (sidecar != null) {
            copyOne(sidecar, Sha256.of(sidecar), folder, temporary);
        }
    }

    private static void copyOne(Path from, String sha256, Path folder, Path temporary)
            throws IOException, RefusedException {
        String name = from.getFileName().toString();
        Path place = folder.resolve(name);
        for (int i = 2; Files.exists(place, LinkOption.NOFOLLOW_LINKS); i++) {
            if (Files.isRegularFile(place, LinkOption.NOFOLLOW_LINKS)
                    && Files.size(place) == Files.size(from)
                    && Sha256.of(place).equals(sha256)) {
                return;
            }
            place = folder.resolve(numbered(name, i));
        }
        try {
            OwnFiles.remove(temporary);
            OwnFiles.copy(from, temporary);
            if (!Sha256.of(temporary).equals(sha256)) {
                throw new RefusedException("The original could not be copied along: it changed meanwhile. Try again.");
            }
            OwnFiles.publish(temporary, place);
            OwnFiles.force(folder);
        } catch (FileAlreadyExistsException e) {
            copyOne(from, sha256, folder, temporary); // somebody was quicker; what lies there is looked at again
        } finally {
            OwnFiles.remove(temporary);
        }
    }

    private static String numbered(String name, int number) {
        int dot = name.lastIndexOf('.');
        return dot < 0 ? name + "-" + number : name.substring(0, dot) + "-" + number + name.substring(dot);
    }
}
