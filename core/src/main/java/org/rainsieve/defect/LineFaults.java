package org.rainsieve.defect;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;

/**
 * Whole rows and columns of one frame that answer wrongly: those that do not tell the light at all, or only from some
 * place on, and what was added to each row and column as it was read out (banding). {@link LineFinder} finds them.
 *
 * @param lines to be replaced
 * @param rows what was added to each row, 1.0 = clipping; empty for nothing
 * @param columns the same for each column
 */
public record LineFaults(List<Line> lines, float[] rows, float[] columns) {
    private static final int REACH = 6;

    private static final int NEIGHBOURS = 4;

    private static final List<int[]> NEAREST = nearest();

    /**
     * Part of a column, or of a row.
     *
     * @param at its x, of a row its y
     * @param from first photosite along it
     * @param to the one after the last
     */
    public record Line(boolean column, int at, int from, int to) {
        boolean holds(int x, int y) {
            int along = column ? y : x;
            return at == (column ? x : y) && along >= from && along < to;
        }
    }

    /** The mosaic without them; itself if it has none. */
    public Mosaic repaired(Mosaic mosaic) {
        if (lines.isEmpty() && rows.length + columns.length == 0) {
            return mosaic;
        }
        short[] samples = null;
        if (!lines.isEmpty()) {
            samples = mosaic.samples();
            for (Line line : lines) {
                for (int i = line.from; i < line.to; i++) {
                    int x = line.column ? line.at : i;
                    int y = line.column ? i : line.at;
                    samples[y * mosaic.width() + x] = (short) replacement(mosaic, x, y);
                }
            }
        }
        return mosaic.with(samples, columns, rows);
    }

    /** The mean of the nearest of its colour that lie on no such line. */
    private int replacement(Mosaic mosaic, int x, int y) {
        CfaPattern pattern = mosaic.pattern();
        int sum = 0;
        int count = 0;
        int last = 0;
        for (int[] d : NEAREST) {
            int distance = d[0] * d[0] + d[1] * d[1];
            if (count >= NEIGHBOURS && distance > last) {
                break; // those equally far all count, or the mean would lie to one side
            }
            int nx = x + d[0];
            int ny = y + d[1];
            boolean inside = nx >= 0 && ny >= 0 && nx < mosaic.width() && ny < mosaic.height();
            if (inside && pattern.colourAt(nx, ny) == pattern.colourAt(x, y) && !faulty(nx, ny)) {
                sum += mosaic.sample(nx, ny);
                count++;
                last = distance;
            }
        }
        return count == 0 ? mosaic.sample(x, y) : (sum + count / 2) / count;
    }

    private boolean faulty(int x, int y) {
        for (Line line : lines) {
            if (line.holds(x, y)) {
                return true;
            }
        }
        return false;
    }

    private static List<int[]> nearest() {
        List<int[]> places = new ArrayList<>();
        for (int dy = -REACH; dy <= REACH; dy++) {
            for (int dx = -REACH; dx <= REACH; dx++) {
                places.add(new int[] {dx, dy});
            }
        }
        places.remove(places.size() / 2);
        places.sort(Comparator.comparingInt(d -> d[0] * d[0] + d[1] * d[1]));
        return List.copyOf(places);
    }
}
