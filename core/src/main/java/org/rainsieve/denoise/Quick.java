package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.StabilisingTransform;

/**
 * The fast method: undecimated wavelet shrinkage of the four half-size colour planes of a 2×2 mosaic, stabilised and
 * rotated into one luminance and three colour differences. Thresholds after BayesShrink (Chang, Yu, Vetterli, IEEE TIP
 * 9(9), 2000) with the noise law's sd (1 after stabilising) and the signal's variance from a fixed window around each
 * coefficient, never from the whole frame.
 */
public final class Quick implements DenoiseMethod {
    private static final int MARGIN = 2 * Shrinkage.REACH;

    /** Signal up to which the stabilising transform must answer: clipping, with room for noise above it. */
    private static final double LARGEST = 1.3;

    @Override
    public int margin() {
        return MARGIN;
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, NoiseModel noise) {
        Region region = noisy.region();
        int w = region.width() / 2;
        int h = region.height() / 2;
        if (2 * w != region.width() || 2 * h != region.height()) {
            throw new IllegalArgumentException("The region must have even sides, not " + region);
        }
        StabilisingTransform[] transforms = new StabilisingTransform[3];
        for (int c = 0; c < 3; c++) {
            transforms[c] = new StabilisingTransform(noise.a().get(c), noise.b().get(c), LARGEST);
        }
        int[] order = cellOrder(pattern, region);
        float[][] planes = split(noisy, pattern, transforms, order, w, h);
        rotate(planes);
        Shrinkage shrinkage = new Shrinkage(w, h);
        for (float[] plane : planes) {
            shrinkage.apply(plane);
        }
        rotate(planes);
        Planes out = new Planes(region, 1);
        join(planes, out, pattern, transforms, order, w);
        return out;
    }

    /** Which position of the cell holds red, the two greens and blue, in this order. */
    private static int[] cellOrder(CfaPattern pattern, Region region) {
        int[] order = new int[4];
        int green = 1;
        for (int k = 0; k < 4; k++) {
            switch (pattern.colourAt(region.x() + (k & 1), region.y() + (k >> 1))) {
                case 0 -> order[0] = k;
                case 1 -> order[green++] = k;
                default -> order[3] = k;
            }
        }
        return order;
    }

    private static float[][] split(
            Planes noisy, CfaPattern pattern, StabilisingTransform[] transforms, int[] order, int w, int h) {
        Region region = noisy.region();
        float[][] planes = new float[4][w * h];
        float[] m = noisy.channel(0);
        for (int p = 0; p < 4; p++) {
            int dx = order[p] & 1;
            int dy = order[p] >> 1;
            StabilisingTransform t = transforms[pattern.colourAt(region.x() + dx, region.y() + dy)];
            for (int y = 0; y < h; y++) {
                int from = (2 * y + dy) * 2 * w + dx;
                for (int x = 0; x < w; x++) {
                    planes[p][y * w + x] = t.forward(m[from + 2 * x]);
                }
            }
        }
        return planes;
    }

    private static void join(
            float[][] planes, Planes out, CfaPattern pattern, StabilisingTransform[] transforms, int[] order, int w) {
        Region region = out.region();
        float[] m = out.channel(0);
        for (int p = 0; p < 4; p++) {
            int dx = order[p] & 1;
            int dy = order[p] >> 1;
            StabilisingTransform t = transforms[pattern.colourAt(region.x() + dx, region.y() + dy)];
            for (int y = 0; y < region.height() / 2; y++) {
                int to = (2 * y + dy) * 2 * w + dx;
                for (int x = 0; x < w; x++) {
                    m[to + 2 * x] = t.inverse(planes[p][y * w + x]);
                }
            }
        }
    }

    /**
     * Luminance, green − red and blue and two colour differences by the Hadamard matrix of order 4 (halved), which is
     * orthonormal, so that unit noise stays unit noise, and its own inverse.
     */
    private static void rotate(float[][] p) {
        for (int i = 0; i < p[0].length; i++) {
            float sum = p[0][i] + p[3][i];
            float difference = p[0][i] - p[3][i];
            float greens = p[1][i] + p[2][i];
            float greenSplit = p[1][i] - p[2][i];
            p[0][i] = (sum + greens) / 2;
            p[1][i] = (difference + greenSplit) / 2;
            p[2][i] = (difference - greenSplit) / 2;
            p[3][i] = (sum - greens) / 2;
        }
    }
}
