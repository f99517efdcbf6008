package org.rainsieve.icc;

import java.awt.color.ColorSpace;
import java.awt.color.ICC_ColorSpace;
import java.awt.color.ICC_Profile;
import java.awt.image.ColorConvertOp;
import java.awt.image.ComponentColorModel;
import java.awt.image.DataBuffer;
import java.awt.image.Raster;
import java.awt.image.WritableRaster;
import org.rainsieve.colour.RgbSpace;

/**
 * Takes a picture through the tables of its colour profile, by the platform's colour engine (Little CMS), to linear ProPhoto RGB.
 * XYZ lies in between, in steps of 1/32,768.
 */
public final class ProfileTables {
    private static final int ROWS = 64;
    private static final float XYZ_ONE = 32768;

    private ProfileTables() {}

    /**
     * @param bits of a sample
     * @param to three planes of the raster's size
     */
    public static void linear(Raster raster, int bits, ICC_Profile profile, short[][] to) {
        int width = raster.getWidth();
        ICC_Profile[] way = {profile, ICC_Profile.getInstance(ColorSpace.CS_CIEXYZ)};
        ColorConvertOp convert = new ColorConvertOp(way, null);
        ComponentColorModel model = new ComponentColorModel(
                new ICC_ColorSpace(profile), false, false, java.awt.Transparency.OPAQUE, DataBuffer.TYPE_USHORT);
        double[] m = RgbSpace.PROPHOTO.fromXyzD50().m();
        double most = (1 << bits) - 1;
        int[] row = new int[3 * width];
        for (int top = 0; top < raster.getHeight(); top += ROWS) {
            int rows = Math.min(ROWS, raster.getHeight() - top);
            WritableRaster stored = model.createCompatibleWritableRaster(width, rows);
            for (int y = 0; y < rows; y++) {
                raster.getPixels(raster.getMinX(), raster.getMinY() + top + y, width, 1, row);
                for (int i = 0; i < row.length; i++) {
                    row[i] = (int) Math.round(row[i] / most * 65535);
                }
                stored.setPixels(0, y, width, 1, row);
            }
            WritableRaster xyz = Raster.createInterleavedRaster(DataBuffer.TYPE_USHORT, width, rows, 3, null);
            convert.filter(stored, xyz);
            for (int y = 0; y < rows; y++) {
                xyz.getPixels(0, y, width, 1, row);
                for (int x = 0; x < width; x++) {
                    for (int c = 0; c < 3; c++) {
                        double sum = 0;
                        for (int k = 0; k < 3; k++) {
                            sum += m[3 * c + k] * row[3 * x + k] / XYZ_ONE;
                        }
                        to[c][(top + y) * width + x] = (short) Math.max(0, Math.min(65535, Math.round(65535 * sum)));
                    }
                }
            }
        }
    }
}
