package org.rainsieve.icc;

import java.awt.color.ICC_Profile;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import org.rainsieve.colour.Lab;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.frame.RefusedException;

/**
 * What an ICC profile (ICC.1:2010) of three colorants, or of grey, says about the values of a picture: a curve for each
 * channel and a matrix to XYZ (D50). Pictures whose profile rests on tables instead are taken through those by the platform's
 * colour engine first, see {@link #tables}.
 */
public final class IccProfile {
    private static final int MOST_TAGS = 200;
    private static final int MOST_POINTS = 65536;

    /** From encoded values, 0 to 1, to linear light. */
    public interface Curve {
        double linear(double encoded);
    }

    /** IEC 61966-2-1, for pictures that say nothing else. */
    public static final IccProfile SRGB =
            new IccProfile(RgbSpace.SRGB.toXyzD50(), RgbSpace::decode, RgbSpace::decode, RgbSpace::decode);

    /** Adobe RGB (1998), which cameras mark in EXIF instead of a profile. */
    public static final IccProfile ADOBE_RGB = gamma(RgbSpace.ADOBE_RGB, 563 / 256.0);

    private final Matrix3 toXyzD50;
    private final Curve[] curves;
    private final byte[] bytes;
    private final ICC_Profile tables;

    private IccProfile(Matrix3 toXyzD50, Curve red, Curve green, Curve blue) {
        this(toXyzD50, red, green, blue, null, null);
    }

    private IccProfile(Matrix3 toXyzD50, Curve red, Curve green, Curve blue, byte[] bytes, ICC_Profile tables) {
        this.tables = tables;
        this.bytes = bytes;
        this.toXyzD50 = toXyzD50;
        this.curves = new Curve[] {red, green, blue};
    }

    /** One that no file holds: all three channels have the same curve. */
    public static IccProfile of(RgbSpace space, Curve curve) {
        return new IccProfile(space.toXyzD50(), curve, curve, curve);
    }

    private static IccProfile gamma(RgbSpace space, double gamma) {
        return of(space, v -> Math.pow(Math.max(0, v), gamma));
    }

    public Matrix3 toXyzD50() {
        return toXyzD50;
    }

    /** The profile as it stood in the file, when it is one for three channels; null otherwise. */
    public byte[] bytes() {
        return bytes == null ? null : bytes.clone();
    }

    /**
     * The profile whose tables take stored values to XYZ (D50); what is told here is then linear ProPhoto RGB, in which there is
     * room for all of it. Null for profiles of curves and a matrix.
     */
    public ICC_Profile tables() {
        return tables;
    }

    public Curve curve(int channel) {
        return curves[channel];
    }

    /** @throws RefusedException in plain words for profiles that are damaged or of another kind */
    public static IccProfile parse(byte[] bytes) throws RefusedException {
        try {
            ByteBuffer in = ByteBuffer.wrap(bytes);
            String space = new String(bytes, 16, 4, StandardCharsets.US_ASCII);
            boolean grey = space.equals("GRAY");
            if (!grey && !space.equals("RGB ")) {
                throw new RefusedException("The picture's colour profile is for " + space.strip()
                        + " values; only RGB and grey pictures are read.");
            }
            if (grey) {
                Curve told = curve(in, tag(in, "kTRC"));
                // The curve leads to the space of connection: to light, or to lightness (CIE 15).
                boolean lab = "Lab ".equals(new String(bytes, 20, 4, StandardCharsets.US_ASCII));
                Curve curve = lab ? v -> Lab.luminance(100 * told.linear(v)) : told;
                return new IccProfile(RgbSpace.SRGB.toXyzD50(), curve, curve, curve);
            }
            // Where there are tables, they go before matrix and curves.
            if (tag(in, "A2B0") >= 0) {
                Curve plain = v -> v;
                return new IccProfile(
                        RgbSpace.PROPHOTO.toXyzD50(), plain, plain, plain, null, ICC_Profile.getInstance(bytes));
            }
            if (tag(in, "rXYZ") < 0 || tag(in, "rTRC") < 0) {
                throw new RefusedException(
                        "The picture's colour profile has neither colorants nor tables: it is damaged.");
            }
            double[] m = new double[9];
            for (int c = 0; c < 3; c++) {
                int at = tag(in, "rgb".charAt(c) + "XYZ");
                for (int row = 0; row < 3; row++) {
                    m[3 * row + c] = in.getInt(at + 8 + 4 * row) / 65536.0;
                }
            }
            Matrix3 matrix = new Matrix3(m);
            matrix.inverse();
            return new IccProfile(
                    matrix,
                    curve(in, tag(in, "rTRC")),
                    curve(in, tag(in, "gTRC")),
                    curve(in, tag(in, "bTRC")),
                    bytes.clone(),
                    null);
        } catch (IndexOutOfBoundsException | IllegalArgumentException | ArithmeticException e) {
            throw new RefusedException("The picture's colour profile is damaged.", e);
        }
    }

    private static int tag(ByteBuffer in, String name) {
        int count = Math.min(MOST_TAGS, in.getInt(128));
        for (int i = 0; i < count; i++) {
            int at = 132 + 12 * i;
            if (name.equals(new String(in.array(), at, 4, StandardCharsets.US_ASCII))) {
                return in.getInt(at + 4);
            }
        }
        return -1;
    }

    private static Curve curve(ByteBuffer in, int at) throws RefusedException {
        String kind = new String(in.array(), at, 4, StandardCharsets.US_ASCII);
        if (kind.equals("curv")) {
            int count = in.getInt(at + 8);
            if (count < 0 || count > MOST_POINTS) {
                throw new RefusedException("The picture's colour profile is damaged.");
            }
            if (count == 0) {
                return v -> v;
            }
            if (count == 1) {
                double gamma = (in.getShort(at + 12) & 0xffff) / 256.0;
                return v -> Math.pow(Math.max(0, v), gamma);
            }
            double[] table = new double[count];
            for (int i = 0; i < count; i++) {
                table[i] = (in.getShort(at + 12 + 2 * i) & 0xffff) / 65535.0;
            }
            return v -> lerp(table, v);
        }
        if (!kind.equals("para")) {
            throw new RefusedException("The picture's colour profile has curves of a kind that is not read.");
        }
        int function = in.getShort(at + 8);
        int[] lengths = {1, 3, 4, 5, 7};
        if (function < 0 || function > 4) {
            throw new RefusedException("The picture's colour profile has curves of a kind that is not read.");
        }
        double[] p = new double[7];
        for (int i = 0; i < lengths[function]; i++) {
            p[i] = in.getInt(at + 12 + 4 * i) / 65536.0;
        }
        return v -> parametric(function, p, v);
    }

    private static double lerp(double[] table, double v) {
        double at = Math.max(0, Math.min(1, v)) * (table.length - 1);
        int i = Math.min(table.length - 2, (int) at);
        return table[i] + (at - i) * (table[i + 1] - table[i]);
    }

    /** ICC.1:2010, table 65; parameters g, a, b, c, d, e, f. */
    private static double parametric(int function, double[] p, double v) {
        double g = p[0];
        double raised = function == 0 ? Math.pow(Math.max(0, v), g) : Math.pow(Math.max(0, p[1] * v + p[2]), g);
        return switch (function) {
            case 0 -> raised;
            case 1 -> v >= -p[2] / p[1] ? raised : 0;
            case 2 -> v >= -p[2] / p[1] ? raised + p[3] : p[3];
            case 3 -> v >= p[4] ? raised : p[3] * v;
            default -> v >= p[4] ? raised + p[5] : p[3] * v + p[6];
        };
    }

    @Override
    public String toString() {
        return "IccProfile" + Arrays.toString(toXyzD50.m());
    }
}
