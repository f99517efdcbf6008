package org.rainsieve.reading;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
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

    /** What the luminance of a mosaic adds: a 3×3 binomial for 2×2 patterns, the greens in a 5×5 one for 6×6. */
    private static final double OWN_VARIANCE_2 = 0.5;

    private static final double OWN_VARIANCE_6 = 1.0;

    private static final int APRON = 14;
    private static final int MOST_CELLS = 450;
    private static final double LEAST_SNR = 18;
    /** How much slope the other way may lie beside an edge, as a share of its own. */
    private static final double OPPOSITE = 0.12;

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

    /** One edge: variance of its blur, direction of its gradient, how well it is known. */
    private record Edge(double variance, double angle, double weight) {}

    record Result(Blur blur, FocusMap map) {}

    private final Mosaic mosaic;
    private final NoiseModel law;
    private final double[] gains;
    private final double ownVariance;

    private BlurReader(Mosaic mosaic, NoiseModel law, double[] gains) {
        this.mosaic = mosaic;
        this.law = law;
        this.gains = gains;
        this.ownVariance = mosaic.pattern().isBayer() ? OWN_VARIANCE_2 : OWN_VARIANCE_6;
    }

    /** @return blur null when there are too few edges to tell */
    static Result read(Mosaic mosaic, NoiseModel law, double[] gains) {
        return new BlurReader(mosaic, law, gains).read();
    }

    private Result read() {
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
        List<List<Edge>> edges = new ArrayList<>();
        for (int i = 0; i < cells; i++) {
            edges.add(List.of());
        }
        IntStream.range(0, cells).parallel().forEach(i -> {
            if (busy[i] >= least) {
                List<Edge> found = edges(i % columns * cell, i / columns * cell, cell);
                synchronized (edges) {
                    edges.set(i, found);
                }
            }
        });
        double[] sigma = new double[cells];
        byte[] steps = new byte[cells];
        for (int i = 0; i < cells; i++) {
            sigma[i] = edges.get(i).size() < LEAST_EDGES ? Double.NaN : Math.sqrt(quantile(edges.get(i), 0.5));
            steps[i] = FocusMap.step(sigma[i]);
        }
        return new Result(blur(sigma, edges, columns, rows), new FocusMap(columns, rows, cell, steps));
    }

    private static Blur blur(double[] sigma, List<List<Edge>> edges, int columns, int rows) {
        double[] known =
                Arrays.stream(sigma).filter(s -> !Double.isNaN(s)).sorted().toArray();
        if (known.length < LEAST_CELLS) {
            return null;
        }
        double sharp = known[(int) (SHARPEST * known.length)];
        List<Edge> all = new ArrayList<>();
        List<Double> centre = new ArrayList<>();
        List<Double> corners = new ArrayList<>();
        for (int i = 0; i < sigma.length; i++) {
            if (!Double.isNaN(sigma[i])) {
                double dx = (i % columns + 0.5) / columns * 2 - 1;
                double dy = ((double) (i / columns) + 0.5) / rows * 2 - 1;
                double radius = Math.hypot(dx, dy) / Math.sqrt(2);
                (radius > 0.7 ? corners : radius < 0.4 ? centre : new ArrayList<Double>()).add(sigma[i]);
                all.addAll(edges.get(i));
            }
        }
        double towardsCorners =
                corners.size() < LEAST_CELLS || centre.size() < LEAST_CELLS ? Double.NaN : low(corners) - low(centre);
        return Movement.of(sharp, all, towardsCorners, known.length);
    }

    private static double low(List<Double> values) {
        return values.stream().sorted().toList().get((int) (SHARPEST * values.size()));
    }

    /**
     * Tells a movement by how the edges' blur depends on their direction: V(θ) = V₀ + W·cos²(θ − φ). A movement is a box, not
     * a Gaussian, so its length is found from the variance that a box would be read as.
     */
    private static final class Movement {
        private static final int BINS = 8;
        private static final int LEAST_IN_BIN = 12;
        private static final double LEAST_LINE_PX = 5.5;
        private static final double LONGEST_LINE_PX = 40;
        /** Of each direction's edges the sharper ones count: soft backgrounds have all directions too. */
        private static final double SHARPER = 0.35;

        static Blur of(double sharp, List<Edge> edges, double corners, int cells) {
            List<List<Edge>> bins = new ArrayList<>();
            for (int i = 0; i < BINS; i++) {
                bins.add(new ArrayList<>());
            }
            for (Edge edge : edges) {
                bins.get((int) Math.floor(edge.angle / Math.PI * BINS) % BINS).add(edge);
            }
            // Least squares of V = c0 + c1·cos 2θ + c2·sin 2θ over the directions that have edges.
            double[][] m = new double[3][4];
            int used = 0;
            double largest = 0;
            double least = Double.MAX_VALUE;
            for (int bin = 0; bin < BINS; bin++) {
                if (bins.get(bin).size() < LEAST_IN_BIN) {
                    continue;
                }
                used++;
                double angle = (bin + 0.5) * Math.PI / BINS;
                double v = quantile(bins.get(bin), SHARPER);
                largest = Math.max(largest, v);
                least = Math.min(least, v);
                double[] f = {1, Math.cos(2 * angle), Math.sin(2 * angle), Math.log(v)};
                for (int r = 0; r < 3; r++) {
                    for (int c = 0; c < 4; c++) {
                        m[r][c] += f[r] * f[c];
                    }
                }
            }
            if (used >= 5) {
                double[] c = solve(m);
                double length = boxLength(largest, least);
                double swing = Math.hypot(c[1], c[2]);
                if (length > LEAST_LINE_PX && swing > 0.5 * Math.log(2.5)) {
                    // Gradients point across edges; an image's rows run downwards.
                    double angle = Math.toDegrees(-Math.atan2(c[2], c[1]) / 2);
                    return new Blur(Math.sqrt(least), length, ((angle % 180) + 180) % 180, corners, cells);
                }
            }
            return new Blur(sharp, 0, 0, corners, cells);
        }

        /** Length of the box that, with a Gaussian of variance {@code across}, is read as a Gaussian of {@code along}. */
        private static double boxLength(double along, double across) {
            double low = 0.01;
            double high = LONGEST_LINE_PX;
            for (int i = 0; i < 40; i++) {
                double middle = (low + high) / 2;
                double ratio = slope(middle, across + 4) / slope(middle, across + 16);
                if (variance(ratio, 4, 16) < along) {
                    low = middle;
                } else {
                    high = middle;
                }
            }
            return low;
        }

        /** Slope in the middle of a step behind a box and a Gaussian. */
        private static double slope(double length, double variance) {
            return erf(length / (2 * Math.sqrt(2 * variance))) / length;
        }

        /** Abramowitz & Stegun 7.1.26, for x of 0 or more; error at most 1.5e-7. */
        private static double erf(double x) {
            double t = 1 / (1 + 0.3275911 * x);
            double p =
                    t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))));
            return 1 - p * Math.exp(-x * x);
        }

        private static double[] solve(double[][] m) {
            for (int i = 0; i < 3; i++) {
                for (int r = 0; r < 3; r++) {
                    if (r != i) {
                        double share = m[r][i] / m[i][i];
                        for (int c = 0; c < 4; c++) {
                            m[r][c] -= share * m[i][c];
                        }
                    }
                }
            }
            return new double[] {m[0][3] / m[0][0], m[1][3] / m[1][1], m[2][3] / m[2][2]};
        }
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

    private List<Edge> edges(int x0, int y0, int size) {
        int w = size + 2 * APRON;
        float[] light = luminance(x0 - APRON, y0 - APRON, w);
        float[][] gx = new float[3][];
        float[][] gy = new float[3][];
        for (int k = 0; k < 3; k++) {
            gx[k] = convolved(light, w, SLOPE[k], SMOOTH[k]);
            gy[k] = convolved(light, w, SMOOTH[k], SLOPE[k]);
        }
        List<Edge> edges = new ArrayList<>();
        for (int y = APRON; y < w - APRON; y++) {
            for (int x = APRON; x < w - APRON; x++) {
                int px = x0 - APRON + x;
                int py = y0 - APRON + y;
                // What is mirrored at the picture's edge has edges of its own.
                if (px >= APRON && py >= APRON && px < mosaic.width() - APRON && py < mosaic.height() - APRON) {
                    Edge edge = edge(light, gx, gy, w, x, y);
                    if (edge != null) {
                        edges.add(edge);
                    }
                }
            }
        }
        return edges;
    }

    private Edge edge(float[] light, float[][] gx, float[][] gy, int w, int x, int y) {
        int i = y * w + x;
        double magnitude = Math.hypot(gx[1][i], gy[1][i]);
        double level = Math.max(0, light[i]);
        double sd = Math.sqrt(gains[1] * gains[1] * law.variance(1, level / gains[1]));
        if (magnitude < LEAST_SNR * slopeNoise(sd, 1)) {
            return null;
        }
        double ux = gx[1][i] / magnitude;
        double uy = gy[1][i] / magnitude;
        double before = along(gx[1], gy[1], w, x - ux, y - uy, ux, uy);
        double after = along(gx[1], gy[1], w, x + ux, y + uy, ux, uy);
        if (before > magnitude || after >= magnitude) {
            return null;
        }
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
        if (peak[0] < LEAST_SNR / 3 * slopeNoise(sd, 0) || peak[2] <= 0) {
            return null;
        }
        double fine = variance(peak[0] / peak[1], 1, 4);
        double coarse = variance(peak[1] / peak[2], 4, 16);
        double total = fine < 2 ? fine : coarse;
        double ratio = (coarse + 1) / (fine + 1);
        boolean agree = fine > 0 && coarse > 0 && (ratio > 0.5 && ratio < 2);
        double variance = total - ownVariance;
        if (!agree || !(variance > 0.01) || variance > 400) {
            return null;
        }
        double snr = peak[1] / slopeNoise(sd, 1);
        return new Edge(variance, (Math.atan2(uy, ux) + 2 * Math.PI) % Math.PI, Math.min(snr * snr, 1e4));
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

    /** White-balanced luminance in which every phase of the pattern weighs its colours alike. */
    private float[] luminance(int x0, int y0, int w) {
        CfaPattern pattern = mosaic.pattern();
        int reach = pattern.isBayer() ? 1 : 2;
        double[] binomial = pattern.isBayer() ? new double[] {1, 2, 1} : new double[] {1, 4, 6, 4, 1};
        int wide = w + 2 * reach;
        double[] values = new double[wide * wide];
        double[] counts = new double[wide * wide];
        for (int y = 0; y < wide; y++) {
            for (int x = 0; x < wide; x++) {
                int px = x0 - reach + x;
                int py = y0 - reach + y;
                int colour = pattern.colourAt(px, py);
                boolean counted = pattern.isBayer() || colour == 1;
                counts[y * wide + x] = counted ? 1 : 0;
                values[y * wide + x] = counted ? mosaic.at(mosaic.column(px), mosaic.row(py)) * gains[colour] : 0;
            }
        }
        float[] out = new float[w * w];
        for (int y = 0; y < w; y++) {
            for (int x = 0; x < w; x++) {
                double sum = 0;
                double weights = 0;
                for (int dy = 0; dy <= 2 * reach; dy++) {
                    for (int dx = 0; dx <= 2 * reach; dx++) {
                        double weight = binomial[dy] * binomial[dx];
                        int i = (y + dy) * wide + x + dx;
                        sum += weight * values[i];
                        weights += weight * counts[i];
                    }
                }
                out[y * w + x] = (float) (sum / weights);
            }
        }
        return out;
    }
}
