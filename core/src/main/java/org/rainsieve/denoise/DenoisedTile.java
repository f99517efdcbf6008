package org.rainsieve.denoise;

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
        float kl = (float) luminanceKept;
        float kc = (float) colourKept;
        float gr = (float) gains[0];
        float gg = (float) gains[1];
        float gb = (float) gains[2];
        var shared = out.region().intersect(estimate.region());
        for (int y = shared.y(); y < shared.bottom(); y++) {
            int i = estimate.index(shared.x(), y);
            int o = out.index(shared.x(), y);
            for (int end = i + shared.width(); i < end; i++, o++) {
                float r = residual.channel(0)[i] * gr;
                float g = residual.channel(1)[i] * gg;
                float b = residual.channel(2)[i] * gb;
                float grey = (r + g + b) / 3;
                if (luminances != null) {
                    kl = luminances[o];
                    kc = colours[o];
                }
                float base = kl * grey - kc * grey;
                out.channel(0)[o] = estimate.channel(0)[i] + (base + kc * r) / gr;
                out.channel(1)[o] = estimate.channel(1)[i] + (base + kc * g) / gg;
                out.channel(2)[o] = estimate.channel(2)[i] + (base + kc * b) / gb;
            }
        }
    }
}
