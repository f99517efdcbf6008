package org.rainsieve.colour;

import org.rainsieve.frame.Planes;

/**
 * Linear camera values to 8-bit sRGB for looking at: values are limited to the camera's white, so that clipped lamps
 * stay neutral, taken through the camera's matrices, lightened by the view's lift and encoded; then the view's other tones. Never used for what is
 * written.
 */
public final class ViewRendering {
    private static final int STEPS = 1 << 14;
    private static final int CHUNK = 4096;
    /** So many stops of lift keep the steps of a darkened picture as fine as those of others. */
    private static final double FINEST_STOPS = 4;

    private static final byte[] CURVE = new byte[STEPS + 2];

    static {
        for (int i = 0; i < CURVE.length; i++) {
            CURVE[i] = encoded((double) i / STEPS);
        }
    }

    /** A level of the sensor that counts as its clipping point. */
    private static final float CLIPPED = 0.9999f;

    private static final byte DARK_MARK = 40;

    private final ViewLook look;
    private final byte[] tones = new byte[256];
    private final float[] m = new float[9];
    /** Encoded bytes of linear values from 0 to 1. */
    private final byte[] curve;

    private final float[] white = new float[3];

    /** @param look on top of the camera's baseline exposure */
    public ViewRendering(CameraColour colour, ViewLook look) {
        this.look = look;
        for (int i = 0; i < 256; i++) {
            tones[i] = (byte) Math.round(255 * look.toned(i / 255.0));
        }
        BaselineTone tone = new BaselineTone(colour.baselineExposureStops());
        double lift = Math.pow(2, look.liftStops());
        double gain = tone.darkens() ? 1 : lift * tone.factor();
        curve = tone.darkens() ? darkened(tone, lift) : CURVE;
        double[] matrix = colour.toLinearSrgb().m();
        double[] factors = look.whiteFactors();
        for (int i = 0; i < 9; i++) {
            m[i] = (float) (matrix[i] * gain * factors[i / 3]);
        }
        for (int c = 0; c < 3; c++) {
            white[c] = (float) colour.white()[c];
        }
    }

    private static byte encoded(double linear) {
        return (byte) Math.round(255 * Math.min(1, RgbSpace.encode(linear)));
    }

    /** Where the baseline exposure is no plain factor, it comes before the lift and is part of the curve. */
    private static byte[] darkened(BaselineTone tone, double lift) {
        int steps = (int) (STEPS * Math.min(lift, Math.pow(2, FINEST_STOPS)));
        byte[] curve = new byte[steps + 2];
        for (int i = 0; i < curve.length; i++) {
            curve[i] = encoded(lift * tone.of((float) i / steps));
        }
        return curve;
    }

    /** @return interleaved RGB bytes of the planes' region */
    public byte[] render(Planes planes) {
        float[][] in = {planes.channel(0), planes.channel(1), planes.channel(2)};
        byte[] out = new byte[in[0].length * 3];
        int[] steps = new int[Math.min(CHUNK, in[0].length)];
        for (int from = 0; from < in[0].length; from += CHUNK) {
            int count = Math.min(CHUNK, in[0].length - from);
            for (int c = 0; c < 3; c++) {
                steps(in, from, count, c, steps);
                for (int k = 0; k < count; k++) {
                    out[3 * (from + k) + c] = curve[steps[k]];
                }
            }
        }
        if (look.toned()) {
            tone(out);
        }
        if (look.marks()) {
            mark(planes, out);
        }
        return out;
    }

    /**
     * What differs between two renderings, four times as strong, about a middle grey.
     *
     * @return interleaved RGB bytes
     */
    public byte[] difference(Planes before, Planes after) {
        byte[] from = render(before);
        byte[] to = render(after);
        for (int i = 0; i < to.length; i++) {
            to[i] = limited(128 + 4 * ((from[i] & 255) - (to[i] & 255)));
        }
        return to;
    }

    /** One colour of sRGB as places on the curve; apart from the look-up, so that the compiler makes vector instructions of it. */
    private void steps(float[][] in, int from, int count, int c, int[] steps) {
        float[] r = in[0];
        float[] g = in[1];
        float[] b = in[2];
        float mr = m[3 * c];
        float mg = m[3 * c + 1];
        float mb = m[3 * c + 2];
        float wr = white[0];
        float wg = white[1];
        float wb = white[2];
        int last = curve.length - 2;
        for (int k = 0; k < count; k++) {
            float linear =
                    mr * Math.min(r[from + k], wr) + mg * Math.min(g[from + k], wg) + mb * Math.min(b[from + k], wb);
            steps[k] = (int) (Math.min(1f, Math.max(0f, linear)) * last + 0.5f);
        }
    }

    private void tone(byte[] rgb) {
        int saturation = (int) Math.round(256 * look.saturationPercent() / 100);
        for (int i = 0; i < rgb.length; i += 3) {
            int red = tones[rgb[i] & 255] & 255;
            int green = tones[rgb[i + 1] & 255] & 255;
            int blue = tones[rgb[i + 2] & 255] & 255;
            int grey = (54 * red + 183 * green + 19 * blue) >> 8;
            rgb[i] = limited(red + ((red - grey) * saturation >> 8));
            rgb[i + 1] = limited(green + ((green - grey) * saturation >> 8));
            rgb[i + 2] = limited(blue + ((blue - grey) * saturation >> 8));
        }
    }

    private static byte limited(int value) {
        return (byte) Math.max(0, Math.min(255, value));
    }

    /** A pattern instead of a colour: the ground around pictures stays without any, and colours of subjects cannot hide it. */
    private static void mark(Planes planes, byte[] rgb) {
        var r = planes.region();
        for (int y = 0; y < r.height(); y++) {
            for (int x = 0; x < r.width(); x++) {
                int i = y * r.width() + x;
                float most = Math.max(planes.channel(0)[i], Math.max(planes.channel(1)[i], planes.channel(2)[i]));
                boolean clipped = most >= CLIPPED;
                if (clipped || most <= 0) {
                    boolean odd = ((r.x() + x) / 2 + (r.y() + y) / 2) % 2 == 1;
                    byte value = (byte) (clipped ? odd ? 255 : 0 : odd ? DARK_MARK : 0);
                    rgb[3 * i] = value;
                    rgb[3 * i + 1] = value;
                    rgb[3 * i + 2] = value;
                }
            }
        }
    }
}
