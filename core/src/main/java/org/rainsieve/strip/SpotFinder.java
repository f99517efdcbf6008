package org.rainsieve.strip;

import java.util.ArrayList;
import java.util.List;
import java.util.function.ToDoubleFunction;
import java.util.stream.IntStream;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.DenoiseStep;

/**
 * Finds the three spots of a frame: smooth, fine, and dark beside a colour edge. Cells of 12 × 12 photosites give means of
 * the colours and how far the greens vary beyond the noise; areas of the size of a spot are compared by the middle and the
 * worst of their cells. Areas across the border of two denoise tiles are left out, as they would cost twice.
 */
public final class SpotFinder {
    /** Size of the areas that are compared, px of the frame. */
    public static final int WIDTH = 312;

    public static final int HEIGHT = 168;

    private static final int CELL = 12;
    private static final int ACROSS = WIDTH / CELL;
    private static final int DOWN = HEIGHT / CELL;
    private static final int STRIDE = 4;
    private static final double CLIPPED = 0.95;
    /** Smooth and fine areas are to be lit well enough to be seen. */
    private static final double LEAST_LIGHT = 0.008;

    private static final double USUAL_LIGHT = 0.12;
    /** Sharpening looks this far beyond what it fills. */
    private static final int APRON = 24;

    private record Cell(float[] mean, float beyondNoise, boolean clipped) {}

    /** What is told of one area. */
    private record Area(Region region, double light, double middle, double worst, double colour, boolean clipped) {}

    private final Capture capture;
    private final NoiseModel law;
    private final double[] gains;
    private final int columns;
    private final Cell[] cells;

    private SpotFinder(Capture capture, NoiseModel law, double[] gains) {
        this.capture = capture;
        this.law = law;
        this.gains = gains;
        this.columns = capture.width() / CELL;
        int rows = capture.height() / CELL;
        this.cells = new Cell[columns * rows];
        IntStream.range(0, cells.length)
                .parallel()
                .forEach(i -> cells[i] = cell(i % columns * CELL, i / columns * CELL));
    }

    /**
     * @param gains white-balance gains
     * @param inside where spots may lie, such as the crop; px of the frame
     * @return smooth, fine and dark as areas of {@value #WIDTH} × {@value #HEIGHT} px, or smaller in a small frame; never
     *     empty, but fewer where the frame has not got all three
     */
    public static List<Found> find(Capture capture, NoiseModel law, double[] gains, Region inside) {
        Region whole = new Region(0, 0, capture.width(), capture.height()).intersect(inside);
        if (whole.width() < WIDTH || whole.height() < HEIGHT) {
            return List.of(new Found(Spot.Kind.SMOOTH, whole));
        }
        return new SpotFinder(capture, law, gains).find(whole);
    }

    public record Found(Spot.Kind kind, Region region) {}

    private List<Found> find(Region inside) {
        List<Area> areas = new ArrayList<>();
        int rows = cells.length / columns;
        for (int row = 0; row + DOWN <= rows; row += STRIDE) {
            for (int column = 0; column + ACROSS <= columns; column += STRIDE) {
                Region region = new Region(column * CELL, row * CELL, WIDTH, HEIGHT);
                if (inside.contains(region) && inOneTile(region)) {
                    areas.add(area(region, column, row));
                }
            }
        }
        if (areas.isEmpty()) {
            int x = inside.x() + (inside.width() - WIDTH) / 2;
            int y = inside.y() + (inside.height() - HEIGHT) / 2;
            return List.of(new Found(Spot.Kind.SMOOTH, new Region(x, y, WIDTH, HEIGHT)));
        }
        double[] lights = areas.stream().mapToDouble(Area::light).sorted().toArray();
        double darkest = lights[lights.length / 3];
        List<Found> found = new ArrayList<>();
        add(
                found,
                Spot.Kind.SMOOTH,
                areas,
                a -> a.clipped || a.light < LEAST_LIGHT
                        ? Double.NaN
                        : -a.worst * (1 + Math.abs(Math.log(a.light / USUAL_LIGHT)) / 3));
        add(
                found,
                Spot.Kind.FINE,
                areas,
                a -> a.clipped || a.light < LEAST_LIGHT || a.middle <= 0.1 ? Double.NaN : a.middle);
        add(found, Spot.Kind.DARK, areas, a -> a.clipped || a.light > darkest || a.colour <= 0 ? Double.NaN : a.colour);
        if (found.isEmpty()) {
            found.add(new Found(Spot.Kind.SMOOTH, areas.get(areas.size() / 2).region));
        }
        return found;
    }

    /** Adds the area with the highest score that overlaps none found before. */
    private static void add(List<Found> found, Spot.Kind kind, List<Area> areas, ToDoubleFunction<Area> score) {
        Area best = null;
        double most = Double.NEGATIVE_INFINITY;
        for (Area area : areas) {
            double value = score.applyAsDouble(area);
            boolean free = found.stream()
                    .allMatch(other -> other.region.intersect(area.region).isEmpty());
            if (free && value > most) {
                most = value;
                best = area;
            }
        }
        if (best != null) {
            found.add(new Found(kind, best.region));
        }
    }

    private static boolean inOneTile(Region r) {
        int tile = DenoiseStep.TILE;
        return Math.max(0, r.x() - APRON) / tile == (r.right() + APRON - 1) / tile
                && Math.max(0, r.y() - APRON) / tile == (r.bottom() + APRON - 1) / tile;
    }

    private Area area(Region region, int column, int row) {
        double[] beyond = new double[ACROSS * DOWN];
        double[] sums = new double[3];
        boolean clipped = false;
        for (int i = 0; i < beyond.length; i++) {
            Cell cell = cells[(row + i / ACROSS) * columns + column + i % ACROSS];
            clipped |= cell.clipped;
            for (int c = 0; c < 3; c++) {
                sums[c] += cell.mean[c] * gains[c] / beyond.length;
            }
            beyond[i] = cell.beyondNoise;
        }
        double light = Math.max(1e-6, (sums[0] + sums[1] + sums[2]) / 3);
        double evenness = 0;
        double colour = 0;
        for (int i = 0; i < beyond.length; i++) {
            Cell cell = cells[(row + i / ACROSS) * columns + column + i % ACROSS];
            double grey = 0;
            double redder = 0;
            for (int c = 0; c < 3; c++) {
                grey += cell.mean[c] * gains[c] / 3;
                redder += (c == 0 ? 1 : c == 2 ? -1 : 0) * (cell.mean[c] * gains[c] - sums[c]);
            }
            double noise = law.variance(1, Math.max(0, sums[1] / gains[1])) * gains[1] * gains[1];
            evenness += (grey - light) * (grey - light) / (noise * beyond.length);
            colour += Math.max(0, redder * redder - 4 * noise / CELL) / (light * light) / beyond.length;
        }
        java.util.Arrays.sort(beyond);
        double worst = Math.max(0, beyond[beyond.length * 9 / 10]) + evenness;
        return new Area(region, light, beyond[beyond.length / 2], worst, colour, clipped);
    }

    /** Means of the colours, and the variance of the greens beyond what the noise explains, in units of the noise. */
    private Cell cell(int x0, int y0) {
        float[] mean = new float[3];
        int[] counts = new int[3];
        double squares = 0;
        boolean clipped = false;
        for (int y = y0; y < y0 + CELL; y++) {
            for (int x = x0; x < x0 + CELL; x++) {
                if (capture instanceof Picture picture) {
                    for (int c = 0; c < 3; c++) {
                        mean[c] += picture.at(c, x, y);
                        counts[c]++;
                    }
                    squares += picture.at(1, x, y) * picture.at(1, x, y);
                    clipped |= picture.at(1, x, y) > CLIPPED;
                } else {
                    Mosaic mosaic = (Mosaic) capture;
                    float value = mosaic.at(x, y);
                    int colour = mosaic.pattern().colourAt(x, y);
                    mean[colour] += value;
                    counts[colour]++;
                    squares += colour == 1 ? value * value : 0;
                    clipped |= value > CLIPPED;
                }
            }
        }
        for (int c = 0; c < 3; c++) {
            mean[c] /= Math.max(1, counts[c]);
        }
        double variance = squares / counts[1] - (double) mean[1] * mean[1];
        double noise = law.variance(1, Math.max(0, mean[1]));
        return new Cell(mean, (float) (variance / noise - 1), clipped);
    }
}
