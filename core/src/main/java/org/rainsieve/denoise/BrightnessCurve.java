package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.StabilisingTransform;

/**
 * How large the noise of one colour of a rendered picture is at each brightness, beyond what a law a·x + b can tell: a
 * camera's curve makes it smaller in the lights again, and compression takes it out of the shadows. Values become those
 * in which it is the same everywhere: y = ∫ dt / sd(t), t being stabilised by the law.
 */
final class BrightnessCurve {
    private static final int BLOCK = 16;
    private static final int MOST_BLOCKS = 4_000;
    private static final int BINS = 24;
    private static final float NOTHING = 1e-4f;

    /** Where fewer blocks show any noise at all, it is edges that they show. */
    private static final double NOISY = 0.3;

    /** Blocks that a bin needs to be believed. */
    private static final int LEAST = 12;

    /** Share of the blocks of a bin that counts as smooth. (Common practice.) */
    private static final double SMOOTH = 0.2;

    /** Noise has no more coarse details beside its fine ones than this much more than where there are fewest: texture has. */
    private static final float LIKE_NOISE = 1.3f;

    private static final double FEWEST = 0.15;

    /** However even or busy a place, noise is not less or more than this many times what it is in general. */
    private static final float LEAST_SD = 0.2f;

    private static final float MOST_SD = 10;

    private final float low;
    private final float step;
    /** Value at the beginning of each bin, one more at the end of the last. */
    private final double[] warped = new double[BINS + 1];

    private BrightnessCurve(float low, float high, float[] sd) {
        this.low = low;
        this.step = (high - low) / BINS;
        warped[0] = low;
        for (int k = 0; k < BINS; k++) {
            warped[k + 1] = warped[k] + step / sd[k];
        }
    }

    /** @param transform that makes the colour's noise stable by the law */
    static BrightnessCurve of(Picture picture, int channel, StabilisingTransform transform) {
        int across = Math.max(1, picture.width() / BLOCK);
        int down = Math.max(1, picture.height() / BLOCK);
        int stride = Math.max(1, (int) Math.ceil(Math.sqrt((double) across * down / MOST_BLOCKS)));
        float[] means = new float[((across + stride - 1) / stride) * ((down + stride - 1) / stride)];
        float[] sizes = new float[means.length];
        float[] ratios = new float[means.length];
        int n = 0;
        for (int y = 0; y < down; y += stride) {
            for (int x = 0; x < across; x += stride) {
                Planes block = new Planes(new Region(x * BLOCK, y * BLOCK, BLOCK, BLOCK), 3);
                picture.fill(block);
                float[] t = block.channel(channel);
                float mean = 0;
                for (int i = 0; i < t.length; i++) {
                    t[i] = transform.forward(t[i]);
                    mean += t[i] / t.length;
                }
                float size = diagonal(t, BLOCK);
                // What is clipped, or empty, has no noise at all and tells nothing.
                if (size > NOTHING) {
                    means[n] = mean;
                    sizes[n] = size;
                    ratios[n++] = diagonal(halved(t), BLOCK / 2) / size;
                }
            }
        }
        return n < Math.max(LEAST, NOISY * means.length)
                ? new BrightnessCurve(0, 1, filled(1))
                : of(Arrays.copyOf(means, n), sizes, ratios);
    }

    private static float[] filled(float value) {
        float[] all = new float[BINS];
        Arrays.fill(all, value);
        return all;
    }

    /** Mean size of the finest diagonal details. */
    private static float diagonal(float[] t, int side) {
        float sum = 0;
        for (int y = 0; y + 1 < side; y++) {
            for (int x = 0; x + 1 < side; x++) {
                int i = y * side + x;
                sum += Math.abs(t[i] - t[i + 1] - t[i + side] + t[i + side + 1]);
            }
        }
        return sum / ((side - 1) * (side - 1));
    }

    private static float[] halved(float[] t) {
        float[] half = new float[t.length / 4];
        for (int i = 0; i < half.length; i++) {
            int at = i / (BLOCK / 2) * 2 * BLOCK + i % (BLOCK / 2) * 2;
            half[i] = (t[at] + t[at + 1] + t[at + BLOCK] + t[at + BLOCK + 1]) / 4;
        }
        return half;
    }

    private static BrightnessCurve of(float[] means, float[] sizes, float[] ratios) {
        float[] order = Arrays.copyOf(ratios, means.length);
        Arrays.sort(order);
        float most = LIKE_NOISE * order[(int) (FEWEST * order.length)];
        float[] sorted = means.clone();
        Arrays.sort(sorted);
        float low = sorted[0];
        float high = Math.max(low + 1e-3f, sorted[sorted.length - 1]);
        float[] sd = new float[BINS];
        for (int k = 0; k < BINS; k++) {
            // Bins reach over half of their neighbours, so that the curve is smooth.
            float from = low + (k - 0.5f) * (high - low) / BINS;
            float to = low + (k + 1.5f) * (high - low) / BINS;
            float[] in = new float[means.length];
            int count = 0;
            for (int i = 0; i < means.length; i++) {
                if (means[i] >= from && means[i] <= to && ratios[i] <= most) {
                    in[count++] = sizes[i];
                }
            }
            Arrays.sort(in, 0, count);
            sd[k] = count < LEAST ? 0 : in[(int) (SMOOTH * count)];
        }
        bridge(sd);
        float[] all = sizes.clone();
        Arrays.sort(all, 0, means.length);
        float general = all[(int) (SMOOTH * means.length)];
        for (int k = 0; k < BINS; k++) {
            sd[k] = Math.max(LEAST_SD, Math.min(MOST_SD, sd[k] / general));
        }
        return new BrightnessCurve(low, high, sd);
    }

    /** Bins that have no answer take that of the nearest that have. */
    private static void bridge(float[] sd) {
        float[] known = sd.clone();
        for (int k = 0; k < sd.length; k++) {
            for (int d = 1; sd[k] == 0 && d < sd.length; d++) {
                float left = k - d >= 0 ? known[k - d] : 0;
                float right = k + d < sd.length ? known[k + d] : 0;
                sd[k] = left > 0 && right > 0 ? (left + right) / 2 : Math.max(left, right);
            }
            if (sd[k] == 0) {
                sd[k] = 1;
            }
        }
    }

    float forward(float t) {
        float at = (t - low) / step;
        int k = Math.max(0, Math.min(BINS - 1, (int) at));
        return (float) (warped[k] + (at - k) * (warped[k + 1] - warped[k]));
    }

    float inverse(float y) {
        int k = Arrays.binarySearch(warped, y);
        k = Math.max(0, Math.min(BINS - 1, k >= 0 ? k : -k - 2));
        return (float) (low + step * (k + (y - warped[k]) / (warped[k + 1] - warped[k])));
    }
}
