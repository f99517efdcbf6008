package org.rainsieve.icc;

import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.colour.Matrix3;

/** The colour space of a finished picture: the way there from XYZ (D50), the curve of each channel, and its ICC profile. */
public final class OutputProfile {
    private static final int STEPS = 1 << 16;

    private final Matrix3 fromXyzD50;
    private final float[][] tables;
    private final byte[] icc;
    private final boolean srgb;

    private OutputProfile(Matrix3 fromXyzD50, float[][] tables, byte[] icc, boolean srgb) {
        this.srgb = srgb;
        this.fromXyzD50 = fromXyzD50;
        this.tables = tables;
        this.icc = icc;
    }

    public static OutputProfile of(DeliverySpace space) {
        float[] table = space.table();
        return new OutputProfile(
                space.primaries().fromXyzD50(),
                new float[][] {table, table, table},
                IccWriter.profile(space),
                space == DeliverySpace.SRGB);
    }

    /** Whether EXIF would call it sRGB. */
    public boolean isSrgb() {
        return srgb;
    }

    /** The profile that a picture came with. @return null where it had none that can be written again */
    public static OutputProfile own(IccProfile profile) {
        if (profile == null || profile.bytes() == null) {
            return profile == IccProfile.SRGB
                    ? of(DeliverySpace.SRGB)
                    : profile == IccProfile.ADOBE_RGB ? of(DeliverySpace.ADOBE_RGB) : null;
        }
        float[][] tables = new float[3][];
        for (int c = 0; c < 3; c++) {
            tables[c] = inverse(profile.curve(c));
        }
        return new OutputProfile(profile.toXyzD50().inverse(), tables, profile.bytes(), false);
    }

    /** Encoded values by the root of linear ones, see {@link DeliverySpace#table()}. */
    private static float[] inverse(IccProfile.Curve curve) {
        float[] table = new float[STEPS + 2];
        int j = 0;
        double below = curve.linear(0);
        double above = below;
        for (int i = 0; i < table.length; i++) {
            double root = (double) i / STEPS;
            double linear = root * root;
            while (above < linear && j < STEPS) {
                j++;
                below = above;
                above = curve.linear((double) j / STEPS);
            }
            double share = above > below ? Math.min(1, Math.max(0, (linear - below) / (above - below))) : 1;
            table[i] = (float) (j == 0 ? 0 : (j - 1 + share) / STEPS);
        }
        return table;
    }

    public Matrix3 fromXyzD50() {
        return fromXyzD50;
    }

    public float[] table(int channel) {
        return tables[channel];
    }

    public byte[] icc() {
        return icc.clone();
    }
}
