package org.rainsieve.frame;

import java.util.ArrayList;
import java.util.List;

/**
 * By how much the light of each colour is to be multiplied from place to place, such as against shading. Multiplying
 * comes after denoising: there the noise law of the sensor still holds, and afterwards it is a·g, b·g² by itself.
 */
public final class GainField {
    /**
     * Gains on a grid over the picture, interpolated linearly between its points and constant beyond them.
     *
     * @param originX place of the first column of points as a share of the picture's width
     * @param spacingX distance of points as a share of the width
     * @param gains across · down values, row by row
     */
    public record Grid(
            int across, int down, double originX, double originY, double spacingX, double spacingY, float[] gains) {
        public Grid {
            if (across < 1 || down < 1 || gains.length != across * down) {
                throw new IllegalArgumentException("The gains do not fill their grid");
            }
        }

        private static double position(double share, double origin, double spacing, int points) {
            double at = spacing > 0 ? (share - origin) / spacing : 0;
            return Math.max(0, Math.min(points - 1, at));
        }

        /** Adds share · gain for a row of pixels. */
        private void addRow(int width, int height, int x0, int y, double share, float[] to) {
            double row = position((y + 0.5) / height, originY, spacingY, down);
            int upper = Math.min(down - 1, (int) row);
            int lower = Math.min(down - 1, upper + 1);
            double fy = row - upper;
            for (int i = 0; i < to.length; i++) {
                double column = position((x0 + i + 0.5) / width, originX, spacingX, across);
                int left = Math.min(across - 1, (int) column);
                int right = Math.min(across - 1, left + 1);
                double fx = column - left;
                double above = gains[upper * across + left] * (1 - fx) + gains[upper * across + right] * fx;
                double below = gains[lower * across + left] * (1 - fx) + gains[lower * across + right] * fx;
                to[i] += (float) (share * (above * (1 - fy) + below * fy));
            }
        }
    }

    private record Part(Grid grid, double share) {}

    private final int width;
    private final int height;
    /** Of each colour: factors, each a weighted sum of grids. */
    private final List<List<List<Part>>> factors = List.of(new ArrayList<>(), new ArrayList<>(), new ArrayList<>());

    /** @param width of the picture that the grids' shares refer to */
    public GainField(int width, int height) {
        this.width = width;
        this.height = height;
    }

    /** Multiplies one colour by the mean of some grids, of which null stands for no change. */
    public void multiply(int colour, List<Grid> grids) {
        List<Part> parts = new ArrayList<>();
        for (Grid grid : grids) {
            parts.add(new Part(grid == null ? new Grid(1, 1, 0, 0, 1, 1, new float[] {1}) : grid, 1.0 / grids.size()));
        }
        factors.get(colour).add(parts);
    }

    public boolean isEmpty() {
        return factors.stream().allMatch(List::isEmpty);
    }

    /** Multiplies the three colour planes. */
    public void apply(Planes planes) {
        Region r = planes.region();
        float[] gains = new float[r.width()];
        for (int colour = 0; colour < 3; colour++) {
            float[] values = planes.channel(colour);
            for (List<Part> factor : factors.get(colour)) {
                for (int y = r.y(); y < r.bottom(); y++) {
                    java.util.Arrays.fill(gains, 0);
                    for (Part part : factor) {
                        part.grid.addRow(width, height, r.x(), y, part.share, gains);
                    }
                    int row = planes.index(r.x(), y);
                    for (int x = 0; x < gains.length; x++) {
                        values[row + x] *= gains[x];
                    }
                }
            }
        }
    }
}
