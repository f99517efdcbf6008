package org.rainsieve.raw;

import java.io.IOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import org.rainsieve.dng.DngFrame;
import org.rainsieve.dng.DngReader;
import org.rainsieve.dng.TiffReader;
import org.rainsieve.frame.RefusedException;

/** Opens a frame by what the file holds, whatever its ending says. */
public final class RawOpener {
    private static final long MAX_BYTES = 1L << 30;

    /** An opened frame and the SHA-256 of the very bytes it was read from. */
    public record Opened(DngFrame frame, String sha256) {}

    private RawOpener() {}

    /** @throws RefusedException with the reason in plain words; nothing is written or changed in any case */
    public static Opened open(Path file) throws RefusedException {
        byte[] data = bytes(file);
        if (data.length == 0) {
            throw new RefusedException("The file is empty.");
        }
        if (!TiffReader.looksLikeTiff(data)) {
            throw new RefusedException(kind(data));
        }
        try {
            if (DngReader.isOwnReturn(data)) {
                throw new OwnReturnException();
            }
            return new Opened(DngReader.read(data), sha256(data));
        } catch (RefusedException e) {
            throw e;
        } catch (RuntimeException e) {
            throw new RefusedException("The file is damaged in a way that keeps it from being read.", e);
        }
    }

    private static byte[] bytes(Path file) throws RefusedException {
        try {
            if (Files.isDirectory(file)) {
                throw new RefusedException("This is a folder, not a file.");
            }
            // Links are not followed: they may lead out of the folders that are allowed.
            if (!Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)) {
                throw new RefusedException(
                        Files.exists(file, LinkOption.NOFOLLOW_LINKS)
                                ? "This is not an ordinary file."
                                : "The file is not there any more.");
            }
            if (Files.size(file) > MAX_BYTES) {
                throw new RefusedException("The file is larger than 1 GiB, more than is read.");
            }
            return Files.readAllBytes(file);
        } catch (AccessDeniedException e) {
            throw new RefusedException("Rain Sieve is not allowed to read this file. Check its permissions.", e);
        } catch (NoSuchFileException e) {
            throw new RefusedException("The file is not there any more.", e);
        } catch (IOException e) {
            throw new RefusedException("The file cannot be read: " + e.getMessage(), e);
        }
    }

    private static String kind(byte[] data) {
        if (starts(data, 0xff, 0xd8, 0xff)) {
            return "This is a JPEG, a rendered picture; only DNG raw files are read so far.";
        }
        if (starts(data, 0x89, 'P', 'N', 'G')) {
            return "This is a PNG, a rendered picture; only DNG raw files are read so far.";
        }
        int text = 0;
        int looked = Math.min(data.length, 512);
        for (int i = 0; i < looked; i++) {
            text += data[i] >= 32 || data[i] == '\n' || data[i] == '\r' || data[i] == '\t' ? 1 : 0;
        }
        return text == looked
                ? "This is a text file, whatever its name says."
                : "This is not a DNG file, and no other kind is read so far.";
    }

    private static boolean starts(byte[] data, int... head) {
        for (int i = 0; i < head.length; i++) {
            if (data.length <= i || (data[i] & 0xff) != head[i]) {
                return false;
            }
        }
        return true;
    }

    public static String sha256(byte[] data) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(data));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
