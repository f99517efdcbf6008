package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.demosaic.Demosaic;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.SensorNoise;

/**
 * The method that needs no training: like blocks of the picture denoise each other. The first estimate ({@link PatchFilter}) is
 * made of the stabilised and balanced mosaic as it is, whose noise is white; blocks that are alike in the wavelets' estimate
 * ({@link Quick}) are alike. On the wavelets' estimate directions are decided, along which the noisy mosaic is interpolated; both
 * together are the pilot of the second estimate, in full colour and at three sizes ({@link PatchScales}). Interpolated noise is known coefficient by
 * coefficient ({@link PatchNoise}), so that photosites of all colours say what they know of luminance, and false colours of
 * interpolation are denoised, too.
 */
public final class Patch implements DenoiseMethod {
    private static final float ALIKE = 2;

    /**
     * Of the wavelets' in the pilot: two estimates that err differently are better together. Luminance gains 0.03 to 0.1 dB; with a
     * smaller share more at little noise, and less than nothing at much.
     */
    private static final float WAVELETS = 0.8f;

    /** Where one scale of brightness serves all colours, as here after balancing, nothing is left to be balanced. */
    private static final double[] EVEN = {1, 1, 1};

    private static final float ROOT_2 = (float) Math.sqrt(2);
    private static final float ROOT_3 = (float) Math.sqrt(3);
    private static final float ROOT_6 = (float) Math.sqrt(6);

    private final Quick wavelets = new Quick();

    @Override
    public int margin(CfaPattern pattern) {
        int reach = wavelets.margin(pattern) + interpolation(pattern).margin() + PatchScales.reach();
        return reach + (reach & 1);
    }

    private static PatchFilter.Search search(CfaPattern pattern) {
        int period = pattern.width();
        return new PatchFilter.Search(4, 2, period, period == 2 ? 12 : 3 * period, 16, 16, ALIKE);
    }

    /** In the balanced mosaic. */
    static Demosaic interpolation(CfaPattern pattern) {
        return Demosaic.of(pattern, EVEN, null);
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        Region all = noisy.region();
        BalancedMosaic balanced = new BalancedMosaic(all, pattern, noise, gains);
        Planes observed = mosaic(all, balanced.of(noisy));
        Planes known = mosaic(all, balanced.ofEstimate(wavelets(noisy, pattern, noise, gains)));
        Demosaic interpolation = interpolation(pattern);
        byte[] decision = interpolation.decide(known);
        // Beyond that they are not what they would be in another tile.
        Region region = all.grow(-wavelets.margin(pattern) - interpolation.margin());
        Region wanted = all.grow(-margin(pattern));
        Region fine = PatchScales.fine(wanted);
        Planes pilot = colours(known, interpolation, decision, region);
        addFirst(observed, known, fine.grow(interpolation.margin()), pattern);
        Planes estimate = new PatchScales(PatchNoise.of(pattern, balanced))
                .estimate(
                        colours(observed, interpolation, decision, region),
                        pilot,
                        colours(known, interpolation, decision, fine),
                        wanted);
        rotateBack(estimate);
        Planes out = new Planes(all, 3);
        out.copyFrom(estimate);
        for (int c = 0; c < 3; c++) {
            float[] plane = out.channel(c);
            for (int y = wanted.y(); y < wanted.bottom(); y++) {
                int from = out.index(wanted.x(), y);
                for (int i = from; i < from + wanted.width(); i++) {
                    plane[i] = balanced.inverse(c, plane[i]);
                }
            }
        }
        return out;
    }

    private Planes wavelets(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        Planes shrunk = wavelets.estimate(noisy, pattern, noise, gains);
        ClippedAreas.keep(noisy, pattern, shrunk);
        return shrunk;
    }

    private static Planes colours(Planes mosaic, Demosaic interpolation, byte[] decision, Region region) {
        Planes colours = new Planes(region, 3);
        interpolation.interpolate(mosaic, decision, colours);
        rotate(colours);
        return colours;
    }

    /**
     * Takes part of the first estimate over into the wavelets', less what is coarse in it: noise that is larger than a block
     * passes for signal.
     */
    private static void addFirst(Planes observed, Planes known, Region where, CfaPattern pattern) {
        PatchFilter.Search search = search(pattern);
        int period = pattern.width();
        Region told =
                PatchScales.even(where.grow(search.reach() + 2 * reachOfMeans(period) * period), observed.region());
        float[] white = new float[BlockTransform.AREA];
        Arrays.fill(white, 1);
        Planes matched = PatchScales.part(known, told);
        Planes first = new PatchFilter(told, search)
                .hardThresholded(PatchScales.part(observed, told), matched, new float[][] {white});
        float[] change = first.channel(0);
        for (int i = 0; i < change.length; i++) {
            change[i] = (1 - WAVELETS) * (change[i] - matched.channel(0)[i]);
        }
        float[] coarse = PatchScales.means(change, told.width(), period, reachOfMeans(period));
        for (int i = 0; i < change.length; i++) {
            change[i] += matched.channel(0)[i] - coarse[i];
        }
        known.copyFrom(PatchScales.part(first, where));
    }

    /** Means over 5 × 5 photosites of a colour, 3 × 3 where they lie far apart. */
    private static int reachOfMeans(int period) {
        return period == 2 ? 2 : 1;
    }

    private static Planes mosaic(Region region, float[] values) {
        Planes mosaic = new Planes(region, 1);
        System.arraycopy(values, 0, mosaic.channel(0), 0, values.length);
        return mosaic;
    }

    /**
     * Red, green and blue as luminance, red against blue, and green against both; orthonormal. Green counts twice in
     * luminance, as it does on the sensor, where it is read twice as often.
     */
    static void rotate(Planes p) {
        float[] red = p.channel(0);
        float[] green = p.channel(1);
        float[] blue = p.channel(2);
        for (int i = 0; i < red.length; i++) {
            float r = red[i];
            float g = green[i];
            float b = blue[i];
            red[i] = (r + 2 * g + b) / ROOT_6;
            green[i] = (r - b) / ROOT_2;
            blue[i] = (r - g + b) / ROOT_3;
        }
    }

    private static void rotateBack(Planes p) {
        float[] luminance = p.channel(0);
        float[] redBlue = p.channel(1);
        float[] green = p.channel(2);
        for (int i = 0; i < luminance.length; i++) {
            float l = luminance[i] / ROOT_6;
            float d = redBlue[i] / ROOT_2;
            float g = green[i] / ROOT_3;
            luminance[i] = l + d + g;
            redBlue[i] = 2 * l - g;
            green[i] = l - d + g;
        }
    }
}
