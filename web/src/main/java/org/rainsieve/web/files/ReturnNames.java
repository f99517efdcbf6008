package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.charset.StandardCharsets;

/** Names of returns: the original's, the steps, and a number from the second version on. */
public final class ReturnNames {
    private static final int MAX_BYTES = 255;

    private ReturnNames() {}

    /**
     * @param ending with its dot
     * @throws IOException when the name would be longer than file systems allow
     */
    public static String name(String originalName, int version, String ending) throws IOException {
        String base = originalName.replaceFirst("\\.[^.]{1,5}$", "");
        String name = base + "-denoise" + (version == 1 ? "" : "-" + version) + ending;
        if (name.getBytes(StandardCharsets.UTF_8).length > MAX_BYTES) {
            throw new IOException("The name of the return would be longer than the file system allows (" + MAX_BYTES
                    + " bytes). Give the original a shorter name.");
        }
        return name;
    }
}
