package org.rainsieve.scene;

import org.rainsieve.colour.CameraColour;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.White;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/**
 * A made-up camera body: its sensor, its noise over ISO and its colours under two lights.
 *
 * @param shotAtIso100 a at ISO 100; grows in proportion to ISO
 * @param readBeforeGain r₀ of b = r₀·ISO² + r₁
 * @param readAfterGain r₁
 * @param colourA XYZ to camera under incandescent light
 * @param colourD65 XYZ to camera under daylight
 */
public record SimulatedCamera(
        String make,
        String model,
        String serial,
        CfaPattern pattern,
        int bits,
        int black,
        double shotAtIso100,
        double readBeforeGain,
        double readAfterGain,
        Matrix3 colourA,
        Matrix3 colourD65) {

    /** The main camera of the demo: 14 bits, RGGB. */
    public static final SimulatedCamera ONDREL_24 = new SimulatedCamera(
            "Ondrel",
            "Ondrel 24",
            "OD24-00417",
            CfaPattern.RGGB,
            14,
            1024,
            1.7e-5,
            2.5e-13,
            2e-8,
            Matrix3.of(0.8312, -0.3104, -0.0417, -0.4521, 1.2710, 0.2034, -0.0835, 0.1933, 0.7021),
            Matrix3.of(0.7421, -0.2514, -0.0633, -0.4302, 1.2235, 0.2318, -0.0702, 0.1614, 0.6320));

    /** The event camera of the demo: 14 bits, 6×6. */
    public static final SimulatedCamera KESVIK_M = new SimulatedCamera(
            "Kesvik",
            "Kesvik M",
            "K-55182",
            CfaPattern.SIX,
            14,
            1020,
            2.4e-5,
            4e-13,
            3e-8,
            Matrix3.of(0.8754, -0.3417, -0.0288, -0.4102, 1.2201, 0.2177, -0.0914, 0.2008, 0.6611),
            Matrix3.of(0.7733, -0.2702, -0.0571, -0.3987, 1.1904, 0.2391, -0.0808, 0.1722, 0.6012));

    /** The pocket camera of the demo: small sensor, 12 bits, GBRG. */
    public static final SimulatedCamera PILBO_S = new SimulatedCamera(
            "Pilbo",
            "Pilbo S",
            "PS-9031",
            CfaPattern.GBRG,
            12,
            256,
            9e-5,
            4e-13,
            2e-7,
            Matrix3.of(0.9021, -0.3633, -0.0521, -0.3911, 1.1820, 0.2411, -0.0710, 0.2120, 0.6404),
            Matrix3.of(0.8103, -0.2911, -0.0704, -0.3822, 1.1533, 0.2610, -0.0641, 0.1803, 0.5910));

    /** A shot's own circumstances. */
    public record Shot(
            int iso, double exposureSeconds, double aperture, String lens, double focalLengthMm, String time) {}

    public int white() {
        return (1 << bits) - 1;
    }

    public NoiseModel noiseAt(int iso) {
        return NoiseModel.uniform(shotAtIso100 * iso / 100, readBeforeGain * iso * iso + readAfterGain);
    }

    public SimulatedSensor sensor() {
        return sensor(SimulatedSensor.Flaws.NONE);
    }

    public SimulatedSensor sensor(SimulatedSensor.Flaws flaws) {
        return new SimulatedSensor(pattern, black, white(), flaws);
    }

    public CameraColour colour() {
        double[] neutral = colourD65.times(White.D65.xyz());
        return new CameraColour(
                17,
                21,
                colourA,
                colourD65,
                null,
                null,
                Matrix3.identity(),
                Matrix3.identity(),
                new double[] {1, 1, 1},
                neutral,
                0);
    }

    /** Linear sRGB (white 1, 1, 1) to this camera's values, in place; white reaches clipping in its strongest colour. */
    public void see(Planes srgb) {
        Matrix3 toCamera = colour().toLinearSrgb().inverse();
        float[] r = srgb.channel(0);
        float[] g = srgb.channel(1);
        float[] b = srgb.channel(2);
        double[] m = toCamera.m();
        for (int i = 0; i < r.length; i++) {
            double red = m[0] * r[i] + m[1] * g[i] + m[2] * b[i];
            double green = m[3] * r[i] + m[4] * g[i] + m[5] * b[i];
            double blue = m[6] * r[i] + m[7] * g[i] + m[8] * b[i];
            r[i] = (float) red;
            g[i] = (float) green;
            b[i] = (float) blue;
        }
    }

    /** Adds a place to the tags, as cameras with a receiver do: an invented spot in the middle of the sea. */
    public static void addPlace(TiffDirectory main, double latitude, double longitude) {
        TiffDirectory gps = new TiffDirectory();
        gps.put(TiffField.ofBytes(0, TiffType.BYTE, new byte[] {2, 3, 0, 0}));
        gps.put(TiffField.ofText(1, latitude < 0 ? "S" : "N"));
        gps.put(degrees(2, Math.abs(latitude)));
        gps.put(TiffField.ofText(3, longitude < 0 ? "W" : "E"));
        gps.put(degrees(4, Math.abs(longitude)));
        main.setGps(gps);
    }

    private static TiffField degrees(int tag, double angle) {
        double minutes = (angle - Math.floor(angle)) * 60;
        double seconds = (minutes - Math.floor(minutes)) * 60;
        return TiffField.ofRationals(tag, TiffType.RATIONAL, 1000, Math.floor(angle), Math.floor(minutes), seconds);
    }

    /** Adds a packet with rating and keywords, as cataloguing programs leave it in the file. */
    public static void addRating(TiffDirectory main, int rating, String... keywords) {
        main.put(TiffField.ofBytes(
                Tag.XMP, TiffType.BYTE, packet(rating, 0, keywords).getBytes(java.nio.charset.StandardCharsets.UTF_8)));
    }

    /**
     * A packet with rating, keywords and, where not 0, an exposure correction in stops (the property crs:Exposure of XMP
     * Specification Part 2), to be embedded or written beside the raw file.
     */
    public static String packet(int rating, double exposureStops, String... keywords) {
        StringBuilder xmp = new StringBuilder("<?xpacket begin=\"\uFEFF\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>"
                + "<x:xmpmeta xmlns:x=\"adobe:ns:meta/\"><rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\">"
                + "<rdf:Description rdf:about=\"\" xmlns:xmp=\"http://ns.adobe.com/xap/1.0/\""
                + " xmlns:dc=\"http://purl.org/dc/elements/1.1/\" xmp:Rating=\"" + rating + "\"");
        if (exposureStops != 0) {
            xmp.append(" xmlns:crs=\"http://ns.adobe.com/camera-raw-settings/1.0/\" crs:Exposure=\"")
                    .append(exposureStops)
                    .append('"');
        }
        xmp.append("><dc:subject><rdf:Bag>");
        for (String keyword : keywords) {
            xmp.append("<rdf:li>").append(keyword).append("</rdf:li>");
        }
        return xmp.append("</rdf:Bag></dc:subject></rdf:Description></rdf:RDF></x:xmpmeta><?xpacket end=\"w\"?>")
                .toString();
    }

    /** Hundredths of a second, as far as the time tells. */
    private static String fraction(String time) {
        return time.length() > 19 ? (time.substring(20) + "0").substring(0, 2) : "00";
    }

    /** The tags that this camera writes beside the picture. */
    public TiffDirectory tags(Shot shot, boolean withNoiseProfile) {
        TiffDirectory main = new TiffDirectory();
        main.put(TiffField.ofText(Tag.MAKE, make));
        main.put(TiffField.ofText(Tag.MODEL, model));
        main.put(TiffField.ofText(Tag.UNIQUE_CAMERA_MODEL, model));
        main.put(TiffField.ofText(Tag.SOFTWARE, model + " 1.02"));
        main.put(TiffField.ofText(Tag.CAMERA_SERIAL_NUMBER, serial));
        main.put(TiffField.ofShorts(Tag.ORIENTATION, 1));
        String time = shot.time().substring(0, 19).replace('-', ':').replace('T', ' ');
        main.put(TiffField.ofText(Tag.DATE_TIME, time));
        main.put(TiffField.ofRationals(Tag.COLOR_MATRIX_1, TiffType.SRATIONAL, 10000, colourA.m()));
        main.put(TiffField.ofRationals(Tag.COLOR_MATRIX_2, TiffType.SRATIONAL, 10000, colourD65.m()));
        main.put(TiffField.ofShorts(Tag.CALIBRATION_ILLUMINANT_1, 17));
        main.put(TiffField.ofShorts(Tag.CALIBRATION_ILLUMINANT_2, 21));
        main.put(TiffField.ofRationals(Tag.ANALOG_BALANCE, TiffType.RATIONAL, 1, 1, 1, 1));
        main.put(TiffField.ofRationals(Tag.AS_SHOT_NEUTRAL, TiffType.RATIONAL, 1_000_000, colour().white()));
        main.put(TiffField.ofRationals(Tag.BASELINE_EXPOSURE, TiffType.SRATIONAL, 100, 0));
        if (withNoiseProfile) {
            NoiseModel noise = noiseAt(shot.iso());
            main.put(TiffField.ofDoubles(
                    Tag.NOISE_PROFILE,
                    noise.a().get(0),
                    noise.b().get(0),
                    noise.a().get(1),
                    noise.b().get(1),
                    noise.a().get(2),
                    noise.b().get(2)));
        }
        TiffDirectory exif = new TiffDirectory();
        exif.put(TiffField.ofBytes(Tag.EXIF_VERSION, TiffType.UNDEFINED, new byte[] {'0', '2', '3', '1'}));
        exif.put(TiffField.ofRationals(Tag.EXPOSURE_TIME, TiffType.RATIONAL, 100_000, shot.exposureSeconds()));
        exif.put(TiffField.ofRationals(Tag.F_NUMBER, TiffType.RATIONAL, 10, shot.aperture()));
        exif.put(TiffField.ofShorts(Tag.ISO_SPEED, shot.iso()));
        exif.put(TiffField.ofText(Tag.DATE_TIME_ORIGINAL, time));
        exif.put(TiffField.ofText(Tag.SUB_SEC_TIME_ORIGINAL, fraction(shot.time())));
        exif.put(TiffField.ofText(Tag.OFFSET_TIME_ORIGINAL, "+01:00"));
        if (shot.focalLengthMm() > 0) {
            exif.put(TiffField.ofRationals(Tag.FOCAL_LENGTH, TiffType.RATIONAL, 10, shot.focalLengthMm()));
        }
        exif.put(TiffField.ofText(Tag.BODY_SERIAL_NUMBER, serial));
        if (!shot.lens().isEmpty()) {
            exif.put(TiffField.ofText(Tag.LENS_MODEL, shot.lens()));
        }
        main.setExif(exif);
        return main;
    }
}
