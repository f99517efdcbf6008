package org.rainsieve.denoise;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.SensorNoise;
import org.rainsieve.noise.StabilisingTransform;

/**
 * A 2×2 mosaic as four half-size planes of unit white noise: stabilised by the noise law and rotated into one luminance
 * and three colour differences; and back.
 */
final class StabilisedCells {
    /** Signal up to which the stabilising transform must answer: clipping, with room for noise above it. */
    static final double LARGEST = 1.3;

    final int width;
    final int height;
    private final Region region;
    private final CfaPattern pattern;
    private final StabilisingTransform[] transforms;
    private final int[] order;

    StabilisedCells(Region region, CfaPattern pattern, SensorNoise noise) {
        if ((region.width() & 1) == 1 || (region.height() & 1) == 1) {
            throw new IllegalArgumentException("The region must have even sides, not " + region);
        }
        this.region = region;
        this.pattern = pattern;
        width = region.width() / 2;
        height = region.height() / 2;
        order = cellOrder(pattern, region);
        transforms = StabilisingTransform.ofColours(noise);
    }

    /** Luminance first, then the colour differences. */
    float[][] split(Planes noisy) {
        float[][] planes = new float[4][width * height];
        float[] m = noisy.channel(0);
        for (int p = 0; p < 4; p++) {
            StabilisingTransform t = transform(p);
            for (int y = 0; y < height; y++) {
                int from = place(p, y);
                for (int x = 0; x < width; x++) {
                    planes[p][y * width + x] = t.forward(m[from + 2 * x]);
                }
            }
        }
        rotate(planes);
        return planes;
    }

    Planes join(float[][] planes) {
        rotate(planes);
        Planes out = new Planes(region, 1);
        float[] m = out.channel(0);
        for (int p = 0; p < 4; p++) {
            StabilisingTransform t = transform(p);
            for (int y = 0; y < height; y++) {
                int to = place(p, y);
                for (int x = 0; x < width; x++) {
                    m[to + 2 * x] = t.inverse(planes[p][y * width + x]);
                }
            }
        }
        return out;
    }

    private StabilisingTransform transform(int p) {
        return transforms[pattern.colourAt(region.x() + (order[p] & 1), region.y() + (order[p] >> 1))];
    }

    private int place(int p, int y) {
        return (2 * y + (order[p] >> 1)) * 2 * width + (order[p] & 1);
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
