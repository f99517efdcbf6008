package org.rainsieve.colour;

import org.rainsieve.frame.Planes;

/**
 * Linear camera values to 8-bit sRGB for looking at: values are limited to the camera's white, so that clipped lamps
 * stay neutral, taken through the camera's matrices, lightened by the view's lift and encoded. Never used for what is
 * written.
 */
public final class ViewRendering {
    private static final int STEPS = 1 << 14;
    private static final byte[] CURVE = new byte[STEPS + 2];

    static {
        for (int i = 0; i < CURVE.length; i++) {
            CURVE[i] = (byte) Math.round(255 * Math.min(1, RgbSpace.encode((double) i / STEPS)));
        }
    }

    private final float[] m = new float[9];
    private final float[] white = new float[3];

    /** @param liftStops stops of view-only lightening on top of the camera's baseline exposure */
    public ViewRendering(CameraColour colour, double liftStops) {
        double gain = Math.pow(2, liftStops + colour.baselineExposureStops());
        double[] matrix = colour.toLinearSrgb().m();
        for (int i = 0; i < 9; i++) {
            m[i] = (float) (matrix[i] * gain);
        }
        for (int c = 0; c < 3; c++) {
            white[c] = (float) colour.white()[c];
        }
    }

    /** @return interleaved RGB bytes of the planes' region */
    public byte[] render(Planes planes) {
        float[] r = planes.channel(0);
        float[] g = planes.channel(1);
        float[] b = planes.channel(2);
        byte[] out = new byte[r.length * 3];
        for (int i = 0; i < r.length; i++) {
            float red = Math.min(r[i], white[0]);
            float green = Math.min(g[i], white[1]);
            float blue = Math.min(b[i], white[2]);
            out[3 * i] = encode(m[0] * red + m[1] * green + m[2] * blue);
            out[3 * i + 1] = encode(m[3] * red + m[4] * green + m[5] * blue);
            out[3 * i + 2] = encode(m[6] * red + m[7] * green + m[8] * blue);
        }
        return out;
    }

    private static byte encode(float linear) {
        return CURVE[(int) (Math.min(1f, Math.max(0f, linear)) * STEPS + 0.5f)];
    }
}
