package org.rainsieve.defect;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/**
 * Repairs single photosites that answer far too bright or not at all. Stars are told from them by their
 * neighbours of other colours: a lens spreads a star over more than a pixel and over all colours, a defect stands alone.
 * Everything looked at lies within {@value #MARGIN} pixels.
 */
public final class HotPixels {
    public static final int MARGIN = 6;

    private static final int NEIGHBOURS = 8;

    /** Defects stand this many sd away from the median of their neighbours of the same colour… */
    private static final double FROM_MIDDLE_SD = 8;

    /** …and this many, of its noise, beyond the furthest of the nearest four. */
    private static final float FROM_NEAREST_SD = 4;

    /**
     * Share of a photosite's own excess that its four direct neighbours show on average if it is light: a Gaussian star
     * of FWHM 1.8 pixels centred on a photosite shows 0.42 there; a third of that is asked, for tint and noise.
     */
    private static final double LIGHT_SHARE = 0.13;

    /** Around a defect the neighbours of its colour lie nearer to their middle than this share of its excess. */
    private static final double EVEN_SHARE = 0.35;

    /** Told of every defect. */
    public interface Found {
        void at(int x, int y);
    }

    private final CfaPattern pattern;
    private final NoiseModel noise;
    private final double[] gains;
    /** For each phase of the pattern, the places of the eight photosites of its colour that it is compared with. */
    private final int[][][] near;

    /** @param gains white-balance gains, which make the excess of different colours comparable */
    public HotPixels(CfaPattern pattern, NoiseModel noise, double[] gains) {
        this.pattern = pattern;
        this.noise = noise;
        this.gains = gains.clone();
        this.near = new int[pattern.width() * pattern.height()][][];
        for (int phase = 0; phase < near.length; phase++) {
            near[phase] = nearest(pattern, phase % pattern.width(), phase / pattern.width());
        }
    }

    /**
     * The eight nearest of the same colour, nearest first, that a star hardly reaches: two pixels away or more. In a 2×2
     * pattern those of the same place in the pattern, so that greens which answer a little differently are not compared.
     */
    private static int[][] nearest(CfaPattern pattern, int px, int py) {
        List<int[]> found = new ArrayList<>();
        int reach = MARGIN - 1;
        for (int dy = -reach; dy <= reach; dy++) {
            for (int dx = -reach; dx <= reach; dx++) {
                boolean same = pattern.isBayer()
                        ? (dx & 1) == 0 && (dy & 1) == 0
                        : dx * dx + dy * dy >= 4 && pattern.colourAt(px + dx, py + dy) == pattern.colourAt(px, py);
                if (same && (dx != 0 || dy != 0)) {
                    found.add(new int[] {dx, dy});
                }
            }
        }
        found.sort(Comparator.comparingInt(d -> d[0] * d[0] + d[1] * d[1]));
        return found.subList(0, NEIGHBOURS).toArray(new int[0][]);
    }

    /**
     * Repairs in place, all decisions being taken on the mosaic as it was.
     *
     * @return how many photosites were repaired
     */
    public int repair(Planes mosaic) {
        float[] out = mosaic.channel(0);
        int[] repaired = {0};
        look(mosaic, true, (i, x, y, middle) -> {
            out[i] = middle;
            repaired[0]++;
        });
        return repaired[0];
    }

    /**
     * What may be a defect by this frame, in the mosaic's coordinates: on fine texture, too, where one frame cannot tell it from a
     * crest, but many can.
     */
    public void suspects(Planes mosaic, Found found) {
        look(mosaic, false, (i, x, y, middle) -> found.at(x, y));
    }

    private interface Seen {
        void at(int i, int x, int y, float middle);
    }

    private void look(Planes mosaic, boolean evenGround, Seen seen) {
        Region r = mosaic.region();
        int w = r.width();
        float[] m = mosaic.channel(0).clone();
        int period = pattern.width();
        int[][] offsets = new int[near.length][NEIGHBOURS];
        for (int phase = 0; phase < near.length; phase++) {
            for (int k = 0; k < NEIGHBOURS; k++) {
                offsets[phase][k] = near[phase][k][1] * w + near[phase][k][0];
            }
        }
        float[] own = new float[w];
        float[][] beside = new float[4][w];
        float[][] photons = new float[pattern.height()][w];
        float[][] reading = new float[pattern.height()][w];
        for (int y = 0; y < pattern.height(); y++) {
            for (int x = 0; x < w; x++) {
                int colour = pattern.colourAt(r.x() + x, y);
                photons[y][x] = noise.a().get(colour).floatValue();
                reading[y][x] = noise.b().get(colour).floatValue();
            }
        }
        float[] beyond = new float[w];
        for (int y = MARGIN; y < r.height() - MARGIN; y++) {
            int phase = Math.floorMod(r.y() + y, pattern.height());
            int row = phase * period;
            System.arraycopy(m, y * w, own, 0, w);
            for (int k = 0; k < beside.length; k++) {
                nearest(m, y * w, r.x(), Arrays.copyOfRange(offsets, row, row + period), k, beside[k]);
            }
            beyond(own, beside[0], beside[1], beside[2], beside[3], photons[phase], reading[phase], beyond);
            for (int i = y * w + MARGIN; i < y * w + w - MARGIN; i++) {
                if (beyond[i - y * w] <= 0) {
                    continue; // as nearly all are, without a look at the rest
                }
                int x = r.x() + i - y * w;
                int[] n = offsets[row + Math.floorMod(x, period)];
                float v = m[i];
                int colour = pattern.colourAt(x, r.y() + y);
                float middle = middle(m, i, n);
                double far = FROM_MIDDLE_SD * Math.sqrt(noise.variance(colour, middle));
                boolean hot = v > middle + far;
                boolean dead = v < middle - far && v < 0.5 * middle;
                if ((hot || dead)
                        && (!evenGround || onEvenGround(m, i, n, middle, v - middle))
                        && standsAlone(m, i, w, offsets, x, r.y() + y, v - middle, colour)) {
                    seen.at(i, x, r.y() + y, middle);
                }
            }
        }
    }

    /** The k-th nearest of its colour for each photosite of a row. */
    private static void nearest(float[] m, int from, int left, int[][] offsets, int k, float[] out) {
        int period = offsets.length;
        boolean same = Arrays.stream(offsets).allMatch(n -> n[k] == offsets[0][k]);
        if (same) {
            System.arraycopy(m, from + offsets[0][k], out, 0, out.length);
            return;
        }
        for (int phase = 0; phase < period; phase++) {
            int offset = from + offsets[Math.floorMod(left + MARGIN + phase, period)][k];
            for (int x = MARGIN + phase; x < out.length - MARGIN; x += period) {
                out[x] = m[offset + x];
            }
        }
    }

    /** More than 0 where a photosite lies far above the highest of its neighbours, or far below the lowest. */
    private static void beyond(
            float[] own, float[] p, float[] q, float[] r, float[] s, float[] photons, float[] reading, float[] out) {
        for (int x = 0; x < out.length; x++) {
            float nearest = Math.min(
                    Math.max(Math.max(p[x], q[x]), Math.max(r[x], s[x])),
                    Math.max(own[x], Math.min(Math.min(p[x], q[x]), Math.min(r[x], s[x]))));
            float away = own[x] - nearest;
            float variance = photons[x] * Math.max(0, nearest) + reading[x];
            out[x] = away * away - FROM_NEAREST_SD * FROM_NEAREST_SD * variance;
        }
    }

    /** Replaces one photosite that is known to be defect by its neighbours of the same colour, if they lie in the region. */
    public void replace(Planes mosaic, int x, int y) {
        Region r = mosaic.region();
        if (!r.grow(-MARGIN).contains(new Region(x, y, 1, 1))) {
            return;
        }
        int[][] places = near[Math.floorMod(y, pattern.height()) * pattern.width() + Math.floorMod(x, pattern.width())];
        int[] offsets = new int[NEIGHBOURS];
        for (int k = 0; k < NEIGHBOURS; k++) {
            offsets[k] = places[k][1] * r.width() + places[k][0];
        }
        int i = mosaic.index(x, y);
        mosaic.channel(0)[i] = middle(mosaic.channel(0), i, offsets);
    }

    /**
     * Whether the neighbours of the same colour are alike, but for one, as two defects may be neighbours. On fine texture they
     * are not, and its crests are no defects.
     */
    private static boolean onEvenGround(float[] m, int i, int[] offsets, float middle, double excess) {
        int uneven = 0;
        for (int offset : offsets) {
            uneven += Math.abs(m[i + offset] - middle) > EVEN_SHARE * Math.abs(excess) ? 1 : 0;
        }
        return uneven < 2;
    }

    /** The neighbours' excess after white balance, each weighted by how little noise its balanced value has. */
    private boolean standsAlone(float[] m, int i, int w, int[][] offsets, int x, int y, double excess, int colour) {
        double sum = 0;
        double weights = 0;
        for (int k = 0; k < 4; k++) {
            int dx = k == 0 ? -1 : k == 1 ? 1 : 0;
            int dy = k == 2 ? -1 : k == 3 ? 1 : 0;
            int beside = i + dy * w + dx;
            int phase =
                    Math.floorMod(y + dy, pattern.height()) * pattern.width() + Math.floorMod(x + dx, pattern.width());
            double gain = gains[pattern.colourAt(x + dx, y + dy)];
            double weight = 1 / (gain * gain);
            sum += weight * gain * (m[beside] - middle(m, beside, offsets[phase]));
            weights += weight;
        }
        return sum / weights * Math.signum(excess) < LIGHT_SHARE * Math.abs(excess) * gains[colour];
    }

    /** The median of the neighbours of the same colour, as the mean of the middle two: the fifth and the fourth largest. */
    private static float middle(float[] m, int i, int[] offsets) {
        float a = Float.NEGATIVE_INFINITY;
        float b = a;
        float c = a;
        float d = a;
        float e = a;
        for (int k = 0; k < NEIGHBOURS; k++) {
            // Kept in order, largest first; what falls out below is none of the middle two.
            float v = m[i + offsets[k]];
            e = Math.max(e, Math.min(d, v));
            d = Math.max(d, Math.min(c, v));
            c = Math.max(c, Math.min(b, v));
            b = Math.max(b, Math.min(a, v));
            a = Math.max(a, v);
        }
        return (d + e) / 2;
    }
}
