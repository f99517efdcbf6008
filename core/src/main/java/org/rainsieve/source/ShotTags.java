package org.rainsieve.source;

import java.util.Arrays;
import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.White;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;

/** What the tags of a DNG's main directory say about its colours and its shot. */
public final class ShotTags {
    private ShotTags() {}

    /** How the camera's colours are to be understood. */
    public static CameraColour colour(TiffDirectory main) throws RefusedException {
        Matrix3 first = matrix(main, Tag.COLOR_MATRIX_1);
        Matrix3 second = matrix(main, Tag.COLOR_MATRIX_2);
        if (first == null) {
            throw new RefusedException("The DNG has no colour matrix (ColorMatrix1), so its colours cannot be known.");
        }
        double[] balance = main.numbers(Tag.ANALOG_BALANCE);
        try {
            double[] neutral = main.numbers(Tag.AS_SHOT_NEUTRAL);
            boolean told = neutral.length == 3 && Arrays.stream(neutral).allMatch(v -> v > 0.01 && v < 100);
            CameraColour colour = new CameraColour(
                    (int) main.number(Tag.CALIBRATION_ILLUMINANT_1, 0),
                    (int) main.number(Tag.CALIBRATION_ILLUMINANT_2, 0),
                    first,
                    second,
                    matrix(main, Tag.FORWARD_MATRIX_1),
                    matrix(main, Tag.FORWARD_MATRIX_2),
                    orIdentity(matrix(main, Tag.CAMERA_CALIBRATION_1)),
                    orIdentity(matrix(main, Tag.CAMERA_CALIBRATION_2)),
                    balance.length == 3 ? balance : new double[] {1, 1, 1},
                    told ? neutral : new double[] {1, 1, 1},
                    main.real(Tag.BASELINE_EXPOSURE, 0) + main.real(Tag.BASELINE_EXPOSURE_OFFSET, 0));
            if (!told) {
                double[] xy = main.numbers(Tag.AS_SHOT_WHITE_XY);
                colour = colour.withNeutralOf(xy.length == 2 && xy[1] > 0 ? new White(xy[0], xy[1]) : White.D50);
            }
            colour.toLinearSrgb();
            return colour;
        } catch (IllegalArgumentException e) {
            throw new RefusedException("The DNG's colour matrices make no sense: the file is damaged.", e);
        }
    }

    private static Matrix3 matrix(TiffDirectory main, int tag) {
        double[] numbers = main.numbers(tag);
        return numbers.length == 9 ? new Matrix3(numbers) : null;
    }

    private static Matrix3 orIdentity(Matrix3 matrix) {
        return matrix == null ? Matrix3.identity() : matrix;
    }

    /** The tags with what a sidecar says of the shot in their place: rotation, position, time and rating. */
    public static TiffDirectory besides(TiffDirectory main, byte[] sidecar) {
        return SidecarTags.applied(main, sidecar);
    }

    /** What the main and EXIF directories say about the shot. */
    public static ShotInfo shot(TiffDirectory main) {
        TiffDirectory exif = main.exif().orElse(main);
        long iso = exif.number(Tag.ISO_SPEED, 0);
        if (iso == 0 || iso == 65535) {
            iso = exif.number(Tag.RECOMMENDED_EXPOSURE_INDEX, iso);
        }
        String serial = main.text(Tag.CAMERA_SERIAL_NUMBER);
        String time = exif.text(Tag.DATE_TIME_ORIGINAL);
        if (time.length() == 19) {
            time = time.substring(0, 10).replace(':', '-') + "T" + time.substring(11);
            String fraction = exif.text(Tag.SUB_SEC_TIME_ORIGINAL);
            time += (fraction.isEmpty() ? "" : "." + fraction) + exif.text(Tag.OFFSET_TIME_ORIGINAL);
        }
        int orientation = (int) main.number(Tag.ORIENTATION, 1);
        return new ShotInfo(
                main.text(Tag.MAKE),
                main.text(Tag.MODEL).isEmpty() ? main.text(Tag.UNIQUE_CAMERA_MODEL) : main.text(Tag.MODEL),
                serial.isEmpty() ? exif.text(Tag.BODY_SERIAL_NUMBER) : serial,
                (int) Math.min(iso, Integer.MAX_VALUE),
                exif.real(Tag.EXPOSURE_TIME, Double.NaN),
                exif.real(Tag.F_NUMBER, Double.NaN),
                exif.real(Tag.FOCAL_LENGTH, Double.NaN),
                exif.text(Tag.LENS_MODEL),
                time,
                orientation >= 1 && orientation <= 8 ? orientation : 1,
                exif.real(Tag.EXPOSURE_BIAS, Double.NaN));
    }

    /** The values of the NoiseProfile tag, which stands in the main directory or the picture's own; empty without one. */
    public static List<Double> noiseProfile(TiffDirectory main, TiffDirectory raw) {
        TiffDirectory holder = main.has(Tag.NOISE_PROFILE) ? main : raw;
        return Arrays.stream(holder.numbers(Tag.NOISE_PROFILE)).boxed().toList();
    }
}
