package org.rainsieve.denoise;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.Function;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.primitives.Smoothstep;

/**
 * Points of light on smooth background, which any method takes for noise when they are faint. They are looked for in the noisy
 * mosaic with a matched filter (Turin 1960) over all colours; where one stands out and nothing else does around it, what a
 * method took away there is given back. So its light is that of the noisy frame, whatever amounts are kept elsewhere.
 */
public final class Stars {
    /** What is looked at around a place, in pixels. */
    private static final int MARGIN = 32;

    /** So many rows at once, which bounds what is held. */
    private static final int BAND = 512;

    /** Ground is the mean of the photosites of a colour within this. */
    private static final int GROUND = 8;

    /** Of the matched filter: a star of FWHM 2 px. */
    private static final double SIGMA_PX = 0.85;

    private static final int REACH = 3;
    private static final float[] KERNEL = new float[2 * REACH + 1];
    /** The sum of the squares of its two-dimensional form. */
    private static final float KERNEL_POWER;

    static {
        float power = 0;
        for (int k = -REACH; k <= REACH; k++) {
            KERNEL[k + REACH] = (float) Math.exp(-k * k / (2 * SIGMA_PX * SIGMA_PX));
            power += KERNEL[k + REACH] * KERNEL[k + REACH];
        }
        KERNEL_POWER = power * power;
    }

    /** Sd above the background from which a point is a star, and up to which its surroundings are smooth. */
    private static final float STANDS_OUT = 6.5f;

    private static final float SMOOTH = 4;

    /** The colours of faint stars are noise; so many sd above the background they are given back, too. */
    private static final float TINT_FROM = 10;

    private static final float TINT_TO = 30;

    /** From so many sd on a star's shape counts, too. */
    private static final float BRIGHT = 25;

    /** Places on rings of these radii tell whether a point stands alone. */
    private static final int[] RINGS = {5, 8};

    private static final int ON_RING = 16;
    private static final int MOST_ON_RINGS = 6;

    /** The background so far away, a multiple of every pattern's period, differs by no more than this share of a photosite's sd. */
    private static final int FLAT_PX = 12;

    private static final float FLAT = 0.5f;

    /** All is given back to the inner radius, nothing from the outer one on. */
    private static final double INNER_PX = 2.3;

    private static final double OUTER_PX = 4;

    private final Region region;
    private final int w;
    private final int h;
    /** What is given back of grey and of colour, for the pixels of the core. */
    private float[] light;

    private float[] tint;
    /** Around the brightest stars, within the core. */
    private final List<Region> brightest = new ArrayList<>();

    private final float[] taken = new float[3];
    private final float[] values;
    /** What a photosite counts for: one over its variance. */
    private final float[] weight;

    private final float[] signal;
    private float[] background;
    /** What follows holds for each row of the pattern, a value for each column of the region. */
    private final int[][] colours;
    /** Gain, gain² × a and gain² × b: noise as white balance shows it. */
    private final float[][] gain;

    private final float[][] photons;
    private final float[][] reading;
    /** One over the number of photosites of that colour within the ground's reach. */
    private final float[][] shareOfGround;
    /** Of each colour 1 at its photosites. */
    private final float[][][] ofColour;

    private final boolean[][] hasColour;

    private Stars(Planes noisy, Region core, CfaPattern pattern, NoiseModel noise, double[] gains) {
        region = core.grow(MARGIN).intersect(noisy.region());
        w = region.width();
        h = region.height();
        int period = pattern.height();
        colours = new int[period][w];
        gain = new float[period][w];
        photons = new float[period][w];
        reading = new float[period][w];
        shareOfGround = new float[period][w];
        ofColour = new float[3][period][w];
        hasColour = new boolean[3][period];
        for (int y = 0; y < period; y++) {
            for (int x = 0; x < w; x++) {
                int c = pattern.colourAt(region.x() + x, region.y() + y);
                colours[y][x] = c;
                gain[y][x] = (float) gains[c];
                photons[y][x] = (float) (gains[c] * gains[c] * noise.a().get(c));
                reading[y][x] = (float) (gains[c] * gains[c] * noise.b().get(c));
                shareOfGround[y][x] = x < pattern.width()
                        ? 1f / alike(pattern, region.x() + x, region.y() + y)
                        : shareOfGround[y][x - pattern.width()];
                ofColour[c][y][x] = 1;
                hasColour[c][y] = true;
            }
        }
        values = new float[w * h];
        for (int y = 0; y < h; y++) {
            System.arraycopy(noisy.channel(0), noisy.index(region.x(), region.y() + y), values, y * w, w);
        }
        weight = new float[w * h];
        signal = new float[w * h];
    }

    /** Photosites of the same colour within the ground's reach. */
    private static int alike(CfaPattern pattern, int x, int y) {
        int found = 0;
        for (int dy = -GROUND; dy <= GROUND; dy++) {
            for (int dx = -GROUND; dx <= GROUND; dx++) {
                found += pattern.colourAt(x + dx, y + dy) == pattern.colourAt(x, y) ? 1 : 0;
            }
        }
        return found;
    }

    /**
     * Moves what was taken from stars back from the residual to the estimate.
     *
     * @param noisy the mosaic, wider than the estimate by as much as is looked at around a star
     * @param gains white-balance gains
     * @param interpolated a region of the noisy mosaic in full colour, for the brightest stars where a method answers in
     *     colours that the residual, known at the photosites only, does not correct well enough; null where it does
     */
    public static void giveBack(
            Planes noisy,
            CfaPattern pattern,
            NoiseModel noise,
            double[] gains,
            Planes estimate,
            Planes residual,
            Function<Region, Planes> interpolated) {
        Region all = estimate.region();
        for (int y = all.y(); y < all.bottom(); y += BAND) {
            Region band = new Region(all.x(), y, all.width(), Math.min(BAND, all.bottom() - y));
            Stars stars = new Stars(noisy, band, pattern, noise, gains);
            stars.find(band);
            if (interpolated != null) {
                stars.giveBrightestBack(band, gains, estimate, residual, interpolated);
            }
            int first = estimate.index(band.x(), band.y());
            for (int i = 0; i < stars.light.length; i++) {
                if (stars.light[i] > 0) {
                    int at = first + i;
                    for (int c = 0; c < 3; c++) {
                        stars.taken[c] = residual.channel(c)[at];
                    }
                    giveBack(stars.taken, stars.light[i], stars.tint[i], gains, estimate, residual, at);
                }
            }
        }
    }

    private void giveBrightestBack(
            Region core, double[] gains, Planes estimate, Planes residual, Function<Region, Planes> interpolated) {
        for (Region around : brightest) {
            if (around.area() == 0) {
                continue;
            }
            Planes whole = interpolated.apply(around);
            for (int y = around.y(); y < around.bottom(); y++) {
                for (int x = around.x(); x < around.right(); x++) {
                    int i = (y - core.y()) * core.width() + x - core.x();
                    int at = estimate.index(x, y);
                    for (int c = 0; c < 3; c++) {
                        taken[c] = whole.at(c, x, y) - estimate.channel(c)[at];
                    }
                    giveBack(taken, light[i], tint[i], gains, estimate, residual, at);
                    light[i] = 0;
                    tint[i] = 0;
                }
            }
        }
    }

    /** @param taken from each colour */
    private static void giveBack(
            float[] taken, float light, float tint, double[] gains, Planes estimate, Planes residual, int i) {
        double grey = 0;
        for (int c = 0; c < 3; c++) {
            grey += taken[c] * gains[c] / 3;
        }
        for (int c = 0; c < 3; c++) {
            float plain = (float) (grey / gains[c]);
            float back = light * plain + tint * (taken[c] - plain);
            estimate.channel(c)[i] += back;
            residual.channel(c)[i] -= back;
        }
    }

    private void find(Region core) {
        standardise();
        float[] found = filtered();
        light = new float[(int) core.area()];
        tint = new float[light.length];
        int left = core.x() - region.x();
        int top = core.y() - region.y();
        int rim = REACH + RINGS[1];
        int near = (int) Math.ceil(OUTER_PX);
        for (int y = Math.max(rim, top - near); y < Math.min(h - rim, top + core.height() + near); y++) {
            for (int x = Math.max(rim, left - near); x < Math.min(w - rim, left + core.width() + near); x++) {
                if (mayStandOut(found, x, y) && highest(found, x, y) && flat(x, y)) {
                    float sd = response(found, x, y);
                    if (sd >= STANDS_OUT && alone(found, x, y)) {
                        mark(core, x - left, y - top, (sd - TINT_FROM) / (TINT_TO - TINT_FROM));
                        if (sd > BRIGHT) {
                            Region around = new Region(region.x() + x, region.y() + y, 1, 1).grow(near);
                            brightest.add(around.intersect(core));
                        }
                    }
                }
            }
        }
    }

    private boolean highest(float[] found, int x, int y) {
        float own = found[y * w + x];
        for (int k = 0; k < 9; k++) {
            if (found[(y + k / 3 - 1) * w + x + k % 3 - 1] > own) {
                return false;
            }
        }
        return true;
    }

    /** A sky is; a subject hardly ever. */
    private boolean flat(int x, int y) {
        int i = y * w + x;
        int phase = y % colours.length;
        float most = FLAT / gain[phase][x] / (float) Math.sqrt(weight[i]);
        for (int k = 0; k < 9; k++) {
            int px = Math.max(0, Math.min(w - 1, x + FLAT_PX * (k % 3 - 1)));
            int py = Math.max(0, Math.min(h - 1, y + FLAT_PX * (k / 3 - 1)));
            if (Math.abs(background[py * w + px] - background[i]) > most) {
                return false;
            }
        }
        return true;
    }

    /** A few other stars may stand around it; a line leads to it from two sides, and texture is everywhere. */
    private boolean alone(float[] filtered, int x, int y) {
        int found = 0;
        for (int radius : RINGS) {
            boolean[] on = new boolean[ON_RING];
            for (int k = 0; k < ON_RING; k++) {
                double angle = 2 * Math.PI * k / ON_RING;
                int px = x + (int) Math.round(radius * Math.cos(angle));
                int py = y + (int) Math.round(radius * Math.sin(angle));
                on[k] = Math.abs(response(filtered, px, py)) > SMOOTH;
                found += on[k] ? 1 : 0;
            }
            for (int k = 0; k < ON_RING / 2; k++) {
                if (on[k] && on[k + ON_RING / 2]) {
                    return false;
                }
            }
        }
        return found <= MOST_ON_RINGS;
    }

    private void mark(Region core, int x, int y, float colours) {
        int near = (int) Math.ceil(OUTER_PX);
        for (int py = Math.max(0, y - near); py < Math.min(core.height(), y + near + 1); py++) {
            for (int px = Math.max(0, x - near); px < Math.min(core.width(), x + near + 1); px++) {
                double t = (OUTER_PX - Math.hypot(px - x, py - y)) / (OUTER_PX - INNER_PX);
                double share = Smoothstep.at(t);
                int i = py * core.width() + px;
                light[i] = Math.max(light[i], (float) share);
                tint[i] = Math.max(tint[i], (float) share * Math.max(0, Math.min(1, colours)));
            }
        }
    }

    /** False where a place cannot stand out, seen from the four photosites there alone. */
    private boolean mayStandOut(float[] found, int x, int y) {
        int i = y * w + x;
        float least = Math.min(Math.min(weight[i], weight[i + 1]), Math.min(weight[i + w], weight[i + w + 1]));
        float half = STANDS_OUT / 2;
        // One comparison, which the processor foresees; whether noise is above 0 it cannot.
        return found[i] * Math.abs(found[i]) > half * half * least * KERNEL_POWER;
    }

    /** How far a star at a place stands out from its background, in sd. */
    private float response(float[] found, int x, int y) {
        float variance = 0;
        for (int dy = -REACH; dy <= REACH; dy++) {
            float down = KERNEL[dy + REACH] * KERNEL[dy + REACH];
            for (int dx = -REACH; dx <= REACH; dx++) {
                float across = KERNEL[dx + REACH] * KERNEL[dx + REACH];
                variance += down * across * weight[(y + dy) * w + x + dx];
            }
        }
        return found[y * w + x] / (float) Math.sqrt(variance);
    }

    /** What each photosite is above its background, white-balanced, and what it counts for. */
    private void standardise() {
        background = background();
        float[] value = new float[w];
        float[] under = new float[w];
        float[] counts = new float[w];
        for (int y = 0; y < h; y++) {
            int phase = y % colours.length;
            System.arraycopy(values, y * w, value, 0, w);
            System.arraycopy(background, y * w, under, 0, w);
            standardise(value, under, gain[phase], photons[phase], reading[phase], counts);
            System.arraycopy(value, 0, signal, y * w, w);
            System.arraycopy(counts, 0, weight, y * w, w);
        }
    }

    /** Rows apart, from equal places on, so that it vectorises; values become signals. */
    private static void standardise(
            float[] values, float[] background, float[] g, float[] a, float[] b, float[] counts) {
        for (int x = 0; x < g.length; x++) {
            counts[x] = 1 / (a[x] * Math.max(0, background[x]) + b[x]);
            values[x] = (values[x] - background[x]) * g[x] * counts[x];
        }
    }

    /** The signal across and down; at the rim, where less is known, nothing stands out. */
    private float[] filtered() {
        float[] out = new float[w * h];
        float[][] rows = new float[KERNEL.length][w];
        float[] down = new float[w];
        for (int y = REACH; y < h - REACH; y++) {
            for (int k = 0; k < rows.length; k++) {
                System.arraycopy(signal, (y + k - REACH) * w, rows[k], 0, w);
            }
            weighted(rows[0], rows[1], rows[2], rows[3], rows[4], rows[5], rows[6], down);
            for (int k = 0; k < rows.length; k++) {
                System.arraycopy(down, k, rows[k], REACH, w - 2 * REACH);
            }
            weighted(rows[0], rows[1], rows[2], rows[3], rows[4], rows[5], rows[6], down);
            System.arraycopy(down, REACH, out, y * w + REACH, w - 2 * REACH);
        }
        return out;
    }

    private static void weighted(
            float[] p, float[] q, float[] r, float[] s, float[] t, float[] u, float[] v, float[] out) {
        for (int x = 0; x < out.length; x++) {
            out[x] = KERNEL[0] * (p[x] + v[x])
                    + KERNEL[1] * (q[x] + u[x])
                    + KERNEL[2] * (r[x] + t[x])
                    + KERNEL[3] * s[x];
        }
    }

    /** The mean of each photosite's colour around it, what stands far out of a first mean taken as little above it. */
    private float[] background() {
        float[] limited = means(values);
        float[] value = new float[w];
        float[] mean = new float[w];
        for (int y = 0; y < h; y++) {
            int phase = y % colours.length;
            System.arraycopy(values, y * w, value, 0, w);
            System.arraycopy(limited, y * w, mean, 0, w);
            limit(value, mean, gain[phase], photons[phase], reading[phase]);
            System.arraycopy(value, 0, limited, y * w, w);
        }
        return means(limited);
    }

    private static void limit(float[] values, float[] means, float[] g, float[] a, float[] b) {
        for (int x = 0; x < g.length; x++) {
            float far = 3 * (float) Math.sqrt(a[x] * Math.max(0, means[x]) + b[x]) / g[x];
            values[x] = Math.max(means[x] - far, Math.min(means[x] + far, values[x]));
        }
    }

    /** Columns are summed apart for each row of the pattern as the window slides down, then across for each colour. */
    private float[] means(float[] in) {
        int period = colours.length;
        float[][] columns = new float[period][w];
        float[] ofOne = new float[w];
        double[][] sums = new double[3][w + 1];
        float[] out = new float[w * h];
        for (int y = -GROUND; y < h; y++) {
            if (y + GROUND < h) {
                add(in, (y + GROUND) * w, 1, columns[(y + GROUND) % period], 0, w);
            }
            if (y - GROUND > 0) {
                add(in, (y - GROUND - 1) * w, -1, columns[(y - GROUND - 1) % period], 0, w);
            }
            for (int c = 0; c < 3 && y >= 0; c++) {
                if (!hasColour[c][y % period]) {
                    continue;
                }
                Arrays.fill(ofOne, 0);
                for (int row = 0; row < period; row++) {
                    addMasked(columns[row], ofColour[c][row], ofOne);
                }
                double sum = 0;
                for (int x = 0; x < w; x++) {
                    sum += ofOne[x];
                    sums[c][x + 1] = sum;
                }
            }
            for (int phase = 0; phase < period && y >= 0; phase++) {
                double[] own = sums[colours[y % period][phase]];
                float[] share = shareOfGround[y % period];
                for (int x = phase; x < w; x += period) {
                    int to = Math.min(w, x + GROUND + 1);
                    int from = Math.max(0, x - GROUND);
                    out[y * w + x] = (float) (own[to] - own[from]) * share[x];
                }
            }
        }
        return out;
    }

    private static void addMasked(float[] plane, float[] mask, float[] to) {
        for (int x = 0; x < to.length; x++) {
            to[x] += mask[x] * plane[x];
        }
    }

    private static void add(float[] plane, int from, float times, float[] to, int first, int count) {
        for (int x = 0; x < count; x++) {
            to[first + x] += times * plane[from + x];
        }
    }
}
