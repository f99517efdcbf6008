package org.rainsieve.delivery;

import java.nio.charset.StandardCharsets;
import java.util.Set;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.icc.OutputProfile;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.xmp.Xmp;

/**
 * The tags of a delivered picture: who took it, when, with what and how it is turned, as the linear DNG tells; its size and colours
 * as they are now (EXIF 2.3, tables 3 to 8, and what it requires of every file).
 */
final class DeliveryTags {
    /** XPTitle, XPComment, XPAuthor, XPKeywords and XPSubject of Windows (common practice). */
    private static final Set<Integer> CARRIED = Set.of(
            Tag.DOCUMENT_NAME,
            Tag.IMAGE_DESCRIPTION,
            Tag.MAKE,
            Tag.MODEL,
            Tag.ORIENTATION,
            Tag.SOFTWARE,
            Tag.DATE_TIME,
            Tag.ARTIST,
            Tag.HOST_COMPUTER,
            Tag.RATING,
            Tag.RATING_PERCENT,
            Tag.COPYRIGHT,
            Tag.IPTC,
            40091,
            40092,
            40093,
            40094,
            40095);

    private static final int SRGB = 1;
    private static final int UNCALIBRATED = 65535;

    private DeliveryTags() {}

    static TiffDirectory of(TiffDirectory main, Delivered picture, DeliverySettings settings, OutputProfile profile) {
        TiffDirectory tags = new TiffDirectory();
        for (TiffField field : main.fields()) {
            if (CARRIED.contains(field.tag())) {
                tags.put(field);
            }
        }
        byte[] packet = Xmp.withoutOwn(main.field(Tag.XMP).map(TiffField::bytes).orElse(new byte[0]));
        if (packet.length > 0) {
            tags.put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, packet));
        }
        tags.put(TiffField.ofRationals(Tag.X_RESOLUTION, TiffType.RATIONAL, 100, settings.ppi()));
        tags.put(TiffField.ofRationals(Tag.Y_RESOLUTION, TiffType.RATIONAL, 100, settings.ppi()));
        tags.put(TiffField.ofShorts(Tag.RESOLUTION_UNIT, 2));
        boolean jpeg = settings.form() == DeliverySettings.Form.JPEG;
        tags.setExif(exif(main, picture, profile.isSrgb(), jpeg));
        if (jpeg) {
            tags.put(TiffField.ofShorts(Tag.YCBCR_POSITIONING, 1));
            interoperability(tags.exif().orElseThrow(), settings, profile);
        } else {
            tags.exif().orElseThrow().setInteroperability(null);
        }
        main.gps().ifPresent(gps -> tags.setGps(gps.copy()));
        return tags;
    }

    private static TiffDirectory exif(TiffDirectory main, Delivered picture, boolean srgb, boolean jpeg) {
        TiffDirectory exif = main.exif().map(TiffDirectory::copy).orElseGet(TiffDirectory::new);
        if (!exif.has(Tag.EXIF_VERSION)) {
            exif.put(undefined(Tag.EXIF_VERSION, "0230"));
        }
        if (!exif.has(Tag.FLASHPIX_VERSION)) {
            exif.put(undefined(Tag.FLASHPIX_VERSION, "0100"));
        }
        exif.remove(Tag.COMPONENTS_CONFIGURATION);
        if (jpeg) {
            exif.put(TiffField.ofBytes(
                    Tag.COMPONENTS_CONFIGURATION, TiffType.UNDEFINED, new byte[] {1, 2, 3, 0})); // Y, Cb, Cr
        }
        exif.put(TiffField.ofShorts(Tag.COLOR_SPACE, srgb ? SRGB : UNCALIBRATED));
        exif.put(TiffField.ofLongs(Tag.PIXEL_X_DIMENSION, picture.width()));
        exif.put(TiffField.ofLongs(Tag.PIXEL_Y_DIMENSION, picture.height()));
        // What only the tags of a DNG tell, EXIF has names for.
        String serial = main.text(Tag.CAMERA_SERIAL_NUMBER);
        if (!serial.isEmpty() && !exif.has(Tag.BODY_SERIAL_NUMBER)) {
            exif.put(TiffField.ofText(Tag.BODY_SERIAL_NUMBER, serial));
        }
        main.field(Tag.LENS_INFO)
                .filter(info -> !exif.has(Tag.LENS_SPECIFICATION))
                .ifPresent(info -> exif.put(
                        new TiffField(Tag.LENS_SPECIFICATION, info.type(), info.count(), info.bytes(), info.order())));
        return exif;
    }

    /** DCF's rule for the colour space of a JPEG; a directory that says something else does not go along. */
    private static void interoperability(TiffDirectory exif, DeliverySettings settings, OutputProfile profile) {
        String index = profile.isSrgb() ? "R98" : settings.space() == DeliverySpace.ADOBE_RGB ? "R03" : "";
        if (exif.interoperability().isEmpty() || index.isEmpty()) {
            exif.setInteroperability(null);
            return;
        }
        TiffDirectory rules = exif.interoperability().orElseThrow().copy();
        rules.put(TiffField.ofText(Tag.INTEROPERABILITY_INDEX, index));
        exif.setInteroperability(rules);
    }

    private static TiffField undefined(int tag, String digits) {
        return TiffField.ofBytes(tag, TiffType.UNDEFINED, digits.getBytes(StandardCharsets.US_ASCII));
    }
}
