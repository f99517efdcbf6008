package org.rainsieve.opening;

import java.io.IOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import org.rainsieve.dng.DngReader;
import org.rainsieve.embedded.FileKind;
import org.rainsieve.file.FileBytes;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.raw.FencedDecoder;
import org.rainsieve.raw.MakersRaw;
import org.rainsieve.rendered.RenderedPicture;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.TiffReader;

/** Opens a frame by what the file holds, whatever its ending says. */
public final class RawOpener {
    private static final long MAX_BYTES = 1L << 30;

    /** An opened frame and the SHA-256 of the very bytes it was read from. */
    public record Opened(OpenedFrame frame, String sha256) {}

    private RawOpener() {}

    /** Opens what needs no decoder; other makers' raw files are refused. */
    public static Opened open(Path file) throws RefusedException {
        return open(file, null);
    }

    /**
     * @param decoder for other makers' raw files; null without one
     * @throws RefusedException with the reason in plain words; nothing is written or changed in any case
     */
    public static Opened open(Path file, FencedDecoder decoder) throws RefusedException {
        byte[] data = bytes(file);
        if (data.length == 0) {
            throw new RefusedException("The file is empty.");
        }
        try {
            boolean ownJpeg = FileKind.of(data) == FileKind.JPEG && Glance.isOwnJpeg(FileBytes.of(data));
            if (ownJpeg || TiffReader.looksLikeTiff(data) && DngReader.isOwnReturn(data)) {
                throw new OwnReturnException();
            }
            return new Opened(frame(data, decoder), Sha256.of(data));
        } catch (RefusedException e) {
            throw e;
        } catch (RuntimeException e) {
            throw new RefusedException("The file is damaged in a way that keeps it from being read.", e);
        }
    }

    private static OpenedFrame frame(byte[] data, FencedDecoder decoder) throws RefusedException {
        if (FileKind.of(data) == FileKind.DNG) {
            return DngReader.read(data);
        }
        if (FileKind.of(data) == FileKind.MAKERS_RAW) {
            if (decoder == null) {
                throw new RefusedException("This is a raw file other than DNG, and no decoder for those is set up.");
            }
            return MakersRaw.of(data, decoder);
        }
        if (FileKind.of(data).refusal().isEmpty()) {
            return RenderedPicture.of(data, FileKind.of(data));
        }
        throw new RefusedException(FileKind.of(data).refusal());
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
}
