package org.rainsieve.reading;

import java.util.Base64;
import java.util.Optional;
import java.util.OptionalDouble;

/**
 * How sharp a frame is, place by place: the blur of what edges there are in each square cell, as the sigma of a Gaussian.
 * Cells without an edge that could be measured are unknown: smooth things are neither sharp nor soft.
 *
 * @param steps columns · rows values in sixteenths of a pixel, 0 where unknown
 */
public record FocusMap(int columns, int rows, int cellPx, byte[] steps) {
    private static final double STEPS_PER_PX = 16;

    public FocusMap {
        if (columns < 1 || rows < 1 || steps.length != columns * rows) {
            throw new IllegalArgumentException("A focus map's values do not fill its cells");
        }
    }

    static byte step(double sigmaPx) {
        return Double.isNaN(sigmaPx) ? 0 : (byte) Math.max(1, Math.min(255, Math.round(sigmaPx * STEPS_PER_PX)));
    }

    /** In pixels; NaN where unknown. */
    public double sigmaPx(int column, int row) {
        int step = steps[row * columns + column] & 255;
        return step == 0 ? Double.NaN : step / STEPS_PER_PX;
    }

    /** Neighbouring cells must agree: a single sharp one is often noise, or a spark. */
    private double sharpness(int column, int row) {
        double sum = 0;
        for (int dy = -1; dy <= 1; dy++) {
            for (int dx = -1; dx <= 1; dx++) {
                int x = column + dx;
                int y = row + dy;
                if (x >= 0 && y >= 0 && x < columns && y < rows && !Double.isNaN(sigmaPx(x, y))) {
                    double share = dx == 0 && dy == 0 ? 1 : 0.5;
                    sum += share / (0.3 + sigmaPx(x, y));
                }
            }
        }
        return sum;
    }

    /** The sharpest place of a frame of that size, in pixels. */
    public Optional<Place> sharpest(int widthPx, int heightPx) {
        int best = -1;
        double most = 0;
        for (int cell = 0; cell < steps.length; cell++) {
            if (steps[cell] != 0 && sharpness(cell % columns, cell / columns) > most) {
                most = sharpness(cell % columns, cell / columns);
                best = cell;
            }
        }
        return best < 0
                ? Optional.empty()
                : Optional.of(new Place(
                        Math.min(widthPx - 1, (best % columns) * cellPx + cellPx / 2),
                        Math.min(heightPx - 1, (best / columns) * cellPx + cellPx / 2)));
    }

    public record Place(int x, int y) {}

    /** The blur about a place, in pixels; nothing where no edge about it could be measured. */
    public OptionalDouble blurPxAbout(double x, double y) {
        int column = (int) Math.max(0, Math.min(columns - 1, x / cellPx));
        int row = (int) Math.max(0, Math.min(rows - 1, y / cellPx));
        double least = Double.POSITIVE_INFINITY;
        for (int r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++) {
            for (int c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
                double sigma = sigmaPx(c, r);
                least = Double.isNaN(sigma) ? least : Math.min(least, sigma);
            }
        }
        return Double.isInfinite(least) ? OptionalDouble.empty() : OptionalDouble.of(least);
    }

    public String toText() {
        return columns + " " + rows + " " + cellPx + " " + Base64.getEncoder().encodeToString(steps);
    }

    public static FocusMap parse(String text) {
        String[] parts = text.split(" ");
        return new FocusMap(
                Integer.parseInt(parts[0]),
                Integer.parseInt(parts[1]),
                Integer.parseInt(parts[2]),
                Base64.getDecoder().decode(parts[3]));
    }
}
