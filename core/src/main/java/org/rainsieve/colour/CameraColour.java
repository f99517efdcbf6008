package org.rainsieve.colour;

/**
 * How a camera's colours are to be understood: the matrices of the DNG specification 1.4, chapter 6, for one or two
 * illuminants. Missing second or forward matrices are null.
 *
 * @param illuminant1 EXIF LightSource code of the first matrix
 * @param neutral camera values of a neutral as shot, any scale
 * @param baselineExposureStops stops by which the maker, and the file's own profile, want the plain rendering lightened; see {@link
 *     BaselineTone}
 */
public record CameraColour(
        int illuminant1,
        int illuminant2,
        Matrix3 colour1,
        Matrix3 colour2,
        Matrix3 forward1,
        Matrix3 forward2,
        Matrix3 calibration1,
        Matrix3 calibration2,
        double[] analogBalance,
        double[] neutral,
        double baselineExposureStops) {

    /** Camera values of white, the largest 1: what a neutral that just clips looks like. */
    public double[] white() {
        double largest = Math.max(neutral[0], Math.max(neutral[1], neutral[2]));
        return new double[] {neutral[0] / largest, neutral[1] / largest, neutral[2] / largest};
    }

    /** White-balance gains, the smallest 1. */
    public double[] gains() {
        double[] white = white();
        return new double[] {1 / white[0], 1 / white[1], 1 / white[2]};
    }

    /** By how many stops red and blue are brighter, against green, when white is set to another light than as shot. */
    public double[] whiteStops(White light) {
        double[] now = gains();
        double[] then = withNeutralOf(light).gains();
        return new double[] {
            Math.log(then[0] / then[1] * now[1] / now[0]) / Math.log(2),
            Math.log(then[2] / then[1] * now[1] / now[2]) / Math.log(2)
        };
    }

    /** The same for a neutral told as the chromaticity of its light: what the camera would see of that. */
    public CameraColour withNeutralOf(White light) {
        return with(toCamera(shareOfSecond(light)).times(light.xyz()), baselineExposureStops);
    }

    /** The same, whose plain rendering is brighter by so many stops. */
    public CameraColour brightened(double stops) {
        return with(neutral, baselineExposureStops + stops);
    }

    private CameraColour with(double[] otherNeutral, double otherExposureStops) {
        return new CameraColour(
                illuminant1,
                illuminant2,
                colour1,
                colour2,
                forward1,
                forward2,
                calibration1,
                calibration2,
                analogBalance,
                otherNeutral,
                otherExposureStops);
    }

    /** XYZ to camera values, under a light between the two illuminants. */
    private Matrix3 toCamera(double share) {
        return Matrix3.diagonal(analogBalance)
                .times(mixed(calibration1, calibration2, share))
                .times(mixed(colour1, colour2, share));
    }

    /** Camera values to XYZ (D50), white to Y = 1. */
    public Matrix3 toXyzD50() {
        White white = whitePoint();
        double share = shareOfSecond(white);
        Matrix3 calibration = mixed(calibration1, calibration2, share);
        Matrix3 balance = Matrix3.diagonal(analogBalance).times(calibration);
        Matrix3 forward = mixed(forward1, forward2, share);
        double[] cameraWhite = white();
        if (forward != null) {
            double[] reference = balance.inverse().times(cameraWhite);
            Matrix3 d = Matrix3.diagonal(1 / reference[0], 1 / reference[1], 1 / reference[2]);
            return forward.times(d).times(balance.inverse());
        }
        Matrix3 toXyz = balance.times(mixed(colour1, colour2, share)).inverse();
        double[] seen = toXyz.times(cameraWhite);
        double scale = 1 / seen[1];
        return white.adaptTo(White.D50).times(toXyz).times(Matrix3.diagonal(scale, scale, scale));
    }

    /** Camera values to linear sRGB, white to (1, 1, 1). */
    public Matrix3 toLinearSrgb() {
        return RgbSpace.SRGB.fromXyzD50().times(toXyzD50());
    }

    /** The chromaticity of the neutral, found by iteration because the matrices depend on it. */
    private White whitePoint() {
        White white = White.D50;
        for (int round = 0; round < 30; round++) {
            double share = shareOfSecond(white);
            double[] xyz = toCamera(share).inverse().times(white());
            double sum = xyz[0] + xyz[1] + xyz[2];
            White next = new White(xyz[0] / sum, xyz[1] / sum);
            if (Math.abs(next.x() - white.x()) + Math.abs(next.y() - white.y()) < 1e-7) {
                return next;
            }
            white = next;
        }
        return white;
    }

    private double shareOfSecond(White white) {
        if (colour2 == null) {
            return 0;
        }
        double t1 = temperatureK(illuminant1);
        double t2 = temperatureK(illuminant2);
        double t = Math.min(Math.max(white.temperatureK(), Math.min(t1, t2)), Math.max(t1, t2));
        return t1 == t2 ? 0 : (1 / t1 - 1 / t) / (1 / t1 - 1 / t2);
    }

    private static Matrix3 mixed(Matrix3 first, Matrix3 second, double share) {
        return first == null || second == null ? first : first.mixedWith(second, share);
    }

    /** Temperatures of EXIF LightSource codes, as the DNG specification lists them. */
    private static double temperatureK(int illuminant) {
        return switch (illuminant) {
            case 3, 17 -> 2850;
            case 24 -> 3200;
            case 2 -> 4150;
            case 23 -> 5000;
            case 1, 4, 9, 18, 20 -> 5500;
            case 10, 19, 21 -> 6500;
            case 11, 22 -> 7500;
            case 12 -> 6400;
            case 13 -> 5050;
            case 14 -> 4150;
            case 15 -> 3525;
            default -> 5000;
        };
    }
}
