package org.rainsieve.source;

import java.nio.charset.StandardCharsets;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.xmp.Xmp;

/** The tags of a frame with what its sidecar says of it in their place: rotation, position, time and rating. */
final class SidecarTags {
    private static final int GPS_VERSION = 0;
    private static final int GPS_ALTITUDE_REF = 5;
    private static final int GPS_ALTITUDE = 6;
    private static final int GPS_PROCESSING_METHOD = 27;

    /** Shares of 100 that stand for 0 to 5 stars (common practice). */
    private static final int[] RATING_PERCENT = {0, 1, 25, 50, 75, 99};

    private SidecarTags() {}

    /** @param sidecar an XMP packet, or an empty array */
    static TiffDirectory applied(TiffDirectory main, byte[] sidecar) {
        if (sidecar.length == 0) {
            return main;
        }
        Xmp.Shot told = Xmp.shot(sidecar);
        TiffDirectory own = main.copy();
        if (told.orientation() > 0) {
            own.put(TiffField.ofShorts(Tag.ORIENTATION, told.orientation()));
        }
        if (!told.takenAt().isEmpty()) {
            own.setExif(timed(own.exif().orElseGet(TiffDirectory::new), told.takenAt()));
        }
        if (!Double.isNaN(told.latitude()) && !Double.isNaN(told.longitude())) {
            own.setGps(placed(own.gps().orElseGet(TiffDirectory::new), told));
        }
        Integer rating = Xmp.marks(sidecar).rating();
        if (rating != null && own.has(Tag.RATING)) {
            own.put(TiffField.ofShorts(Tag.RATING, Math.max(0, rating)));
        }
        if (rating != null && own.has(Tag.RATING_PERCENT)) {
            own.put(TiffField.ofShorts(Tag.RATING_PERCENT, RATING_PERCENT[Math.max(0, rating)]));
        }
        return own;
    }

    /** @param taken {@code yyyy-MM-ddTHH:mm[:ss[.fff]][Z|±hh:mm]} */
    private static TiffDirectory timed(TiffDirectory exif, String taken) {
        TiffDirectory own = exif.copy();
        int zone = Math.max(
                taken.indexOf('Z'),
                Math.max(taken.indexOf('+'), taken.lastIndexOf('-') > 9 ? taken.lastIndexOf('-') : -1));
        String local = zone < 0 ? taken : taken.substring(0, zone);
        int dot = local.indexOf('.');
        String fraction = dot < 0 ? "" : local.substring(dot + 1);
        String second = dot < 0 ? local : local.substring(0, dot);
        second = second.length() == 16 ? second + ":00" : second;
        own.put(TiffField.ofText(
                Tag.DATE_TIME_ORIGINAL, second.replace('-', ':').replace('T', ' ')));
        own.remove(Tag.SUB_SEC_TIME_ORIGINAL);
        own.remove(Tag.OFFSET_TIME_ORIGINAL);
        if (!fraction.isEmpty()) {
            own.put(TiffField.ofText(Tag.SUB_SEC_TIME_ORIGINAL, fraction));
        }
        if (zone >= 0) {
            String offset = taken.substring(zone);
            own.put(TiffField.ofText(Tag.OFFSET_TIME_ORIGINAL, offset.equals("Z") ? "+00:00" : offset));
        }
        return own;
    }

    private static TiffDirectory placed(TiffDirectory gps, Xmp.Shot told) {
        TiffDirectory own = gps.copy();
        if (!own.has(GPS_VERSION)) {
            own.put(TiffField.ofBytes(GPS_VERSION, TiffType.BYTE, new byte[] {2, 3, 0, 0}));
        }
        own.put(text(Tag.GPS_LATITUDE_REF, told.latitude() < 0 ? "S" : "N"));
        own.put(degrees(Tag.GPS_LATITUDE, told.latitude()));
        own.put(text(Tag.GPS_LONGITUDE_REF, told.longitude() < 0 ? "W" : "E"));
        own.put(degrees(Tag.GPS_LONGITUDE, told.longitude()));
        own.put(TiffField.ofBytes(
                GPS_PROCESSING_METHOD, TiffType.UNDEFINED, "ASCII\0\0\0MANUAL".getBytes(StandardCharsets.US_ASCII)));
        own.remove(GPS_ALTITUDE);
        own.remove(GPS_ALTITUDE_REF);
        if (!Double.isNaN(told.altitudeM())) {
            own.put(TiffField.ofBytes(
                    GPS_ALTITUDE_REF, TiffType.BYTE, new byte[] {(byte) (told.altitudeM() < 0 ? 1 : 0)}));
            own.put(TiffField.ofRationals(GPS_ALTITUDE, TiffType.RATIONAL, 100, Math.abs(told.altitudeM())));
        }
        return own;
    }

    private static TiffField text(int tag, String value) {
        byte[] bytes = (value + "\0").getBytes(StandardCharsets.US_ASCII);
        return TiffField.ofBytes(tag, TiffType.ASCII, bytes);
    }

    private static TiffField degrees(int tag, double value) {
        double size = Math.abs(value);
        double minutes = (size - Math.floor(size)) * 60;
        return TiffField.ofRationals(
                tag,
                TiffType.RATIONAL,
                1_000_000,
                Math.floor(size),
                Math.floor(minutes),
                (minutes - Math.floor(minutes)) * 60);
    }
}
