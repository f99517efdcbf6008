package org.rainsieve.frame;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

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

        /** Multiplies what is there for a row of pixels. */
        private void multiplyRow(int width, int height, int x0, int y, float[] to) {
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
                to[i] *= (float) (above * (1 - fy) + below * fy);
            }
        }
    }

    /** Photosites of one colour at one place of the pattern, or at several that are treated alike: the grids multiply each other. */
    private record Site(List<Grid> grids, double share) {}

    private final int width;
    private final int height;
    /** Of each colour, whose gain is the mean of those of its photosites. */
    private final List<List<Site>> sites = new ArrayList<>(
            List.of(List.of(new Site(List.of(), 1)), List.of(new Site(List.of(), 1)), List.of(new Site(List.of(), 1))));

    /** @param width of the picture that the grids' shares refer to */
    public GainField(int width, int height) {
        this.width = width;
        this.height = height;
    }

    /** Multiplies all photosites of one colour. */
    public void multiply(int colour, Grid grid) {
        multiply(colour, List.of(grid));
    }

    /**
     * Multiplies each of a colour's photosites by a grid of its own.
     *
     * @param grids for the places of the pattern that have this colour, always in the same order; null for no change
     */
    public void multiply(int colour, List<Grid> grids) {
        List<Site> before = sites.get(colour);
        int count = Math.max(before.size(), grids.size());
        List<Site> after = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            List<Grid> factors = new ArrayList<>(before.get(before.size() == 1 ? 0 : i).grids);
            Grid own = grids.get(grids.size() == 1 ? 0 : i);
            if (own != null) {
                factors.add(own);
            }
            after.add(new Site(factors, 1.0 / count));
        }
        sites.set(colour, after);
    }

    public boolean isEmpty() {
        return sites.stream().flatMap(List::stream).allMatch(site -> site.grids.isEmpty());
    }

    /** Photosites with the same gains are worked out once. */
    private static List<Site> merged(List<Site> sites) {
        Map<List<Grid>, Site> merged = new LinkedHashMap<>();
        for (Site site : sites) {
            merged.merge(site.grids, site, (a, b) -> new Site(a.grids, a.share + b.share));
        }
        return List.copyOf(merged.values());
    }

    /** Multiplies the three colour planes. */
    public void apply(Planes planes) {
        Region r = planes.region();
        float[] gains = new float[r.width()];
        float[] product = new float[r.width()];
        for (int colour = 0; colour < 3; colour++) {
            List<Site> own = merged(sites.get(colour));
            if (own.stream().allMatch(site -> site.grids.isEmpty())) {
                continue;
            }
            float[] values = planes.channel(colour);
            for (int y = r.y(); y < r.bottom(); y++) {
                Arrays.fill(gains, 0);
                for (Site site : own) {
                    Arrays.fill(product, (float) site.share);
                    for (Grid grid : site.grids) {
                        grid.multiplyRow(width, height, r.x(), y, product);
                    }
                    for (int x = 0; x < gains.length; x++) {
                        gains[x] += product[x];
                    }
                }
                int row = planes.index(r.x(), y);
                for (int x = 0; x < gains.length; x++) {
                    values[row + x] *= gains[x];
                }
            }
        }
    }
}
