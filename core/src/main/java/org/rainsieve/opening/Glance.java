package org.rainsieve.opening;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.rainsieve.embedded.EmbeddedPreview;
import org.rainsieve.embedded.EmbeddedTags;
import org.rainsieve.embedded.FileKind;
import org.rainsieve.embedded.JpegMetadata;
import org.rainsieve.file.FileBytes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.raw.FencedDecoder;
import org.rainsieve.raw.MakersRaw;
import org.rainsieve.rendered.RenderedPicture;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.xmp.Xmp;

/**
 * What a file tells of itself before its pixels are read, from its directories alone; a large file costs no more than a
 * small one.
 *
 * @param body as {@link org.rainsieve.source.OpenedFrame#body}; empty where the file does not tell
 * @param place latitude and longitude in degrees, north and east positive; null without them
 * @param marks from the file and, before it, from a sidecar
 * @param preview a JPEG that the file holds of itself; null without one
 * @param own whether it is a return of ours
 * @param tiff whether it is a rendered TIFF
 */
public record Glance(
        String body,
        ShotInfo shot,
        int width,
        int height,
        double[] place,
        Xmp.Marks marks,
        byte[] preview,
        boolean own,
        boolean tiff) {
    private static final long LARGEST = 256L << 20;
    private static final long LARGEST_SIDECAR = 4L << 20;

    /**
     * @param decoder asked about raw files whose directories are not known here; null without one
     * @throws RefusedException when the file cannot be read at all
     */
    public static Glance of(Path file, FencedDecoder decoder) throws RefusedException {
        try (FileBytes bytes = FileBytes.open(file)) {
            FileKind kind = FileKind.of(bytes);
            List<TiffDirectory> chain =
                    kind == FileKind.JPEG ? EmbeddedTags.ofJpeg(bytes, 0) : EmbeddedTags.chain(bytes);
            List<TiffDirectory> all = new ArrayList<>(chain);
            chain.forEach(directory -> all.addAll(directory.subDirectories()));
            TiffDirectory main = chain.get(0);
            byte[] packet = packet(bytes, main, kind);
            boolean rendered = kind == FileKind.JPEG || kind == FileKind.TIFF || kind == FileKind.PNG;
            TiffDirectory told =
                    ShotTags.besides(rendered ? RenderedPicture.described(main, kind) : main, sidecar(file));
            ShotInfo shot = ShotTags.shot(told);
            if (kind == FileKind.MAKERS_RAW && shot.model().isEmpty() && decoder != null && bytes.length() <= LARGEST) {
                shot = MakersRaw.shot(bytes.slice(0, (int) bytes.length()), decoder);
            }
            TiffDirectory picture = kind == FileKind.JPEG ? new TiffDirectory() : picture(all);
            boolean linear = kind == FileKind.DNG && picture.number(Tag.PHOTOMETRIC, 0) == Tag.PHOTOMETRIC_LINEAR_RAW;
            boolean known = !shot.model().isEmpty() || !shot.make().isEmpty();
            return new Glance(
                    known ? shot.camera() + (rendered ? " (rendered)" : linear ? " (linear)" : "") : "",
                    shot,
                    (int) picture.number(Tag.IMAGE_WIDTH, 0),
                    (int) picture.number(Tag.IMAGE_LENGTH, 0),
                    told.gps().map(Glance::place).orElse(null),
                    marks(file, packet),
                    EmbeddedPreview.of(bytes, all),
                    isOwn(packet),
                    kind == FileKind.TIFF);
        } catch (IOException | UncheckedIOException e) {
            throw new RefusedException("The file cannot be read: " + e.getMessage(), e);
        } catch (RuntimeException e) {
            throw new RefusedException("The file is damaged in a way that keeps it from being read.", e);
        }
    }

    /** The XMP packet of a DNG, TIFF or JPEG; empty without one. */
    public static byte[] packet(Path file) throws IOException, RefusedException {
        try (FileBytes bytes = FileBytes.open(file)) {
            return packet(bytes, EmbeddedTags.chain(bytes).get(0), FileKind.of(bytes));
        } catch (UncheckedIOException e) {
            throw e.getCause();
        }
    }

    private static byte[] packet(FileBytes file, TiffDirectory main, FileKind kind) {
        return kind == FileKind.JPEG
                ? JpegMetadata.xmp(file)
                : main.field(Tag.XMP).map(TiffField::bytes).orElse(new byte[0]);
    }

    static boolean isOwnJpeg(FileBytes file) {
        return isOwn(JpegMetadata.xmp(file));
    }

    private static boolean isOwn(byte[] packet) {
        return packet.length > 0 && !Xmp.property(packet, "OriginalSha256").isEmpty();
    }

    /** The directory of the picture itself: the largest that is not marked as a reduced one. */
    private static TiffDirectory picture(List<TiffDirectory> all) {
        TiffDirectory best = all.get(0);
        for (TiffDirectory directory : all) {
            boolean full = directory.number(Tag.NEW_SUBFILE_TYPE, 0) == 0;
            if (full && directory.number(Tag.IMAGE_WIDTH, 0) > best.number(Tag.IMAGE_WIDTH, 0)
                    || full && best.number(Tag.NEW_SUBFILE_TYPE, 0) != 0) {
                best = directory;
            }
        }
        return best;
    }

    private static double[] place(TiffDirectory gps) {
        double[] latitude = gps.numbers(Tag.GPS_LATITUDE);
        double[] longitude = gps.numbers(Tag.GPS_LONGITUDE);
        if (latitude.length != 3 || longitude.length != 3) {
            return null;
        }
        double north = degrees(latitude) * (gps.text(Tag.GPS_LATITUDE_REF).startsWith("S") ? -1 : 1);
        double east = degrees(longitude) * (gps.text(Tag.GPS_LONGITUDE_REF).startsWith("W") ? -1 : 1);
        return Math.abs(north) <= 90 && Math.abs(east) <= 180 ? new double[] {north, east} : null;
    }

    private static double degrees(double[] parts) {
        return parts[0] + parts[1] / 60 + parts[2] / 3600;
    }

    private static Xmp.Marks marks(Path file, byte[] inside) throws IOException {
        Xmp.Marks own = Xmp.marks(inside);
        Xmp.Marks beside = Xmp.marks(sidecar(file));
        return new Xmp.Marks(
                beside.rating() == null ? own.rating() : beside.rating(),
                beside.keywords().isEmpty() ? own.keywords() : beside.keywords());
    }

    /** What the sidecar of a file says; empty without one. */
    public static byte[] sidecar(Path file) throws IOException {
        Path sidecar = sidecarFile(file);
        return sidecar == null ? new byte[0] : Files.readAllBytes(sidecar);
    }

    /** The sidecar of a file: its name with the ending replaced, or added. Null without one. */
    public static Path sidecarFile(Path file) throws IOException {
        String name = file.getFileName().toString();
        String stem = name.contains(".") ? name.substring(0, name.lastIndexOf('.')) : name;
        for (String candidate : List.of(stem + ".xmp", stem + ".XMP", name + ".xmp")) {
            Path sidecar = file.resolveSibling(candidate);
            if (Files.isRegularFile(sidecar, LinkOption.NOFOLLOW_LINKS) && Files.size(sidecar) <= LARGEST_SIDECAR) {
                return sidecar;
            }
        }
        return null;
    }

    /** Latitude and longitude to 0.1 m; empty without them. */
    public String placeText() {
        return place == null ? "" : String.format(Locale.ROOT, "%.6f, %.6f", place[0], place[1]);
    }
}
