package org.rainsieve.delivery;

import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.icc.IccProfile;
import org.rainsieve.icc.OutputProfile;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;

/** Copies of returns for clients and printers: 16-bit TIFF or JPEG in a named colour space. */
public final class Delivery {
    private Delivery() {}

    /** A picture's size in px. */
    public record Size(int width, int height) {}

    /**
     * @param returned a linear DNG that was written here
     * @param colour of its camera for that picture
     * @param file is created; must not exist; removed again when something goes wrong
     */
    public static Size write(Path returned, CameraColour colour, DeliverySettings settings, Path file)
            throws IOException, RefusedException {
        return write(returned, colour, settings, OutputProfile.of(settings.space()), List.of(), file, Long.MAX_VALUE);
    }

    /**
     * The same as a return of its own, which tells what it was made from and how, as a linear DNG does.
     *
     * @param own profile that a rendered picture came with: it keeps that and its resolution; null for raw files
     */
    public static Size writeReturn(
            Path returned, CameraColour colour, DeliverySettings settings, IccProfile own, Path file)
            throws IOException, RefusedException {
        OutputProfile kept = OutputProfile.own(own);
        OutputProfile profile = kept == null ? OutputProfile.of(settings.space()) : kept;
        List<Integer> told = own == null
                ? List.of(Tag.XMP)
                : List.of(Tag.XMP, Tag.X_RESOLUTION, Tag.Y_RESOLUTION, Tag.RESOLUTION_UNIT);
        return write(returned, colour, settings, profile, told, file, Long.MAX_VALUE);
    }

    /**
     * @param told tags of the return that go along besides
     * @param largest size in bytes above which a TIFF is a BigTIFF
     */
    static Size write(
            Path returned,
            CameraColour colour,
            DeliverySettings settings,
            OutputProfile profile,
            List<Integer> told,
            Path file,
            long largest)
            throws IOException, RefusedException {
        try (LinearDngFile dng = LinearDngFile.open(returned)) {
            Delivered picture = new Delivered(dng, dng.shown(), colour, settings, profile);
            TiffDirectory tags = DeliveryTags.of(dng.main(), picture, settings, profile);
            told.forEach(tag -> dng.main().field(tag).ifPresent(tags::put));
            try {
                if (settings.form() == DeliverySettings.Form.JPEG) {
                    JpegDelivery.write(picture, settings, profile.icc(), tags, file);
                } else {
                    TiffDelivery.write(picture, settings, profile.icc(), tags, file, largest);
                }
                return new Size(picture.width(), picture.height());
            } catch (FileAlreadyExistsException e) {
                throw e; // somebody else's file
            } catch (IOException | RuntimeException e) {
                Files.deleteIfExists(file);
                throw e;
            }
        }
    }
}
