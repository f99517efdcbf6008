package org.rainsieve.catalogue;

import com.adobe.internal.xmp.XMPException;
import com.adobe.internal.xmp.XMPMeta;
import com.drew.imaging.ImageMetadataReader;
import com.drew.imaging.ImageProcessingException;
import com.drew.metadata.Directory;
import com.drew.metadata.Metadata;
import com.drew.metadata.exif.ExifIFD0Directory;
import com.drew.metadata.exif.ExifSubIFDDirectory;
import com.drew.metadata.xmp.XmpDirectory;
import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.Iterator;
import java.util.Locale;
import java.util.concurrent.TimeUnit;
import java.util.regex.Pattern;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import javax.imageio.stream.ImageInputStream;

/** Looks at a picture as a catalogue would: its tags, and whether its pixels can be decoded. */
final class PictureCheck {
    private static final String XMP_MM = "http://ns.adobe.com/xap/1.0/mm/";
    private static final String ST_REF = "http://ns.adobe.com/xap/1.0/sType/ResourceRef#";
    private static final int DNG_VERSION = 0xc612;
    private static final Pattern DEVELOPED = Pattern.compile("(?i)\\.(jpe?g|tiff?|png)$");
    private static final long LONGEST_S = 120;

    /** Why a picture is not taken, in plain words. */
    static final class RefusedException extends Exception {
        private static final long serialVersionUID = 1;

        RefusedException(String why) {
            super(why);
        }
    }

    private PictureCheck() {}

    static Picture of(Path file, String arrivedAs) throws IOException, RefusedException, InterruptedException {
        String hash = hash(file);
        Metadata metadata = metadata(file);
        ExifIFD0Directory main = metadata.getFirstDirectoryOfType(ExifIFD0Directory.class);
        if (main == null || main.getString(ExifIFD0Directory.TAG_MODEL) == null) {
            throw new RefusedException("It does not say which camera took it.");
        }
        String taken = null;
        for (ExifSubIFDDirectory exif : metadata.getDirectoriesOfType(ExifSubIFDDirectory.class)) {
            String told = exif.getString(ExifSubIFDDirectory.TAG_DATETIME_ORIGINAL);
            taken = taken == null ? told : taken;
        }
        boolean raw =
                main.containsTag(DNG_VERSION) || !DEVELOPED.matcher(arrivedAs).find();
        int[] size = raw ? decodedByLibRaw(file) : decodedByJava(file);
        String original = original(metadata);
        return new Picture(
                file.toString(),
                arrivedAs,
                hash,
                original == null ? "sha256:" + hash : original,
                main.getString(ExifIFD0Directory.TAG_MODEL).strip(),
                taken == null ? "" : taken,
                size[0],
                size[1]);
    }

    private static Metadata metadata(Path file) throws IOException, RefusedException {
        try {
            Metadata metadata = ImageMetadataReader.readMetadata(file.toFile());
            for (Directory directory : metadata.getDirectories()) {
                for (String error : directory.getErrors()) {
                    throw new RefusedException("Its tags are damaged: " + error + ".");
                }
            }
            return metadata;
        } catch (ImageProcessingException e) {
            throw new RefusedException("It is no picture of a kind that is known.");
        }
    }

    /** xmpMM:DerivedFrom of its XMP; null without it. */
    private static String original(Metadata metadata) {
        for (XmpDirectory directory : metadata.getDirectoriesOfType(XmpDirectory.class)) {
            try {
                XMPMeta xmp = directory.getXMPMeta();
                var id = xmp.getStructField(XMP_MM, "DerivedFrom", ST_REF, "documentID");
                if (id != null) {
                    return id.getValue();
                }
            } catch (XMPException e) {
                return null;
            }
        }
        return null;
    }

    /** Half-size, which decodes every sample all the same. */
    private static int[] decodedByLibRaw(Path file) throws IOException, RefusedException, InterruptedException {
        Path picture = Files.createTempFile("catalogue", ".ppm");
        try {
            Process process = new ProcessBuilder("dcraw_emu", "-h", "-Z", picture.toString(), file.toString())
                    .redirectErrorStream(true)
                    .start();
            String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
            if (!process.waitFor(LONGEST_S, TimeUnit.SECONDS)) {
                process.destroyForcibly();
                throw new RefusedException("Decoding it took too long.");
            }
            if (process.exitValue() != 0 || said.contains("Cannot") || Files.size(picture) < 16) {
                throw new RefusedException("Its pixels cannot be decoded.");
            }
            byte[] head = new byte[64];
            try (InputStream in = Files.newInputStream(picture)) {
                in.readNBytes(head, 0, head.length);
            }
            String[] words = new String(head, StandardCharsets.ISO_8859_1).split("\\s+");
            return new int[] {Integer.parseInt(words[1]), Integer.parseInt(words[2])};
        } finally {
            Files.deleteIfExists(picture);
        }
    }

    private static int[] decodedByJava(Path file) throws RefusedException {
        boolean known = false;
        try (ImageInputStream in = ImageIO.createImageInputStream(file.toFile())) {
            // One reader may know what another does not.
            for (Iterator<ImageReader> readers = ImageIO.getImageReaders(in); readers.hasNext(); ) {
                ImageReader reader = readers.next();
                known = true;
                try {
                    in.seek(0);
                    reader.setInput(in, true, true);
                    BufferedImage image = reader.read(0);
                    return new int[] {image.getWidth(), image.getHeight()};
                } catch (IOException | RuntimeException e) {
                    continue;
                } finally {
                    reader.dispose();
                }
            }
        } catch (IOException e) {
            throw new RefusedException("Its pixels cannot be decoded.");
        }
        throw new RefusedException(
                known ? "Its pixels cannot be decoded." : "It is no picture of a kind that is known.");
    }

    private static String hash(Path file) throws IOException {
        try {
            MessageDigest digest = MessageDigest.getInstance("SHA-256");
            try (InputStream in = new DigestInputStream(Files.newInputStream(file), digest)) {
                in.transferTo(java.io.OutputStream.nullOutputStream());
            }
            return HexFormat.of().formatHex(digest.digest()).toLowerCase(Locale.ROOT);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
