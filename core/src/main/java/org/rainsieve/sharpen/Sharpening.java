package org.rainsieve.sharpen;

import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.primitives.Border;
import org.rainsieve.primitives.Convolution;

/**
 * Takes the blur of luminance back, in linear light and in the sensor's geometry. Colours keep their ratios. What does not
 * stand out of the noise is left as it is (by plain rules an empirical Wiener gain over a fixed window; see also {@link LearnedDetail}),
 * and no edge overshoots what is around it by more than the rim limit.
 */
public final class Sharpening {
    private static final int MARGIN = Deconvolution.RADIUS;

    /** What the filters make of one transform; a tile, unless a network looks at what is around it. */
    private static final int FILTERED = Fourier.SIZE - 2 * MARGIN;

    /** So much of it around a tile is for the network, and for parting its fine detail from its coarse. */
    private static final int LEARNED_MARGIN = LearnedDetail.REACH_PX + 8;

    /** Detail is measured against the noise over (2·3 + 1)² pixels. */
    private static final int WINDOW = 3;

    /** Detail whose local variance is this many times what noise makes is put back in half. */
    private static final float DOUBT = 2;

    /** What even the smoothest method leaves of the noise. */
    private static final double LEAST_LEFT = 0.1;

    /** With the blur growing towards the corners, kernels are made for σ at these steps and mixed. */
    private static final double STEP_PX = 0.125;

    private static final int WIDEST_RIM = 12;

    /** White as far as denoising tells: it brings single clipped photosites down a little. */
    private static final float CLIPPED = 0.9f;

    /** Beside what clipped light reaches, sharpening sets in over so many pixels. */
    private static final int FADE_PX = 4;

    private static final float[] SHARE = {0.25f, 0.5f, 0.25f};

    /** Sum of the squares of the shares: what luminance has of colours' even variance. */
    public static final double SHARES_SQUARED = 0.375;

    private final SharpenSettings settings;
    private final int width;
    private final int height;
    private final float[] weight = new float[3];
    private final double grainLeft;
    private final double varianceSlope;
    private final double varianceAtBlack;

    /**
     * @param gains white-balance gains of red, green, blue
     * @param noise of the sensor, before denoising
     * @param grainKept share of it that was left in, 0 to 1
     * @throws IllegalArgumentException in plain words when the settings' model does not ship
     */
    public Sharpening(
            SharpenSettings settings, int width, int height, double[] gains, NoiseModel noise, double grainKept) {
        this.settings = settings;
        if (learned()) {
            LearnedDetail.MODELS.named(settings.model());
        }
        this.width = width;
        this.height = height;
        grainLeft = left(grainKept);
        double slope = 0;
        double black = 0;
        for (int c = 0; c < 3; c++) {
            weight[c] = (float) (SHARE[c] * gains[c]);
            slope += SHARE[c] * SHARE[c] * gains[c] * noise.a().get(c);
            black += weight[c] * weight[c] * noise.b().get(c);
        }
        varianceSlope = slope;
        varianceAtBlack = black;
    }

    /** Share of the noise's sd that is there after Denoise. */
    private static double left(double grainKept) {
        return Math.min(1, Math.hypot(grainKept, LEAST_LEFT));
    }

    private boolean learned() {
        return settings.method() == SharpenSettings.Method.LEARNED;
    }

    /** Canonical tiles are of so many pixels a side. */
    public int tilePx() {
        return learned() ? FILTERED - 2 * LEARNED_MARGIN : FILTERED;
    }

    /** The canonical tile with those indices, cut to the picture. */
    public Region core(int tileX, int tileY) {
        int size = tilePx();
        return new Region(tileX * size, tileY * size, size, size).intersect(new Region(0, 0, width, height));
    }

    /** The part of the picture that a tile is made from. */
    public Region around(Region core) {
        return core.grow(MARGIN + (learned() ? LEARNED_MARGIN : 0)).intersect(new Region(0, 0, width, height));
    }

    /** The part whose grain kept is asked of: a tile, and what a network looks at around it. */
    public Region looked(Region core) {
        return learned() ? worked(core).intersect(new Region(0, 0, width, height)) : core;
    }

    /** What a network works on for a tile; it may lie over the picture's rim. */
    private static Region worked(Region core) {
        return new Region(core.x() - LEARNED_MARGIN, core.y() - LEARNED_MARGIN, FILTERED, FILTERED);
    }

    /** @param before the picture over {@link #around} of the core */
    public SharpenTile tile(Region core, Planes before) {
        return tile(core, before, null);
    }

    /** @param grainKept of each pixel of what is {@link #looked} at, 0 to 1; null for the same everywhere */
    public SharpenTile tile(Region core, Planes before, float[] grainKept) {
        if (learned()) {
            return learnedTile(core, before, grainKept);
        }
        Luminance of = new Luminance(core, before);
        SharpenTile tile = tile(core, of, variance(of, core, grainKept));
        of.fade(core, tile.fine(), tile.coarse());
        return tile;
    }

    /** What a network finds, parted into fine and coarse as the plain filter's. */
    private SharpenTile learnedTile(Region core, Planes before, float[] grainKept) {
        Region worked = worked(core);
        Luminance of = new Luminance(worked, before);
        Evidence evidence = evidence(worked, of, grainKept == null ? null : extended(grainKept, looked(core), worked));
        SharpenTile plain = evidence.tile();
        float[] detail = LearnedDetail.sharpened(settings.model(), evidence, settings.spread());
        for (int i = 0; i < detail.length; i++) {
            detail[i] -= plain.luminance()[i];
        }
        float[] coarse = Convolution.separable(
                detail, FILTERED, FILTERED, Convolution.gaussian(Deconvolution.splitPx(settings.spread())));
        for (int i = 0; i < detail.length; i++) {
            detail[i] -= coarse[i];
        }
        of.fade(worked, detail, coarse);
        return new SharpenTile(
                core,
                cut(plain.luminance(), core),
                cut(detail, core),
                cut(coarse, core),
                cut(plain.darkest(), core),
                cut(plain.brightest(), core));
    }

    /** A tile out of what a network worked on. */
    private static float[] cut(float[] values, Region core) {
        float[] out = new float[Math.toIntExact(core.area())];
        for (int y = 0; y < core.height(); y++) {
            int from = (y + LEARNED_MARGIN) * FILTERED + LEARNED_MARGIN;
            System.arraycopy(values, from, out, y * core.width(), core.width());
        }
        return out;
    }

    /** Values known inside the picture, the nearest of them outside. */
    private static float[] extended(float[] values, Region known, Region over) {
        float[] out = new float[Math.toIntExact(over.area())];
        for (int y = 0; y < over.height(); y++) {
            int row = inside(over.y() + y, known.y(), known.bottom()) - known.y();
            for (int x = 0; x < over.width(); x++) {
                int column = inside(over.x() + x, known.x(), known.right()) - known.x();
                out[y * over.width() + x] = values[row * known.width() + column];
            }
        }
        return out;
    }

    /**
     * What a network is given of a blurred tile.
     *
     * @param strong luminance with its blur taken back as if there were no noise
     * @param variance of luminance's noise
     * @param softPx σ of the blur's soft part
     * @param white luminance where all colours are clipped
     */
    public record Evidence(SharpenTile tile, float[] strong, float[] variance, float[] softPx, float white) {}

    /** @param grainKept as with {@link #tile(Region, Planes, float[])} */
    public Evidence evidence(Region core, Planes before, float[] grainKept) {
        return evidence(core, new Luminance(core, before), grainKept);
    }

    private Evidence evidence(Region core, Luminance of, float[] grainKept) {
        float[] variance = variance(of, core, grainKept);
        SharpenTile tile = tile(core, of, variance);
        float[] sigma = sigmas(core);
        double middle = (least(sigma) + most(sigma)) / 2.0;
        Deconvolution kernel = Deconvolution.strong(settings.spread().withSoft(middle));
        Fourier detail = new Fourier();
        for (int k = 0; k < Fourier.SIZE; k++) {
            for (int i = 0; i < Fourier.SIZE; i++) {
                float whole = kernel.fine[k][i] + kernel.coarse[k][i];
                detail.re[k][i] = of.spectrum.re[k][i] * whole;
                detail.im[k][i] = of.spectrum.im[k][i] * whole;
            }
        }
        detail.inverse();
        float[] strong = tile.luminance().clone();
        for (int i = 0; i < strong.length; i++) {
            strong[i] += detail.re[i / core.width() + MARGIN][i % core.width() + MARGIN];
        }
        return new Evidence(tile, strong, variance, sigma, weight[0] + weight[1] + weight[2]);
    }

    /** Luminance over a tile and its margins, and its spectrum. */
    private final class Luminance {
        final float[][] light = new float[Fourier.SIZE][Fourier.SIZE];
        final Fourier spectrum = new Fourier();

        /** 1 where a colour is clipped; null where none is. */
        float[][] clipped;

        Luminance(Region core, Planes before) {
            int n = Fourier.SIZE;
            int left = core.x() - MARGIN;
            int top = core.y() - MARGIN;
            for (int y = 0; y < n; y++) {
                int row = Border.mirrorAboutEdge(top + y, height);
                for (int x = 0; x < n; x++) {
                    int i = before.index(
                            inside(
                                    Border.mirrorAboutEdge(left + x, width),
                                    before.region().x(),
                                    before.region().right()),
                            inside(row, before.region().y(), before.region().bottom()));
                    light[y][x] = weight[0] * before.channel(0)[i]
                            + weight[1] * before.channel(1)[i]
                            + weight[2] * before.channel(2)[i];
                    if (Math.max(before.channel(0)[i], Math.max(before.channel(1)[i], before.channel(2)[i]))
                            >= CLIPPED) {
                        clipped = clipped == null ? new float[n][n] : clipped;
                        clipped[y][x] = 1;
                    }
                }
                System.arraycopy(light[y], 0, spectrum.re[y], 0, n);
            }
            spectrum.forward();
        }

        /** Takes back what was found where clipped light is spread: nobody knows how much there was, and its like would ring. */
        void fade(Region core, float[] fine, float[] coarse) {
            if (clipped == null) {
                return;
            }
            int reach = Math.min(
                    WIDEST_RIM, (int) Math.ceil(1.5 * (settings.spread().reachPx() + settings.cornersPx())) + 1);
            float[] known = new float[fine.length];
            for (int step = 0; step < FADE_PX; step++) {
                float[] near = extreme(clipped, core, reach + step, true);
                for (int i = 0; i < known.length; i++) {
                    known[i] += (1 - near[i]) / FADE_PX;
                }
            }
            for (int i = 0; i < known.length; i++) {
                fine[i] *= known[i];
                coarse[i] *= known[i];
            }
        }
    }

    private SharpenTile tile(Region core, Luminance of, float[] variance) {
        float[][] light = of.light;
        Fourier square = of.spectrum;
        int area = Math.toIntExact(core.area());
        float[] fine = new float[area];
        float[] coarse = new float[area];
        if (settings.cornersPx() == 0) {
            add(square, settings.spread(), core, variance, null, fine, coarse);
        } else {
            float[] sigma = sigmas(core);
            int first = (int) Math.floor(least(sigma) / STEP_PX);
            int last = (int) Math.ceil(most(sigma) / STEP_PX);
            for (int k = first; k <= last; k++) {
                double knot = Math.min(k * STEP_PX, PointSpread.LARGEST_SOFT_PX);
                float[] share = new float[area];
                for (int i = 0; i < area; i++) {
                    share[i] = (float) Math.max(0, 1 - Math.abs(sigma[i] - k * STEP_PX) / STEP_PX);
                }
                add(square, settings.spread().withSoft(knot), core, variance, share, fine, coarse);
            }
        }
        int rim = Math.min(WIDEST_RIM, (int) Math.ceil(settings.spread().reachPx() + settings.cornersPx()) + 1);
        float[] luminance = new float[area];
        for (int y = 0; y < core.height(); y++) {
            System.arraycopy(light[y + MARGIN], MARGIN, luminance, y * core.width(), core.width());
        }
        return new SharpenTile(
                core, luminance, fine, coarse, extreme(light, core, rim, false), extreme(light, core, rim, true));
    }

    private float[] variance(Luminance of, Region core, float[] grainKept) {
        float[] variance = new float[Math.toIntExact(core.area())];
        for (int i = 0; i < variance.length; i++) {
            float here = of.light[i / core.width() + MARGIN][i % core.width() + MARGIN];
            double part = grainKept == null ? grainLeft : left(grainKept[i]);
            variance[i] = (float) ((varianceSlope * Math.max(0, here) + varianceAtBlack) * part * part);
        }
        return variance;
    }

    private float[] sigmas(Region core) {
        float[] sigma = new float[Math.toIntExact(core.area())];
        double corner = (width * (double) width + height * (double) height) / 4;
        for (int y = 0; y < core.height(); y++) {
            for (int x = 0; x < core.width(); x++) {
                double dx = core.x() + x + 0.5 - width / 2.0;
                double dy = core.y() + y + 0.5 - height / 2.0;
                double soft = settings.spread().softPx() + settings.cornersPx() * (dx * dx + dy * dy) / corner;
                sigma[y * core.width() + x] = (float) Math.min(soft, PointSpread.LARGEST_SOFT_PX);
            }
        }
        return sigma;
    }

    private static float least(float[] values) {
        float least = values[0];
        for (float value : values) {
            least = Math.min(least, value);
        }
        return least;
    }

    private static float most(float[] values) {
        float most = values[0];
        for (float value : values) {
            most = Math.max(most, value);
        }
        return most;
    }

    /** Adds what one kernel finds; {@code share} null for all of it. */
    private void add(
            Fourier spectrum,
            PointSpread spread,
            Region core,
            float[] variance,
            float[] share,
            float[] fine,
            float[] coarse) {
        if (spread.isNone()) {
            return;
        }
        int n = Fourier.SIZE;
        Deconvolution kernel = Deconvolution.of(spread);
        Fourier detail = new Fourier();
        for (int k = 0; k < n; k++) {
            float[] re = spectrum.re[k];
            float[] im = spectrum.im[k];
            float[] f = kernel.fine[k];
            float[] c = kernel.coarse[k];
            float[] toRe = detail.re[k];
            float[] toIm = detail.im[k];
            // The fine detail comes out as the real part, the coarse one as the imaginary part.
            for (int i = 0; i < n; i++) {
                toRe[i] = re[i] * f[i] - im[i] * c[i];
                toIm[i] = im[i] * f[i] + re[i] * c[i];
            }
        }
        detail.inverse();
        int w = core.width();
        float[] power = localPower(detail, core);
        float gain = (float) kernel.noiseGain;
        for (int y = 0; y < core.height(); y++) {
            for (int x = 0; x < w; x++) {
                int i = y * w + x;
                float stands = Math.max(0, 1 - DOUBT * gain * variance[i] / Math.max(power[i], 1e-20f));
                float part = share == null ? stands : stands * share[i];
                fine[i] += part * detail.re[y + MARGIN][x + MARGIN];
                coarse[i] += part * detail.im[y + MARGIN][x + MARGIN];
            }
        }
    }

    /** Mean square of all detail in the window around each pixel of the core. */
    private static float[] localPower(Fourier detail, Region core) {
        int w = core.width();
        int side = 2 * WINDOW + 1;
        float[][] across = new float[core.height() + 2 * WINDOW][w];
        float[] squares = new float[w + 2 * WINDOW];
        for (int y = 0; y < across.length; y++) {
            float[] fine = detail.re[y + MARGIN - WINDOW];
            float[] coarse = detail.im[y + MARGIN - WINDOW];
            for (int x = 0; x < squares.length; x++) {
                float whole = fine[x + MARGIN - WINDOW] + coarse[x + MARGIN - WINDOW];
                squares[x] = whole * whole;
            }
            for (int x = 0; x < w; x++) {
                float sum = 0;
                for (int k = 0; k < side; k++) {
                    sum += squares[x + k];
                }
                across[y][x] = sum;
            }
        }
        float[] power = new float[core.height() * w];
        float[] row = new float[w];
        for (int y = 0; y < core.height(); y++) {
            java.util.Arrays.fill(row, 0);
            for (int k = 0; k < side; k++) {
                addTo(row, across[y + k]);
            }
            for (int x = 0; x < w; x++) {
                power[y * w + x] = row[x] / (side * side);
            }
        }
        return power;
    }

    private static void addTo(float[] sum, float[] more) {
        for (int i = 0; i < sum.length; i++) {
            sum[i] += more[i];
        }
    }

    /** The darkest or brightest value within a square of that radius. */
    private static float[] extreme(float[][] light, Region core, int radius, boolean brightest) {
        int w = core.width();
        float sign = brightest ? 1 : -1;
        float[] out = new float[core.height() * w];
        float[][] across = new float[core.height() + 2 * radius][w];
        for (int y = 0; y < across.length; y++) {
            float[] from = light[y + MARGIN - radius];
            for (int x = 0; x < w; x++) {
                float most = sign * from[x + MARGIN - radius];
                for (int k = 1; k <= 2 * radius; k++) {
                    most = Math.max(most, sign * from[x + MARGIN - radius + k]);
                }
                across[y][x] = most;
            }
        }
        float[] row = new float[w];
        for (int y = 0; y < core.height(); y++) {
            System.arraycopy(across[y], 0, row, 0, w);
            for (int k = 1; k <= 2 * radius; k++) {
                float[] other = across[y + k];
                for (int x = 0; x < w; x++) {
                    row[x] = Math.max(row[x], other[x]);
                }
            }
            for (int x = 0; x < w; x++) {
                out[y * w + x] = sign * row[x];
            }
        }
        return out;
    }

    /** Puts the detail of a tile into what it shares with {@code out}, which holds the picture before sharpening. */
    public void apply(SharpenTile tile, Planes out) {
        apply(tile, null, null, out);
    }

    /**
     * The same with bites that differ from place to place.
     *
     * @param fineShares bites of each pixel of what the two share; null for those of the settings
     */
    public void apply(SharpenTile tile, float[] fineShares, float[] coarseShares, Planes out) {
        Region r = tile.region().intersect(out.region());
        float fineShare = (float) settings.biteFinePercent() / 100;
        float coarseShare = (float) settings.biteCoarsePercent() / 100;
        float rim = (float) settings.rimLimitPercent() / 100;
        float floor = (float) (4 * grainLeft * Math.sqrt(varianceAtBlack) + 1e-6);
        float[] red = out.channel(0);
        float[] green = out.channel(1);
        float[] blue = out.channel(2);
        for (int y = r.y(); y < r.bottom(); y++) {
            int from = (y - tile.region().y()) * tile.region().width()
                    + r.x()
                    - tile.region().x();
            int to = out.index(r.x(), y);
            for (int x = 0; x < r.width(); x++, from++, to++) {
                float largest = Math.max(red[to], Math.max(green[to], blue[to]));
                if (largest >= 1) {
                    continue; // where a colour is clipped nothing is known of the rest
                }
                if (fineShares != null) {
                    int at = (y - r.y()) * r.width() + x;
                    fineShare = fineShares[at];
                    coarseShare = coarseShares[at];
                }
                float light = tile.luminance()[from];
                float wanted = light + fineShare * tile.fine()[from] + coarseShare * tile.coarse()[from];
                float low = tile.darkest()[from];
                float high = tile.brightest()[from];
                float room = rim * (high - low);
                wanted = Math.max(low - room, Math.min(high + room, wanted));
                float ratio = 1 + (wanted - light) / (Math.max(light, 0) + floor);
                ratio = Math.max(0, largest > 0 ? Math.min(ratio, 1 / largest) : ratio);
                red[to] *= ratio;
                green[to] *= ratio;
                blue[to] *= ratio;
            }
        }
    }

    private static int inside(int at, int from, int to) {
        return Math.max(from, Math.min(to - 1, at));
    }
}
