package org.rainsieve.web.shoot;

import java.util.List;
import java.util.Locale;

/**
 * A shoot as the first page lists it.
 *
 * @param pictures a few of its frames, to be known by
 * @param next what is to be done next, in words; empty for nothing
 * @param where that is done
 */
public record ShootLine(ShootRow row, List<Long> pictures, String next, String where) {
    static ShootLine of(ShootRow row, List<Long> pictures) {
        String page = "/shoots/" + row.id();
        int open = open(row);
        if (row.unread() > 0) {
            return new ShootLine(
                    row, pictures, String.format(Locale.ROOT, "being read, %,d to go", row.unread()), page);
        }
        if (row.failed() > 0) {
            return new ShootLine(row, pictures, count(row.failed(), "return") + " failed: see why", page);
        }
        if (open > 0) {
            return new ShootLine(
                    row,
                    pictures,
                    row.returned() == 0
                            ? "choose and start a run"
                            : "return the other " + String.format(Locale.ROOT, "%,d", open),
                    page);
        }
        if (row.returned() > 0) {
            return new ShootLine(row, pictures, "look through the returns", "/catalogue?shoot=" + row.id());
        }
        return new ShootLine(row, pictures, "", page);
    }

    private static String count(int n, String word) {
        return String.format(Locale.ROOT, "%,d %s%s", n, word, n == 1 ? "" : "s");
    }

    private static int open(ShootRow row) {
        return row.frames() - row.returned() - row.refused() - row.failed() - row.unread();
    }

    /** Frames that are ready and have no return. */
    public int open() {
        return open(row);
    }

    public int problems() {
        return row.failed() + row.refused();
    }

    /** For the bar: how much of it so many frames take, in its pixels. */
    public double bar(int frames) {
        return 200.0 * frames / Math.max(1, row.frames());
    }
}
