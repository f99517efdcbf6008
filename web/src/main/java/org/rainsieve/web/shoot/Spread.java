package org.rainsieve.web.shoot;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.TreeMap;
import java.util.TreeSet;

/** The map of a shoot, laid out for drawing: cameras down, ISO across on a log scale, a cell for each that has frames. */
public final class Spread {
    static final int WIDTH = 900;
    private static final int LEAST_LEFT = 120;
    private static final double LETTER = 7.2;
    private static final int ROW = 54;
    private static final int TOP = 8;
    private static final int CELL = 84;

    /**
     * @param noisePercent how far the frames' noise lies from the book's in the middle, in %; null where none was read
     */
    public record Cell(
            String camera, int iso, double x, double y, int frames, int strays, Double noisePercent, boolean chosen) {
        public String noise() {
            if (noisePercent == null) {
                return "";
            }
            return Math.round(noisePercent) == 0 ? "noise as the book's" : "noise " + signed();
        }

        /** The difference from the book with its sign. */
        public String signed() {
            long rounded = Math.round(noisePercent);
            return (rounded > 0 ? "+" : rounded < 0 ? "−" : "±") + Math.abs(rounded) + " %";
        }
    }

    public record Label(double at, String text) {}

    private final List<Cell> cells = new ArrayList<>();
    private final List<Label> rows = new ArrayList<>();
    private final List<Label> columns = new ArrayList<>();

    Spread(List<FrameOnSheet> frames, String chosenCamera, Integer chosenIso) {
        TreeSet<String> cameras = new TreeSet<>();
        TreeSet<Integer> isos = new TreeSet<>();
        TreeMap<String, List<FrameOnSheet>> groups = new TreeMap<>();
        for (FrameOnSheet frame : frames) {
            if (frame.row().camera() != null && frame.row().iso() != null) {
                cameras.add(frame.row().camera());
                isos.add(frame.row().iso());
                groups.computeIfAbsent(frame.row().camera() + "\n" + frame.row().iso(), key -> new ArrayList<>())
                        .add(frame);
            }
        }
        if (isos.isEmpty()) {
            return;
        }
        double from = Math.log(Math.max(1, isos.first()));
        double span = Math.max(Math.log(2) * 3, Math.log(Math.max(1, isos.last())) - from);
        int longest = cameras.stream().mapToInt(String::length).max().orElse(0);
        double left = Math.max(LEAST_LEFT, LETTER * longest + 16);
        double room = WIDTH - left - CELL - 8;
        int row = 0;
        for (String camera : cameras) {
            double y = TOP + row++ * ROW;
            rows.add(new Label(y + 24, camera));
            for (int iso : isos) {
                List<FrameOnSheet> group = groups.get(camera + "\n" + iso);
                if (group != null) {
                    double x = left + room * (Math.log(Math.max(1, iso)) - from) / span;
                    boolean chosen = camera.equals(chosenCamera) && chosenIso != null && chosenIso == iso;
                    cells.add(cell(camera, iso, x, y, group, chosen));
                }
            }
        }
        for (int iso : isos) {
            double x = left + room * (Math.log(Math.max(1, iso)) - from) / span;
            columns.add(new Label(x + CELL / 2.0, String.format(java.util.Locale.ROOT, "ISO %,d", iso)));
        }
    }

    private static Cell cell(String camera, int iso, double x, double y, List<FrameOnSheet> group, boolean chosen) {
        int strays =
                (int) group.stream().filter(frame -> !frame.stray().isEmpty()).count();
        List<Double> off = group.stream()
                .map(FrameOnSheet::noiseOff)
                .filter(ratio -> !Double.isNaN(ratio))
                .sorted(Comparator.naturalOrder())
                .toList();
        Double noise = off.isEmpty() ? null : 100 * (off.get(off.size() / 2) - 1);
        return new Cell(camera, iso, x, y, group.size(), strays, noise, chosen);
    }

    public List<Cell> cells() {
        return cells;
    }

    public List<Label> rows() {
        return rows;
    }

    public List<Label> columns() {
        return columns;
    }

    public int height() {
        return TOP + rows.size() * ROW + 20;
    }
}
