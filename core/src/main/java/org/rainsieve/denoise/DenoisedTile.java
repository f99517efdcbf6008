package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.frame.Planes;

/**
 * The denoiser's answer for one region, from which any amount is blended: the estimate E as linear colour planes, and the
 * residual R, the noisy mosaic demosaiced with the decisions taken on E, less E.
 */
public record DenoisedTile(Planes estimate, Planes residual) {

    /**
     * out = E + luminanceKept·R_L + colourKept·R_C. R_L is the grey part of R after white balance, so that grain that is
     * kept has no tint; R_C is the rest.
     *
     * @param gains white-balance gains of red, green, blue
     */
    public void blend(double luminanceKept, double colourKept, double[] gains, Planes out) {
        blend(luminanceKept, colourKept, null, null, gains, out);
    }

    /**
     * The same with amounts that differ from place to place.
     *
     * @param luminances for each pixel of {@code out}; null for the same everywhere
     * @param colours the same for colour; given together with the other
     */
    public void blend(
            double luminanceKept, double colourKept, float[] luminances, float[] colours, double[] gains, Planes out) {
        var shared = out.region().intersect(estimate.region());
        float[] kl = new float[shared.width()];
        float[] kc = new float[shared.width()];
        Arrays.fill(kl, (float) luminanceKept);
        Arrays.fill(kc, (float) colourKept);
        for (int y = shared.y(); y < shared.bottom(); y++) {
            int i = estimate.index(shared.x(), y);
            int o = out.index(shared.x(), y);
            if (luminances != null) {
                System.arraycopy(luminances, o, kl, 0, kl.length);
                System.arraycopy(colours, o, kc, 0, kc.length);
            }
            blendRow(kl, kc, gains, i, out, o);
        }
    }

    /** Plain loops over plain arrays, which the compiler turns into vector instructions. */
    private void blendRow(float[] kl, float[] kc, double[] gains, int i, Planes out, int o) {
        float gr = (float) gains[0];
        float gg = (float) gains[1];
        float gb = (float) gains[2];
        float[] red = residual.channel(0);
        float[] green = residual.channel(1);
        float[] blue = residual.channel(2);
        float[] base = new float[kl.length];
        for (int k = 0; k < base.length; k++) {
            float grey = (red[i + k] * gr + green[i + k] * gg + blue[i + k] * gb) / 3;
            base[k] = kl[k] * grey - kc[k] * grey;
        }
        for (int c = 0; c < 3; c++) {
            float gain = (float) gains[c];
            float[] from = estimate.channel(c);
            float[] rest = residual.channel(c);
            float[] to = out.channel(c);
            for (int k = 0; k < base.length; k++) {
                to[o + k] = from[i + k] + (base[k] + kc[k] * (rest[i + k] * gain)) / gain;
            }
        }
    }
}
