package org.rainsieve.web.shoot;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * The map of a shoot, laid out for drawing: cameras down, ISO across on a log scale, a cell for each that has frames. Where ISO is
 * set in thirds of stops, cells stand for whole stops unless each is asked for; then they stand side by side.
 */
public final class Spread {
    static final int WIDTH = 900;
    private static final int LEAST_LEFT = 120;
    private static final double LETTER = 7.2;
    private static final int ROW = 54;
    private static final int TOP = 8;
    private static final int CELL = 84;

    /**
     * @param iso as it was set, or of a whole stop
     * @param stops whether the cell stands for all frames near that stop
     * @param noisePercent how far the frames' noise lies from the book's in the middle, in %; null where none was read
     */
    public record Cell(
            String camera,
            int iso,
            boolean stops,
            double x,
            double y,
            double width,
            int frames,
            int strays,
            Double noisePercent,
            boolean chosen) {
        public boolean wide() {
            return width >= CELL;
        }

        /** For people. */
        public String at() {
            return (stops ? "near ISO " : "ISO ") + String.format(Locale.ROOT, "%,d", iso);
        }

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

    /** A cell that frames are shown of. */
    record Chosen(String camera, Integer iso, boolean stops) {}

    private final boolean crowded;
    private final boolean each;

    /** @param each to have every ISO apart, however many there are */
    Spread(List<FrameOnSheet> frames, Chosen chosen, boolean each) {
        this.each = each;
        TreeSet<Integer> set = new TreeSet<>();
        TreeSet<String> cameras = new TreeSet<>();
        for (FrameOnSheet frame : frames) {
            if (isTold(frame)) {
                cameras.add(frame.row().camera());
                set.add(frame.row().iso());
            }
        }
        int longest = cameras.stream().mapToInt(String::length).max().orElse(0);
        double left = Math.max(LEAST_LEFT, LETTER * longest + 16);
        double room = WIDTH - left - CELL - 8;
        crowded = crowded(set, room);
        boolean stops = crowded && !each;
        TreeSet<Integer> isos = new TreeSet<>();
        TreeMap<String, List<FrameOnSheet>> groups = new TreeMap<>();
        for (FrameOnSheet frame : frames) {
            if (isTold(frame)) {
                int iso = stops ? stop(frame.row().iso()) : frame.row().iso();
                isos.add(iso);
                groups.computeIfAbsent(frame.row().camera() + "\n" + iso, key -> new ArrayList<>())
                        .add(frame);
            }
        }
        if (isos.isEmpty()) {
            return;
        }
        double width = crowded && each ? Math.min(CELL, (room + CELL) / isos.size() - 4) : CELL;
        int row = 0;
        for (String camera : cameras) {
            double y = TOP + row++ * ROW;
            rows.add(new Label(y + 24, camera));
            for (int iso : isos) {
                List<FrameOnSheet> group = groups.get(camera + "\n" + iso);
                if (group != null) {
                    boolean here = camera.equals(chosen.camera)
                            && chosen.iso != null
                            && chosen.iso == iso
                            && chosen.stops == stops;
                    cells.add(cell(camera, iso, stops, left + place(iso, isos, room), y, width, group, here));
                }
            }
        }
        for (int iso : isos) {
            columns.add(new Label(
                    left + place(iso, isos, room) + width / 2,
                    String.format(Locale.ROOT, width < CELL ? "%d" : "ISO %,d", iso)));
        }
    }

    private double place(int iso, TreeSet<Integer> isos, double room) {
        if (crowded && each) {
            return isos.headSet(iso).size() * (room + CELL) / isos.size();
        }
        double from = Math.log(isos.first());
        double span = Math.max(Math.log(2) * 3, Math.log(isos.last()) - from);
        return room * (Math.log(iso) - from) / span;
    }

    /** Whether cells on the log scale would lie over each other. */
    private static boolean crowded(TreeSet<Integer> isos, double room) {
        if (isos.size() < 2) {
            return false;
        }
        double span = Math.max(Math.log(2) * 3, Math.log(isos.last()) - Math.log(isos.first()));
        Integer before = null;
        for (int iso : isos) {
            if (before != null && room * Math.log((double) iso / before) / span < CELL + 2) {
                return true;
            }
            before = iso;
        }
        return false;
    }

    private static boolean isTold(FrameOnSheet frame) {
        return frame.row().camera() != null
                && frame.row().iso() != null
                && frame.row().iso() > 0;
    }

    /** The whole stop that an ISO is nearest to: 100, 200, 400 and so on, and below. */
    static int stop(int iso) {
        return (int) Math.round(100 * Math.pow(2, Math.round(Math.log(iso / 100.0) / Math.log(2))));
    }

    /** Whether a frame's ISO is the one asked for, if any is. */
    static boolean isAt(Integer iso, Integer asked, boolean stops) {
        return asked == null || iso != null && (stops ? iso > 0 && stop(iso) == asked : iso.equals(asked));
    }

    /** Whether there are more ISO settings than cells side by side. */
    public boolean crowded() {
        return crowded;
    }

    public boolean each() {
        return each;
    }

    private static Cell cell(
            String camera,
            int iso,
            boolean stops,
            double x,
            double y,
            double width,
            List<FrameOnSheet> group,
            boolean chosen) {
        int strays =
                (int) group.stream().filter(frame -> !frame.stray().isEmpty()).count();
        List<Double> off = group.stream()
                .map(FrameOnSheet::noiseOff)
                .filter(ratio -> !Double.isNaN(ratio))
                .sorted(Comparator.naturalOrder())
                .toList();
        Double noise = off.isEmpty() ? null : 100 * (off.get(off.size() / 2) - 1);
        return new Cell(camera, iso, stops, x, y, width, group.size(), strays, noise, chosen);
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
