package org.rainsieve.reading;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.stream.IntStream;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.noise.NoiseModel;

/**
 * Reads how blurred a frame is from its edges. A step edge blurred by a Gaussian of variance V has, after a further
 * Gaussian of variance s², a gradient in proportion to 1/√(V + s²): the gradients at two scales tell V (after Zhuo & Sim,
 * Defocus map estimation from a single image, Pattern Recognition 44, 2011, and Elder & Zucker 1998). Three scales must
 * agree, which lines, texture and edges beside each other do not. Edges are gathered in cells, so that single ones, whose
 * noise is large, do not decide.
 */
final class BlurReader {
    private static final double[] SCALES = {1, 2, 4};
    private static final double[][] SMOOTH = new double[3][];
    private static final double[][] SLOPE = new double[3][];

    /** How far a profile reaches to either side of its edge. */
    static final int REACH = 22;

    private static final int APRON = 14;
    private static final int MOST_CELLS = 450;
    private static final double LEAST_SNR = 18;
    /** How much slope the other way may lie beside an edge, as a share of its own. */
    private static final double OPPOSITE = 0.12;

    /** Profiles are taken along 2·3 + 1 px of an edge, behind the finest scale and the interpolation between pixels. */
    private static final int ALONG = 3;

    private static final double PROFILE_VARIANCE = 1 + 1.0 / 6;
    private static final int PROFILE_CELLS = 150;
    private static final int PROFILES_PER_CELL = 60;
    /** An edge ends where its slope has fallen to this share of the steepest. */
    private static final double FOOT = 0.08;

    /** Variances in px² up to which the two finer scales decide, and from which the two coarser ones do. */
    private static final double FINE_UP_TO = 2;

    private static final double COARSE_FROM = 5;

    private static final int LEAST_EDGES = 8;
    private static final int LEAST_CELLS = 6;
    /** The sharpest parts of a picture: this share of the cells that have edges. */
    private static final double SHARPEST = 0.2;

    static {
        for (int k = 0; k < 3; k++) {
            int radius = (int) Math.ceil(3 * SCALES[k]);
            SMOOTH[k] = new double[2 * radius + 1];
            SLOPE[k] = new double[2 * radius + 1];
            double sum = 0;
            for (int i = -radius; i <= radius; i++) {
                SMOOTH[k][i + radius] = Math.exp(-i * i / (2 * SCALES[k] * SCALES[k]));
                sum += SMOOTH[k][i + radius];
            }
            double moment = 0;
            for (int i = -radius; i <= radius; i++) {
                SMOOTH[k][i + radius] /= sum;
                SLOPE[k][i + radius] = -i * SMOOTH[k][i + radius];
                moment += i * SLOPE[k][i + radius];
            }
            for (int i = 0; i < SLOPE[k].length; i++) {
                SLOPE[k][i] /= -moment;
            }
        }
    }

    /** One edge: variance of its blur, how well it is known. */
    private record Edge(double variance, double weight) {}

    /** Where the slope is steepest, in whose direction a profile may be taken. */
    private record Steep(int x, int y, double ux, double uy, double snr) {}

    private record CellEdges(List<Edge> edges, List<Steep> steep) {
        static final CellEdges NONE = new CellEdges(List.of(), List.of());
    }

    record Result(Blur blur, FocusMap map) {}

    private final Mosaic mosaic;
    private final NoiseModel law;
    private final double[] gains;
    private final MosaicLuminance luminance;
    private final double ownVariance;

    private BlurReader(Mosaic mosaic, NoiseModel law, double[] gains) {
        this.mosaic = mosaic;
        this.law = law;
        this.gains = gains;
        this.luminance = new MosaicLuminance(mosaic, gains);
        this.ownVariance = luminance.variance();
    }

    /** @return blur null when there are too few edges to tell */
    static Result read(Mosaic mosaic, NoiseModel law, double[] gains) {
        return new BlurReader(mosaic, law, gains).read();
    }

    /** @return what the trained reader is shown of a frame; null where there are too few edges */
    static float[] evidence(Mosaic mosaic, NoiseModel law, double[] gains) {
        return new BlurReader(mosaic, law, gains).found().evidence;
    }

    /** @param softPx by steepness, of each cell; NaN where it has too few edges */
    private record Found(
            int cell,
            int columns,
            int rows,
            double[] softPx,
            byte[] steps,
            float[] evidence,
            List<BlurEvidence.Profile> profiles) {}

    private Found found() {
        int cell = (long) mosaic.width() * mosaic.height() > 6_000_000 ? 64 : 32;
        int columns = (mosaic.width() + cell - 1) / cell;
        int rows = (mosaic.height() + cell - 1) / cell;
        int cells = columns * rows;
        // Of a large frame only the busiest cells are looked at closely.
        double[] busy = new double[cells];
        IntStream.range(0, cells)
                .parallel()
                .forEach(i -> busy[i] = busyness(i % columns * cell, i / columns * cell, cell));
        double[] sorted = busy.clone();
        Arrays.sort(sorted);
        double least = cells > MOST_CELLS ? sorted[cells - MOST_CELLS] : -1;
        CellEdges[] edges = new CellEdges[cells];
        IntStream.range(0, cells)
                .parallel()
                .forEach(i -> edges[i] =
                        busy[i] >= least ? edges(i % columns * cell, i / columns * cell, cell) : CellEdges.NONE);
        double[] sigma = new double[cells];
        byte[] steps = new byte[cells];
        for (int i = 0; i < cells; i++) {
            List<Edge> found = edges[i].edges;
            sigma[i] = found.size() < LEAST_EDGES ? Double.NaN : Math.sqrt(quantile(found, 0.5));
            steps[i] = FocusMap.step(sigma[i]);
        }
        double[] known = known(sigma);
        double soft = known.length < LEAST_CELLS ? Double.NaN : known[(int) (SHARPEST * known.length)];
        List<BlurEvidence.Profile> profiles = profiles(edges, columns, cell);
        return new Found(
                cell,
                columns,
                rows,
                sigma,
                steps,
                BlurEvidence.of(profiles, PROFILE_VARIANCE + ownVariance, soft),
                profiles);
    }

    private static double[] known(double[] sigma) {
        return Arrays.stream(sigma).filter(s -> !Double.isNaN(s)).sorted().toArray();
    }

    private Result read() {
        Found found = found();
        BlurShape.Shape shape = BlurShape.of(found.profiles, PROFILE_VARIANCE + ownVariance);
        return new Result(
                blur(found.softPx, shape, found.columns, found.rows),
                new FocusMap(found.columns, found.rows, found.cell, found.steps));
    }

    private static Blur blur(double[] sigma, BlurShape.Shape shape, int columns, int rows) {
        double[] known = known(sigma);
        if (shape == BlurShape.Shape.UNKNOWN) {
            return null;
        }
        if (known.length < LEAST_CELLS) {
            return shape == null ? null : Blur.of(shape, Double.NaN, 0);
        }
        List<Double> centre = new ArrayList<>();
        List<Double> corners = new ArrayList<>();
        for (int i = 0; i < sigma.length; i++) {
            if (!Double.isNaN(sigma[i])) {
                double dx = (i % columns + 0.5) / columns * 2 - 1;
                double dy = ((double) (i / columns) + 0.5) / rows * 2 - 1;
                double radius = Math.hypot(dx, dy) / Math.sqrt(2);
                (radius > 0.7 ? corners : radius < 0.4 ? centre : new ArrayList<Double>()).add(sigma[i]);
            }
        }
        double towardsCorners =
                corners.size() < LEAST_CELLS || centre.size() < LEAST_CELLS ? Double.NaN : low(corners) - low(centre);
        if (shape != null) {
            return Blur.of(shape, towardsCorners, known.length);
        }
        return new Blur(known[(int) (SHARPEST * known.length)], 0, 0, 0, towardsCorners, known.length);
    }

    private static double low(List<Double> values) {
        return values.stream().sorted().toList().get((int) (SHARPEST * values.size()));
    }

    /** The weighted quantile of the edges' variances. */
    private static double quantile(List<Edge> edges, double share) {
        List<Edge> sorted = edges.stream()
                .sorted((p, q) -> Double.compare(p.variance, q.variance))
                .toList();
        double left = sorted.stream().mapToDouble(Edge::weight).sum() * share;
        for (Edge edge : sorted) {
            left -= edge.weight;
            if (left <= 0) {
                return edge.variance;
            }
        }
        return sorted.get(sorted.size() - 1).variance;
    }

    /** Differences of means of neighbouring blocks of the pattern's size: where edges are, roughly. */
    private double busyness(int x0, int y0, int size) {
        int step = mosaic.pattern().isBayer() ? 4 : 6;
        double sum = 0;
        for (int y = y0; y + 2 * step <= Math.min(mosaic.height(), y0 + size); y += step) {
            for (int x = x0; x + 2 * step <= Math.min(mosaic.width(), x0 + size); x += step) {
                double here = block(x, y, step);
                double dx = here - block(x + step, y, step);
                double dy = here - block(x, y + step, step);
                sum += (dx * dx + dy * dy) / (here * here + 1e-4);
            }
        }
        return sum;
    }

    private double block(int x0, int y0, int step) {
        double sum = 0;
        for (int y = y0; y < y0 + step; y += 1) {
            for (int x = x0; x < x0 + step; x += 1) {
                sum += mosaic.pattern().colourAt(x, y) == 1 ? mosaic.at(x, y) : 0;
            }
        }
        return sum / (step * step);
    }

    private CellEdges edges(int x0, int y0, int size) {
        int w = size + 2 * APRON;
        float[] light = luminance.square(x0 - APRON, y0 - APRON, w);
        float[][] gx = new float[3][];
        float[][] gy = new float[3][];
        for (int k = 0; k < 3; k++) {
            gx[k] = convolved(light, w, SLOPE[k], SMOOTH[k]);
            gy[k] = convolved(light, w, SMOOTH[k], SLOPE[k]);
        }
        List<Edge> edges = new ArrayList<>();
        List<Steep> steep = new ArrayList<>();
        for (int y = APRON; y < w - APRON; y++) {
            for (int x = APRON; x < w - APRON; x++) {
                int px = x0 - APRON + x;
                int py = y0 - APRON + y;
                // What is mirrored at the picture's edge has edges of its own.
                if (px >= APRON && py >= APRON && px < mosaic.width() - APRON && py < mosaic.height() - APRON) {
                    Steep here = steep(light, gx[1], gy[1], w, x, y);
                    if (here != null) {
                        steep.add(new Steep(px, py, here.ux, here.uy, here.snr));
                        Edge edge = edge(here, gx, gy, w);
                        if (edge != null) {
                            edges.add(edge);
                        }
                    }
                }
            }
        }
        return new CellEdges(edges, steep);
    }

    private Steep steep(float[] light, float[] gx, float[] gy, int w, int x, int y) {
        int i = y * w + x;
        double magnitude = Math.hypot(gx[i], gy[i]);
        double level = Math.max(0, light[i]);
        double sd = Math.sqrt(gains[1] * gains[1] * law.variance(1, level / gains[1]));
        double snr = magnitude / slopeNoise(sd, 1);
        if (snr < LEAST_SNR) {
            return null;
        }
        double ux = gx[i] / magnitude;
        double uy = gy[i] / magnitude;
        double before = along(gx, gy, w, x - ux, y - uy, ux, uy);
        double after = along(gx, gy, w, x + ux, y + uy, ux, uy);
        return before > magnitude || after >= magnitude ? null : new Steep(x, y, ux, uy, snr);
    }

    private Edge edge(Steep at, float[][] gx, float[][] gy, int w) {
        int x = at.x;
        int y = at.y;
        double ux = at.ux;
        double uy = at.uy;
        int i = y * w + x;
        double magnitude = Math.hypot(gx[1][i], gy[1][i]);
        for (int d = 3; d <= 7; d += 2) {
            double back = along(gx[1], gy[1], w, x - d * ux, y - d * uy, ux, uy);
            double on = along(gx[1], gy[1], w, x + d * ux, y + d * uy, ux, uy);
            if (Math.min(back, on) < -OPPOSITE * magnitude) {
                return null; // a line or another edge close by
            }
        }
        double[] peak = new double[3];
        for (int k = 0; k < 3; k++) {
            double here = along(gx[k], gy[k], w, x, y, ux, uy);
            double left = along(gx[k], gy[k], w, x - ux, y - uy, ux, uy);
            double right = along(gx[k], gy[k], w, x + ux, y + uy, ux, uy);
            double bend = left + right - 2 * here;
            peak[k] = bend < 0 ? here - (right - left) * (right - left) / (8 * bend) : here;
            double turned = Math.hypot(gx[k][i], gy[k][i]);
            if (here < 0.95 * turned) {
                return null; // the direction changes with the scale: not one straight edge
            }
        }
        // The finest slope is noisier, by the ratio of the scales' noise.
        double finest = at.snr * peak[0] / peak[1] * slopeNoise(1, 1) / slopeNoise(1, 0);
        if (finest < LEAST_SNR / 3 || peak[2] <= 0) {
            return null;
        }
        double fine = variance(peak[0] / peak[1], 1, 4);
        double coarse = variance(peak[1] / peak[2], 4, 16);
        double ratio = (coarse + 1) / (fine + 1);
        boolean agree = fine > 0 && coarse > 0 && (ratio > 0.5 && ratio < 2);
        if (!agree) {
            return null;
        }
        // From one to the other by degrees: a switch would take whichever its noise lets through.
        double coarser = (Math.sqrt(fine * coarse) - FINE_UP_TO) / (COARSE_FROM - FINE_UP_TO);
        double share = Math.max(0, Math.min(1, coarser));
        double variance = fine * (1 - share) + coarse * share - ownVariance;
        if (!(variance > 0.01) || variance > 400) {
            return null;
        }
        return new Edge(variance, Math.min(at.snr * at.snr, 1e4));
    }

    /** Slopes across the steepest places of the cells that have most of them. */
    private List<BlurEvidence.Profile> profiles(CellEdges[] cells, int columns, int cell) {
        List<Integer> chosen = IntStream.range(0, cells.length)
                .boxed()
                .filter(i -> cells[i].steep.size() >= LEAST_EDGES)
                .sorted(Comparator.comparingInt(i -> -cells[i].steep.size()))
                .limit(PROFILE_CELLS)
                .toList();
        return chosen.parallelStream()
                .flatMap(i -> profiles(cells[i].steep, i % columns * cell, i / columns * cell, cell).stream())
                .toList();
    }

    private List<BlurEvidence.Profile> profiles(List<Steep> steep, int x0, int y0, int size) {
        int apron = REACH + SLOPE[0].length;
        int w = size + 2 * apron;
        float[] light = luminance.square(x0 - apron, y0 - apron, w);
        float[] gx = convolved(light, w, SLOPE[0], SMOOTH[0]);
        float[] gy = convolved(light, w, SMOOTH[0], SLOPE[0]);
        List<BlurEvidence.Profile> out = new ArrayList<>();
        steep.stream()
                .sorted(Comparator.comparingDouble(s -> -s.snr))
                .limit(PROFILES_PER_CELL)
                .forEach(s -> {
                    BlurEvidence.Profile profile = profile(gx, gy, w, s.x - x0 + apron, s.y - y0 + apron, s.ux, s.uy);
                    if (profile != null) {
                        out.add(profile);
                    }
                });
        return out;
    }

    /** The slopes across an edge about their centre, averaged along the edge; null unless the edge stands alone. */
    private static BlurEvidence.Profile profile(
            float[] gx, float[] gy, int w, double x, double y, double ux, double uy) {
        int reach = REACH;
        double[] first = slopes(gx, gy, w, x, y, ux, uy);
        double most = first[reach];
        int from = reach;
        int to = reach;
        while (from > 0 && first[from] > FOOT * most) {
            from--;
        }
        while (to < 2 * reach && first[to] > FOOT * most) {
            to++;
        }
        if (from == 0 || to == 2 * reach) {
            return null;
        }
        double sum = 0;
        double moment = 0;
        for (int i = from; i <= to; i++) {
            sum += first[i];
            moment += (i - reach) * first[i];
        }
        double shift = moment / sum;
        double[] slopes = slopes(gx, gy, w, x + shift * ux, y + shift * uy, ux, uy);
        // Nothing else may lie within the edge's own width beyond its feet.
        int aside = Math.max(3, (to - from) / 3);
        double total = 0;
        double skew = 0;
        int middle = reach;
        int half = (to - from) / 2 + 1;
        for (int i = 0; i < slopes.length; i++) {
            int off = Math.abs(i - middle);
            if (off > half && off <= half + aside && Math.abs(slopes[i]) > 2 * FOOT * most) {
                return null;
            }
            if (off > half) {
                slopes[i] = 0;
            }
            total += slopes[i];
            skew += i > middle ? slopes[i] : i < middle ? -slopes[i] : 0;
        }
        if (Math.abs(skew) > 0.12 * total) {
            return null;
        }
        for (int i = 0; i < slopes.length; i++) {
            slopes[i] /= total;
        }
        return new BlurEvidence.Profile(slopes, (Math.atan2(uy, ux) + 2 * Math.PI) % Math.PI);
    }

    private static double[] slopes(float[] gx, float[] gy, int w, double x, double y, double ux, double uy) {
        double[] out = new double[2 * REACH + 1];
        for (int i = 0; i < out.length; i++) {
            double t = i - REACH;
            for (int s = -ALONG; s <= ALONG; s++) {
                double px = x + t * ux - s * uy;
                double py = y + t * uy + s * ux;
                if (px < 1 || py < 1 || px >= w - 2 || py >= w - 2) {
                    continue;
                }
                out[i] += along(gx, gy, w, px, py, ux, uy) / (2 * ALONG + 1);
            }
        }
        return out;
    }

    /** Sd of the slope of white noise at a scale, the luminance's own smoothing included. */
    private double slopeNoise(double sd, int k) {
        return sd / (Math.sqrt(8 * Math.PI) * (SCALES[k] * SCALES[k] + ownVariance));
    }

    private static double variance(double ratio, double s1, double s2) {
        double r = ratio * ratio;
        return r <= 1.001 ? Double.MAX_VALUE : (s2 - r * s1) / (r - 1);
    }

    private static double along(float[] gx, float[] gy, int w, double x, double y, double ux, double uy) {
        int x0 = (int) Math.floor(x);
        int y0 = (int) Math.floor(y);
        double fx = x - x0;
        double fy = y - y0;
        int i = y0 * w + x0;
        double sx = (gx[i] * (1 - fx) + gx[i + 1] * fx) * (1 - fy) + (gx[i + w] * (1 - fx) + gx[i + w + 1] * fx) * fy;
        double sy = (gy[i] * (1 - fx) + gy[i + 1] * fx) * (1 - fy) + (gy[i + w] * (1 - fx) + gy[i + w + 1] * fx) * fy;
        return sx * ux + sy * uy;
    }

    private static float[] convolved(float[] from, int w, double[] across, double[] down) {
        float[] rows = new float[from.length];
        int r = across.length / 2;
        for (int y = 0; y < w; y++) {
            float[] row = new float[w];
            for (int k = -r; k <= r; k++) {
                float share = (float) across[k + r];
                float[] shifted = Arrays.copyOfRange(from, y * w + r + k, y * w + w - r + k);
                for (int x = 0; x < shifted.length; x++) {
                    row[x] += share * shifted[x];
                }
            }
            System.arraycopy(row, 0, rows, y * w + r, w - 2 * r);
        }
        float[] out = new float[from.length];
        r = down.length / 2;
        for (int y = r; y < w - r; y++) {
            // Copies of rows: loops over one index in several arrays are what the compiler vectorises.
            float[] sum = new float[w];
            for (int k = -r; k <= r; k++) {
                float share = (float) down[k + r];
                float[] row = Arrays.copyOfRange(rows, (y + k) * w, (y + k + 1) * w);
                for (int x = 0; x < w; x++) {
                    sum[x] += share * row[x];
                }
            }
            System.arraycopy(sum, 0, out, y * w, w);
        }
        return out;
    }
}
