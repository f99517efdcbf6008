package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * The second estimate of {@link PatchFilter} from coarse to fine: what is larger than a block is bettered in the picture
 * at half and quarter size, where a block holds four and sixteen times as much of it, before the blocks of the full size take it as their pilot.
 */
final class PatchScales {
    private static final float ALIKE = 3;

    /** Beyond, less than 0.02 dB is gained; references 4 pixels apart would gain 0.04 dB in twice the time. */
    private static final PatchFilter.Search[] SEARCHES = {
        new PatchFilter.Search(6, 2, 2, 12, 64, 32, ALIKE),
        new PatchFilter.Search(6, 2, 2, 8, 64, 32, ALIKE),
        new PatchFilter.Search(6, 2, 2, 8, 64, 32, ALIKE)
    };

    /** How far the means reach by which what is coarse is taken from the pilot: noise beside a block is alike in it. */
    private static final int MEANS = 4;

    static final int SIZES = SEARCHES.length;

    /**
     * At the smallest size the wavelets' estimate lacks faint colours: of what lies above the noise so much goes into the pilot. A
     * first estimate there would gain 0.04 dB more at much noise, and make tiles' margins a third wider.
     */
    private static final float ABOVE = 0.7f;

    private final float[][][] noise;

    /** @param noise for each size, for each plane, the variance of the noise in each coefficient of its blocks */
    PatchScales(float[][][] noise) {
        this.noise = noise;
    }

    /** What a pixel depends on, in pixels of the full size. */
    static int reach() {
        int reach = 0;
        for (int size = SIZES - 1; size >= 0; size--) {
            // Doubling looks at one neighbour, and regions end at even places.
            reach = 2 * (reach + 1) + 1 + SEARCHES[size].reach() + MEANS;
        }
        return reach;
    }

    /** Where the full size is worked on to answer for a region. */
    static Region fine(Region wanted) {
        return wanted.grow(SEARCHES[0].reach() + MEANS + 1);
    }

    /**
     * @param pilot the same planes as known so far, over the same region
     * @param finer what is known better of the full size, at least over {@link #fine}
     * @param wanted where the answer is asked for
     */
    Planes estimate(Planes noisy, Planes pilot, Planes finer, Region wanted) {
        return estimate(noisy, pilot, finer, wanted, 0);
    }

    private Planes estimate(Planes noisy, Planes pilot, Planes finer, Region wanted, int size) {
        Region own = even(wanted.grow(SEARCHES[size].reach() + MEANS), noisy.region());
        Planes known = part(finer, own);
        // Taken before the smaller sizes are worked on, so that nobody holds the whole planes meanwhile.
        Planes observed = part(noisy, own);
        Region all = halved(noisy.region(), false);
        if (size + 1 < SIZES && Math.min(all.width(), all.height()) >= 2 * BlockTransform.SIDE) {
            Region below = halved(own, true).grow(1).intersect(all);
            Planes coarse = half(pilot, all);
            Planes before = part(coarse, below);
            Planes better = estimate(half(noisy, all), coarse, coarse, below, size + 1);
            for (int c = 0; c < known.channels(); c++) {
                subtract(better.channel(c), before.channel(c));
            }
            addDoubled(better, known);
        }
        Planes out = new PatchFilter(own, SEARCHES[size])
                .wienerFiltered(observed, known, noise[size], size == SIZES - 1 ? ABOVE : 0);
        for (int c = 0; c < known.channels(); c++) {
            float[] rest = known.channel(c);
            subtract(rest, out.channel(c));
            float[] coarse = means(rest, own.width(), 1, MEANS / 2);
            for (int i = 0; i < coarse.length; i++) {
                out.channel(c)[i] += coarse[i];
            }
        }
        return part(out, wanted.intersect(own));
    }

    private static void subtract(float[] from, float[] values) {
        for (int i = 0; i < from.length; i++) {
            from[i] -= values[i];
        }
    }

    static Planes part(Planes of, Region region) {
        Planes part = new Planes(region, of.channels());
        part.copyFrom(of);
        return part;
    }

    /** With the pixels that make its sides even, as far as they lie inside. */
    static Region even(Region r, Region inside) {
        Region halved = halved(r, true).intersect(halved(inside, false));
        return new Region(2 * halved.x(), 2 * halved.y(), 2 * halved.width(), 2 * halved.height());
    }

    /** The same region at half size: every pixel that it touches, or only those that it holds whole. */
    private static Region halved(Region r, boolean touched) {
        int inward = touched ? 0 : 1;
        int x = Math.floorDiv(r.x() + inward, 2);
        int y = Math.floorDiv(r.y() + inward, 2);
        return new Region(
                x, y, Math.floorDiv(r.right() + 1 - inward, 2) - x, Math.floorDiv(r.bottom() + 1 - inward, 2) - y);
    }

    /** Means of two by two. */
    static Planes half(Planes of, Region to) {
        Planes out = new Planes(to, of.channels());
        int w = of.region().width();
        for (int c = 0; c < of.channels(); c++) {
            float[] from = of.channel(c);
            float[] half = out.channel(c);
            for (int y = to.y(); y < to.bottom(); y++) {
                int i = of.index(2 * to.x(), 2 * y);
                int o = out.index(to.x(), y);
                for (int x = 0; x < to.width(); x++, i += 2) {
                    half[o + x] = (from[i] + from[i + 1] + from[i + w] + from[i + w + 1]) / 4;
                }
            }
        }
        return out;
    }

    /** Adds a picture of half size, interpolated between the middles of its pixels. */
    private static void addDoubled(Planes half, Planes to) {
        Region r = to.region();
        Region h = half.region();
        for (int c = 0; c < to.channels(); c++) {
            float[] from = half.channel(c);
            float[] sum = to.channel(c);
            float[] between = new float[h.width()];
            for (int y = r.y(); y < r.bottom(); y++) {
                int near = half.index(h.x(), clamped(Math.floorDiv(y, 2), h.y(), h.bottom()));
                int far = half.index(h.x(), clamped(Math.floorDiv(y - 1, 2) + (y & 1), h.y(), h.bottom()));
                for (int x = 0; x < between.length; x++) {
                    between[x] = 0.75f * from[near + x] + 0.25f * from[far + x];
                }
                int o = to.index(r.x(), y);
                for (int x = r.x(); x < r.right(); x++) {
                    int a = clamped(Math.floorDiv(x, 2), h.x(), h.right()) - h.x();
                    int b = clamped(Math.floorDiv(x - 1, 2) + (x & 1), h.x(), h.right()) - h.x();
                    sum[o + x - r.x()] += 0.75f * between[a] + 0.25f * between[b];
                }
            }
        }
    }

    private static int clamped(int value, int from, int to) {
        return Math.max(from, Math.min(to - 1, value));
    }

    /**
     * Means over a square, twice; the rim goes on beyond itself.
     *
     * @param stride how far what is averaged lies apart
     * @param reach how many to each side
     */
    static float[] means(float[] plane, int width, int stride, int reach) {
        int height = plane.length / width;
        float share = 1f / (2 * reach + 1);
        float[] in = plane.clone();
        float[] out = new float[plane.length];
        float[] row = new float[width + 2 * reach * stride];
        float[] shifted = new float[width];
        for (int pass = 0; pass < 2; pass++) {
            Arrays.fill(out, 0);
            for (int y = 0; y < height; y++) {
                int at = y * width;
                System.arraycopy(in, at, row, reach * stride, width);
                for (int k = 1; k <= reach; k++) {
                    System.arraycopy(in, at, row, (reach - k) * stride, stride);
                    System.arraycopy(in, at + width - stride, row, reach * stride + width + (k - 1) * stride, stride);
                }
                for (int k = 0; k <= 2 * reach; k++) {
                    System.arraycopy(row, k * stride, shifted, 0, width);
                    addTo(out, at, shifted, 0, share, width);
                }
            }
            Arrays.fill(in, 0);
            for (int y = 0; y < height; y++) {
                for (int k = -reach; k <= reach; k++) {
                    int from = y + k * stride;
                    from = from < 0 ? y % stride : from >= height ? height - stride + y % stride : from;
                    addTo(in, y * width, out, from * width, share, width);
                }
            }
        }
        return in;
    }

    private static void addTo(float[] sum, int at, float[] values, int from, float share, int n) {
        for (int x = 0; x < n; x++) {
            sum[at + x] += share * values[from + x];
        }
    }
}
