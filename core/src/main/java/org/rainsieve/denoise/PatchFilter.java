package org.rainsieve.denoise;

import java.util.Arrays;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Block matching and filtering in three dimensions (Dabov, Foi, Katkovnik, Egiazarian, IEEE TIP 16(8), 2007): like blocks are
 * stacked and transformed together. In a first estimate what lies above the noise is kept; in a second one what an estimate,
 * the pilot, knows already tells signal from noise, after Wiener.
 *
 * <p>Blocks are summed in the transform domain, and come back once for each place: rows of blocks are kept in a ring as long
 * as a reference can still reach them.
 */
final class PatchFilter {
    private static final int SIDE = BlockTransform.SIDE;
    private static final int AREA = BlockTransform.AREA;

    /**
     * How blocks are looked for.
     *
     * @param step how far reference blocks lie apart
     * @param apart how far all blocks lie apart, 1 or 2; all that the planes begin with and hold are multiples of it. Two is a
     *     quarter of the work, and blocks are less alike in their noise
     * @param period of the colours of a mosaic, in which only blocks are alike that have the same colours at the same places
     *     (Danielyan, Vehviläinen, Foi, Katkovnik, Egiazarian, 2009); otherwise {@code apart}
     * @param radius how far like blocks may lie away, a multiple of {@code period}; the paper searches 19 pixels, and beyond 12
     *     hardly anything is gained
     * @param most how many blocks make a stack, a power of two
     * @param mostOfOthers the same in all planes but the first
     * @param alike mean square difference up to which blocks are alike, in units of the noise's variance
     */
    record Search(int step, int apart, int period, int radius, int most, int mostOfOthers, float alike) {
        /** What a pixel depends on, in pixels: block and search, from block to reference to match. */
        int reach() {
            return 2 * (radius + SIDE - 1);
        }
    }

    /**
     * What is known of a plane.
     *
     * @param pilot null for a first estimate
     * @param first the first plane's estimate; null for that plane itself and for first estimates
     * @param noise variance of the noise in each coefficient of a block
     * @param above see {@link #wienerFiltered}
     */
    private record Known(float[][] noisy, float[][] pilot, float[][] first, float[] noise, float above) {}

    private static final float[] WINDOW = kaiser(2.0);

    private final Region region;
    private final Search search;
    private final int width;
    private final int height;
    private final int blocks;
    private final int blockRows;
    private final int ring;
    private final BlockTransform transform;
    private final float[] noisyBlocks;
    private final float[] pilotBlocks;
    private float[] firstBlocks;
    private final float[] sums;
    private final float[] weights;
    private final BlockStack stack;

    PatchFilter(Region region, Search search) {
        this.region = region;
        this.search = search;
        width = region.width();
        height = region.height();
        int apart = search.apart;
        if (width < SIDE || height < SIDE || ((region.x() | region.y() | width | height) & apart - 1) != 0) {
            throw new IllegalArgumentException(
                    "Planes must be at least 8 pixels wide and high, and even where blocks lie two apart, not "
                            + region);
        }
        blocks = BlockTransform.blocksIn(width, apart);
        blockRows = BlockTransform.blocksIn(height, apart);
        ring = 2 * search.radius / apart + 2;
        transform = new BlockTransform(width, apart);
        noisyBlocks = new float[ring * blocks * AREA];
        pilotBlocks = new float[noisyBlocks.length];
        sums = new float[noisyBlocks.length];
        weights = new float[ring * blocks];
        stack = new BlockStack(search.most);
    }

    private static float[] kaiser(double beta) {
        float[] window = new float[SIDE];
        for (int i = 0; i < SIDE; i++) {
            double t = 2.0 * i / (SIDE - 1) - 1;
            window[i] = (float) (bessel(beta * Math.sqrt(1 - t * t)) / bessel(beta));
        }
        return window;
    }

    /** Modified Bessel function of order 0. */
    private static double bessel(double x) {
        double term = 1;
        double sum = 1;
        for (int k = 1; k < 25; k++) {
            term *= x * x / (4.0 * k * k);
            sum += term;
        }
        return sum;
    }

    /**
     * The first estimate.
     *
     * @param noisy planes over the region
     * @param matched planes of which the first tells what is alike
     * @param noise variance of the noise in each coefficient of each plane's blocks
     */
    Planes hardThresholded(Planes noisy, Planes matched, float[][] noise) {
        return estimate(noisy, null, matched, noise, 0);
    }

    /**
     * The second estimate. The first plane is estimated before the others, which go along with it in part.
     *
     * @param pilot the same planes as known so far, of which the first tells what is alike
     * @param above how much of what lies above the noise in a stack of the other planes goes into their pilot
     */
    Planes wienerFiltered(Planes noisy, Planes pilot, float[][] noise, float above) {
        return estimate(noisy, pilot, pilot, noise, above);
    }

    private Planes estimate(Planes noisy, Planes pilot, Planes matched, float[][] noise, float above) {
        float mean = 0;
        for (float variance : noise[0]) {
            mean += variance / AREA;
        }
        BlockMatching matches = new BlockMatching(width, height, region.x(), region.y(), search.step, search.most);
        matches.find(rows(matched.channel(0), width), search.radius, search.period, search.alike * mean);
        Planes out = new Planes(region, noisy.channels());
        float[][] first = null;
        for (int c = 0; c < noisy.channels(); c++) {
            int most = c == 0 ? search.most : search.mostOfOthers;
            Known plane = new Known(
                    rows(noisy.channel(c), width),
                    pilot == null ? null : rows(pilot.channel(c), width),
                    first,
                    noise[c],
                    above);
            filter(plane, matches, most, out.channel(c));
            if (c == 0 && pilot != null) {
                first = rows(out.channel(0), width);
            }
        }
        return out;
    }

    static float[][] rows(float[] plane, int width) {
        float[][] rows = new float[plane.length / width][];
        for (int y = 0; y < rows.length; y++) {
            rows[y] = Arrays.copyOfRange(plane, y * width, (y + 1) * width);
        }
        return rows;
    }

    private void filter(Known plane, BlockMatching matches, int most, float[] out) {
        if (plane.first != null && firstBlocks == null) {
            firstBlocks = new float[noisyBlocks.length];
        }
        int apart = search.apart;
        int reach = search.radius / apart;
        float[][] value = new float[height][width];
        float[][] weight = new float[height][width];
        int made = 0;
        int added = 0;
        for (int r = 0; r < matches.rows.length; r++) {
            int row = matches.rows[r] / apart;
            for (; added < row - reach; added++) {
                add(added, value, weight);
            }
            for (; made <= Math.min(blockRows - 1, row + reach); made++) {
                int at = made % ring * blocks * AREA;
                transform.forward(plane.noisy, made * apart, noisyBlocks, at);
                if (plane.pilot != null) {
                    transform.forward(plane.pilot, made * apart, pilotBlocks, at);
                }
                if (plane.first != null) {
                    transform.forward(plane.first, made * apart, firstBlocks, at);
                }
            }
            for (int c = 0; c < matches.columns.length; c++) {
                int reference = r * matches.columns.length + c;
                // The nearest come first.
                int n = Math.min(most, Integer.highestOneBit(matches.counts[reference]));
                for (int i = 0; i < n; i++) {
                    int place = matches.places[reference * search.most + i];
                    stack.at[i] = place / width / apart % ring * blocks + place % width / apart;
                }
                stack.add(n, filter(plane, n), sums, weights);
            }
        }
        for (; added < blockRows; added++) {
            add(added, value, weight);
        }
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                out[y * width + x] = value[y][x] / weight[y][x];
            }
        }
    }

    /** @return the weight of the stack's answer */
    private float filter(Known plane, int n) {
        stack.fetch(noisyBlocks, n, stack.noisy);
        if (plane.pilot == null) {
            return stack.hardThreshold(plane.noise, n);
        }
        stack.fetch(pilotBlocks, n, stack.pilot);
        if (plane.first == null) {
            return stack.wienerShrink(plane.noise, n);
        }
        stack.fetch(firstBlocks, n, stack.first);
        return stack.weighBeside(plane.noise, plane.above, n);
    }

    /** Brings one finished row of blocks back to pixels and empties its place in the ring. */
    private void add(int blockRow, float[][] value, float[][] weight) {
        int slot = blockRow % ring * blocks;
        transform.addInverse(sums, slot * AREA, WINDOW, value, blockRow * search.apart);
        float[] spread = new float[width];
        for (int x = 0; x < blocks; x++) {
            float w = weights[slot + x];
            for (int j = 0; j < SIDE; j++) {
                spread[x * search.apart + j] += w * WINDOW[j];
            }
        }
        for (int i = 0; i < SIDE; i++) {
            float[] row = weight[blockRow * search.apart + i];
            float f = WINDOW[i];
            for (int x = 0; x < width; x++) {
                row[x] += f * spread[x];
            }
        }
        Arrays.fill(sums, slot * AREA, (slot + blocks) * AREA, 0);
        Arrays.fill(weights, slot, slot + blocks, 0);
    }
}
