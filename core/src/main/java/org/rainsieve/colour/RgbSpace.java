package org.rainsieve.colour;

/** A display or delivery space: its primaries, its white and the matrices between it and XYZ (D50). */
public final class RgbSpace {
    /** sRGB, IEC 61966-2-1. */
    public static final RgbSpace SRGB = new RgbSpace(White.D65, 0.64, 0.33, 0.30, 0.60, 0.15, 0.06);

    /** Adobe RGB (1998). */
    public static final RgbSpace ADOBE_RGB = new RgbSpace(White.D65, 0.64, 0.33, 0.21, 0.71, 0.15, 0.06);

    /** Display P3: the primaries of SMPTE RP 431-2, white D65, the curve of sRGB. */
    public static final RgbSpace DISPLAY_P3 = new RgbSpace(White.D65, 0.680, 0.320, 0.265, 0.690, 0.150, 0.060);

    /** ProPhoto RGB (ROMM), ISO 22028-2. */
    public static final RgbSpace PROPHOTO = new RgbSpace(White.D50, 0.7347, 0.2653, 0.1596, 0.8404, 0.0366, 0.0001);

    private final Matrix3 toXyzD50;
    private final Matrix3 fromXyzD50;

    private RgbSpace(White white, double... primaries) {
        double[] columns = new double[9];
        for (int c = 0; c < 3; c++) {
            double[] xyz = new White(primaries[2 * c], primaries[2 * c + 1]).xyz();
            for (int r = 0; r < 3; r++) {
                columns[r * 3 + c] = xyz[r];
            }
        }
        Matrix3 unscaled = new Matrix3(columns);
        Matrix3 toXyz = unscaled.times(Matrix3.diagonal(unscaled.inverse().times(white.xyz())));
        toXyzD50 = white.adaptTo(White.D50).times(toXyz);
        fromXyzD50 = toXyzD50.inverse();
    }

    /** @param primaries chromaticities x and y of red, green and blue in turn */
    public static RgbSpace of(White white, double... primaries) {
        return new RgbSpace(white, primaries);
    }

    public Matrix3 toXyzD50() {
        return toXyzD50;
    }

    public Matrix3 fromXyzD50() {
        return fromXyzD50;
    }

    /** The sRGB curve, IEC 61966-2-1. */
    public static double encode(double linear) {
        return linear <= 0.0031308 ? 12.92 * linear : 1.055 * Math.pow(linear, 1 / 2.4) - 0.055;
    }

    public static double decode(double encoded) {
        return encoded <= 0.04045 ? encoded / 12.92 : Math.pow((encoded + 0.055) / 1.055, 2.4);
    }
}
