package org.rainsieve.demosaic;

import org.rainsieve.frame.CfaPattern;

/**
 * Linear filters that guess a missing colour from the mosaic around it, for any repeating pattern: best linear unbiased
 * estimates (cokriging, Matheron 1965; Wackernagel, <em>Multivariate Geostatistics</em>, ch. 24) for a picture whose
 * brightness changes slowly along one direction and fast across it, while colour differences change slowly everywhere.
 * The weights on the wanted colour add up to one and those on each other colour to zero, so flat colours come back exactly.
 */
final class DirectionalFilters {
    /** Steps along and across for each direction: horizontal, vertical and the two diagonals. */
    static final int[][] DIRECTIONS = {{1, 0}, {0, 1}, {1, 1}, {1, -1}};

    /** How far the filters look. */
    static final int REACH = 3;

    /** Lengths in pixels over which brightness stays alike, along and across the direction, and colour differences. */
    private static final double ALONG = 24;

    private static final double ACROSS = 1.5;
    private static final double CHROMA_LENGTH = 2;

    /** Variance of a colour's difference from brightness, as a share of the variance of brightness. */
    private static final double CHROMA = 0.06;

    private static final double LEAST_WEIGHT = 0.002;

    /** The positions looked at, and what each counts. */
    record Filter(int[] dx, int[] dy, float[] weight) {}

    private DirectionalFilters() {}

    /** The filter for {@code wanted} at phase (px, py) along one of the {@link #DIRECTIONS}. */
    static Filter filter(CfaPattern pattern, int px, int py, int direction, int wanted) {
        int side = 2 * REACH + 1;
        int n = side * side;
        double[][] system = new double[n + 3][n + 4];
        for (int i = 0; i < n; i++) {
            int xi = i % side - REACH;
            int yi = i / side - REACH;
            int ci = pattern.colourAt(px + xi, py + yi);
            for (int j = 0; j < n; j++) {
                int xj = j % side - REACH;
                int yj = j / side - REACH;
                boolean same = ci == pattern.colourAt(px + xj, py + yj);
                system[i][j] = covariance(xi - xj, yi - yj, direction, same) + (i == j ? 1e-4 : 0);
            }
            system[i][n + ci] = 1;
            system[n + ci][i] = 1;
            system[i][n + 3] = covariance(xi, yi, direction, ci == wanted);
        }
        system[n + wanted][n + 3] = 1;
        double[] weights = solve(system);
        return pruned(pattern, px, py, weights, wanted);
    }

    private static double covariance(double dx, double dy, int direction, boolean sameColour) {
        int[] along = DIRECTIONS[direction];
        double length = Math.hypot(along[0], along[1]);
        double s = (dx * along[0] + dy * along[1]) / length / ALONG;
        double t = (dx * along[1] - dy * along[0]) / length / ACROSS;
        double brightness = Math.exp(-Math.hypot(s, t));
        double chroma = sameColour ? CHROMA * Math.exp(-(dx * dx + dy * dy) / (2 * CHROMA_LENGTH * CHROMA_LENGTH)) : 0;
        return brightness + chroma;
    }

    /** Leaves out weights too small to matter and restores the sums. */
    private static Filter pruned(CfaPattern pattern, int px, int py, double[] weights, int wanted) {
        int side = 2 * REACH + 1;
        int n = side * side;
        double[] sums = new double[3];
        int[] counts = new int[3];
        int kept = 0;
        for (int i = 0; i < n; i++) {
            if (Math.abs(weights[i]) >= LEAST_WEIGHT) {
                int colour = pattern.colourAt(px + i % side - REACH, py + i / side - REACH);
                sums[colour] += weights[i];
                counts[colour]++;
                kept++;
            }
        }
        int[] dx = new int[kept];
        int[] dy = new int[kept];
        float[] weight = new float[kept];
        for (int i = 0, k = 0; i < n; i++) {
            if (Math.abs(weights[i]) >= LEAST_WEIGHT) {
                dx[k] = i % side - REACH;
                dy[k] = i / side - REACH;
                int colour = pattern.colourAt(px + dx[k], py + dy[k]);
                weight[k++] = (float) (weights[i] + ((colour == wanted ? 1 : 0) - sums[colour]) / counts[colour]);
            }
        }
        return new Filter(dx, dy, weight);
    }

    /** Gaussian elimination with row exchange; the last column is the right-hand side. */
    private static double[] solve(double[][] m) {
        int n = m.length;
        for (int c = 0; c < n; c++) {
            int pivot = c;
            for (int r = c + 1; r < n; r++) {
                if (Math.abs(m[r][c]) > Math.abs(m[pivot][c])) {
                    pivot = r;
                }
            }
            double[] row = m[pivot];
            m[pivot] = m[c];
            m[c] = row;
            for (int r = c + 1; r < n; r++) {
                double factor = m[r][c] / row[c];
                for (int k = c; factor != 0 && k <= n; k++) {
                    m[r][k] -= factor * row[k];
                }
            }
        }
        double[] x = new double[n];
        for (int r = n - 1; r >= 0; r--) {
            double sum = m[r][n];
            for (int k = r + 1; k < n; k++) {
                sum -= m[r][k] * x[k];
            }
            x[r] = sum / m[r][r];
        }
        return x;
    }
}
