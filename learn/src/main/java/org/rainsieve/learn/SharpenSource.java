package org.rainsieve.learn;

import java.nio.FloatBuffer;
import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.RootScale;
import org.rainsieve.sharpen.LearnedDetail;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.sharpen.Sharpening;

/**
 * Training examples of taking a blur back: luminance blurred by a soft lens, a missed focus or a movement, with some grain left in.
 * The truth is what it was before, with the same grain: what sharpening is not to do is to make it stronger. Half are told their
 * blur wrongly, by up to 30 % and 10 degrees.
 */
final class SharpenSource implements Examples {

    /** What becomes of the picture. */
    enum Kind {
        SOFT,
        DISC,
        LINE
    }

    private static final RootScale SCALE = LearnedDetail.SCALE;

    /** A large patch is blurred and inverted at once, and cut up: transforms take longer than all else. */
    private static final int LARGE_PX = 512;

    private static final int ACROSS = 3;

    /** Large patches whose pieces are mixed. */
    private static final int POOL = 6;

    private static final double USUAL_ERROR = 0.008;

    /** Share of large patches with glints; what is released as {@code sharpen-1} has seen none. */
    private static final double GLINTING = 0.4;

    /** Half of a kernel that holds the widest blur. */
    private static final int REACH_PX = 14;

    /** Places within a pixel, along each axis, at which a kernel is looked at. */
    private static final int WITHIN = 7;

    private final CleanPatches patches;
    private final int size;
    private final Kind only;
    private final List<Example> pool = new ArrayList<>();

    private record Example(float[] input, float[] target, Judged judged) {}

    /**
     * @param size of an example, a third of what a large patch leaves within its margins
     * @param only what all examples are, or null for some of each
     */
    SharpenSource(List<Photographs.Picture> pictures, int size, Kind only) {
        this.patches = new CleanPatches(pictures, LARGE_PX);
        this.size = size;
        this.only = only;
    }

    @Override
    public Judged next(SplittableRandom random, float[] input, float[] target) {
        while (pool.size() < (POOL - 1) * ACROSS * ACROSS) {
            add(random);
        }
        Example example = pool.remove(random.nextInt(pool.size()));
        System.arraycopy(example.input, 0, input, 0, input.length);
        System.arraycopy(example.target, 0, target, 0, target.length);
        return example.judged;
    }

    private void add(SplittableRandom random) {
        CleanPatches.Clean clean = patches.next(random, true);
        int n = LARGE_PX;
        float[] light = new float[n * n];
        for (int i = 0; i < light.length; i++) {
            light[i] = Math.min(
                    1, 0.25f * clean.rgb()[i] + 0.5f * clean.rgb()[n * n + i] + 0.25f * clean.rgb()[2 * n * n + i]);
        }
        if (random.nextDouble() < GLINTING) {
            addGlints(light, n, random);
        }
        PointSpread spread = spread(random);
        float[] blurred = convolved(light, n, kernel(spread));
        double a = CleanPatches.logUniform(random, 2e-4, 0.03);
        double b = CleanPatches.read(a, random);
        double kept = 0.02 + 0.32 * random.nextDouble();
        float[] grain = Grain.field(n, Grain.softness(random), random);
        Planes before = new Planes(new Region(0, 0, n, n), 3);
        for (int i = 0; i < light.length; i++) {
            // The sensor cuts what is spread, not what was.
            grain[i] *= (float) (blurred[i] < 1 ? kept * Math.sqrt(a * Math.max(0, blurred[i]) + b) : 0);
            blurred[i] = Math.min(1, blurred[i]);
            light[i] = Math.min(1, light[i]) + grain[i];
            for (int c = 0; c < 3; c++) {
                before.channel(c)[i] = blurred[i] + grain[i];
            }
        }
        PointSpread told = random.nextBoolean() ? spread : wrong(spread, random);
        Sharpening sharpening = new Sharpening(
                SharpenSettings.plain(told, 0, 100, 100, 100),
                n,
                n,
                new double[] {1, 1, 1},
                NoiseModel.uniform(a / Sharpening.SHARES_SQUARED, b / Sharpening.SHARES_SQUARED),
                kept);
        int margin = (n - ACROSS * size) / 2;
        Region core = new Region(margin, margin, ACROSS * size, ACROSS * size);
        Sharpening.Evidence evidence = sharpening.evidence(core, before, null);
        Judged judged = new Judged(SCALE, clean.exposure(), (float) USUAL_ERROR);
        for (int k = 0; k < ACROSS * ACROSS; k++) {
            pool.add(cut(evidence, told, light, k % ACROSS * size, k / ACROSS * size, judged));
        }
    }

    private Example cut(
            Sharpening.Evidence evidence, PointSpread told, float[] truth, int left, int top, Judged judged) {
        int half = size / 2;
        int cells = half * half;
        float[] input = new float[LearnedDetail.PLANES_IN * cells];
        float[] target = new float[LearnedDetail.PLANES_OUT * cells];
        Region core = evidence.tile().region();
        LearnedDetail.write(
                evidence, told, new Region(core.x() + left, core.y() + top, size, size), FloatBuffer.wrap(input));
        for (int cell = 0; cell < cells; cell++) {
            for (int k = 0; k < 4; k++) {
                int x = core.x() + left + cell % half * 2 + (k & 1);
                int y = core.y() + top + cell / half * 2 + (k >> 1);
                target[k * cells + cell] = SCALE.forward(truth[y * LARGE_PX + x]);
            }
        }
        return new Example(input, target, judged);
    }

    /** Wet eyes, drops and lamps: spots brighter than white. */
    private static void addGlints(float[] light, int n, SplittableRandom random) {
        int glints = 3 + random.nextInt(40);
        for (int g = 0; g < glints; g++) {
            double x = n * random.nextDouble();
            double y = n * random.nextDouble();
            double peak = CleanPatches.logUniform(random, 0.5, 12);
            double sigma = 0.4 + 1.2 * random.nextDouble();
            int reach = (int) Math.ceil(4 * sigma);
            for (int py = Math.max(0, (int) y - reach); py <= Math.min(n - 1, (int) y + reach); py++) {
                for (int px = Math.max(0, (int) x - reach); px <= Math.min(n - 1, (int) x + reach); px++) {
                    double r2 = (px + 0.5 - x) * (px + 0.5 - x) + (py + 0.5 - y) * (py + 0.5 - y);
                    light[py * n + px] += (float) (peak * Math.exp(-r2 / (2 * sigma * sigma)));
                }
            }
        }
    }

    private PointSpread spread(SplittableRandom random) {
        double pick = random.nextDouble();
        Kind kind = only != null ? only : pick < 0.45 ? Kind.SOFT : pick < 0.7 ? Kind.DISC : Kind.LINE;
        double lens = 0.3 + 0.5 * random.nextDouble();
        return switch (kind) {
            case SOFT -> PointSpread.soft(0.5 + 1.6 * random.nextDouble());
            case DISC -> new PointSpread(lens, 1 + 4.2 * random.nextDouble(), 0, 0);
            case LINE -> new PointSpread(lens, 0, 3 + 17 * random.nextDouble(), 180 * random.nextDouble());
        };
    }

    private static PointSpread wrong(PointSpread true_, SplittableRandom random) {
        double size = 0.7 + 0.6 * random.nextDouble();
        return new PointSpread(
                size * true_.softPx(),
                size * true_.discPx(),
                size * true_.linePx(),
                true_.lineAngleDegrees() + 20 * random.nextDouble() - 10);
    }

    /** As light falls, point by point, not as transfer functions have it: soft ∗ disc ∗ line over (2·{@value #REACH_PX} + 1)² px. */
    static float[] kernel(PointSpread spread) {
        int side = 2 * REACH_PX + 1;
        double[] points = new double[side * side];
        double angle = Math.toRadians(spread.lineAngleDegrees());
        int along = spread.linePx() > 0 ? 64 : 1;
        int round = spread.discPx() > 0 ? 64 : 1;
        double step = 1.0 / WITHIN;
        for (int l = 0; l < along; l++) {
            double at = spread.linePx() * ((l + 0.5) / along - 0.5);
            for (int d = 0; d < round; d++) {
                // A spiral that covers a disc evenly (Vogel 1979).
                double r = spread.discPx() * Math.sqrt((d + 0.5) / round);
                double turn = d * Math.PI * (3 - Math.sqrt(5));
                addSoft(
                        points,
                        side,
                        REACH_PX + at * Math.cos(angle) + r * Math.cos(turn),
                        REACH_PX - at * Math.sin(angle) + r * Math.sin(turn),
                        Math.max(0.2, spread.softPx()),
                        step);
            }
        }
        double sum = 0;
        for (double p : points) {
            sum += p;
        }
        float[] kernel = new float[points.length];
        for (int i = 0; i < kernel.length; i++) {
            kernel[i] = (float) (points[i] / sum);
        }
        return kernel;
    }

    private static void addSoft(double[] points, int side, double x, double y, double sigma, double step) {
        int reach = (int) Math.ceil(4 * sigma);
        double[] across = gaussian(x, side, sigma, reach, step);
        double[] down = gaussian(y, side, sigma, reach, step);
        for (int py = Math.max(0, (int) y - reach); py <= Math.min(side - 1, (int) y + reach + 1); py++) {
            for (int px = Math.max(0, (int) x - reach); px <= Math.min(side - 1, (int) x + reach + 1); px++) {
                points[py * side + px] += across[px] * down[py];
            }
        }
    }

    /** What falls on each pixel of one axis. */
    private static double[] gaussian(double centre, int side, double sigma, int reach, double step) {
        double[] fall = new double[side];
        for (int p = Math.max(0, (int) centre - reach); p <= Math.min(side - 1, (int) centre + reach + 1); p++) {
            for (int k = 0; k < WITHIN; k++) {
                double off = p - centre - 0.5 + (k + 0.5) * step;
                fall[p] += Math.exp(-off * off / (2 * sigma * sigma));
            }
        }
        return fall;
    }

    static float[] convolved(float[] values, int n, float[] kernel) {
        int side = 2 * REACH_PX + 1;
        float[] out = new float[values.length];
        float[] row = new float[n];
        for (int y = 0; y < n; y++) {
            java.util.Arrays.fill(row, 0);
            for (int ky = 0; ky < side; ky++) {
                int from = Math.max(0, Math.min(n - 1, y + ky - REACH_PX)) * n;
                for (int kx = 0; kx < side; kx++) {
                    float w = kernel[ky * side + kx];
                    if (w < 1e-7f) {
                        continue;
                    }
                    int off = kx - REACH_PX;
                    int first = Math.max(0, -off);
                    int last = Math.min(n, n - off);
                    for (int x = first; x < last; x++) {
                        row[x] += w * values[from + x + off];
                    }
                    for (int x = 0; x < first; x++) {
                        row[x] += w * values[from];
                    }
                    for (int x = last; x < n; x++) {
                        row[x] += w * values[from + n - 1];
                    }
                }
            }
            System.arraycopy(row, 0, out, y * n, n);
        }
        return out;
    }
}
