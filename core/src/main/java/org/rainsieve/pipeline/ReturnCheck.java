package org.rainsieve.pipeline;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Looks at a return while it is written for what should not be: a colour whose mean has moved against the mosaic's, clipped places that
 * are not white, dark specks, stars that are gone. It goes by the samples alone, not by any law: what was made with a wrong one is what it looks for. One
 * block of 32 × 32 in up to sixteen is looked at. Safe for several threads.
 */
public final class ReturnCheck {
    private static final int BLOCK = 32;
    /** Blocks that are enough to go by; of a large frame one in sixteen is looked at. */
    private static final double WANTED_BLOCKS = 400;

    private static final int FARTHEST = 4;
    /** Brightness classes of a stop each below clipping. */
    private static final int STOPS = 12;

    private static final int ENOUGH_BLOCKS = 12;
    /** A shift that is seen side by side (common practice), and sure beyond chance. */
    private static final double SHIFT = 0.03;

    private static final double SURE = 6;
    /** Less than that of a photosite's own noise nobody sees. */
    private static final double OF_NOISE = 0.1;

    private static final double ODD_SDS = 6;

    private static final double NEARLY_WHITE = 0.999;
    private static final double SPECK_SDS = 6;
    private static final double SPECKS_PER_MEGAPIXEL = 2000;
    private static final double ASYMMETRY = 1.25;
    private static final String[] COLOURS = {"red", "green", "blue"};

    private final Mosaic mosaic;
    private final int reach;
    private final int every;
    /** Of each colour and class the blocks' means on the sensor, and by how much the return's differ. */
    private final List<List<double[]>> blocks = new ArrayList<>();

    private final StarCheck stars = new StarCheck();

    private long looked;
    private long low;
    private long high;
    private long clipped;
    private long notWhite;
    private int[] whitePlace;
    private int[] speckPlace;
    private int mostSpecks;

    /**
     * Something that stands out.
     *
     * @param words in plain words
     * @param x where it is worst, in px of the frame
     */
    public record Oddity(String words, int x, int y) {}

    public ReturnCheck(Capture capture) {
        mosaic = capture instanceof Mosaic of ? of : null;
        reach = mosaic == null || mosaic.pattern().isBayer() ? 2 : 3;
        double all = (double) capture.width() * capture.height() / (BLOCK * BLOCK);
        every = BLOCK * (int) Math.max(1, Math.min(FARTHEST, Math.sqrt(all / WANTED_BLOCKS)));
        for (int i = 0; i < 3 * STOPS; i++) {
            blocks.add(new ArrayList<>());
        }
    }

    /** @param out a part of the return before it is moved, cut or enlarged */
    public void add(Planes out) {
        if (mosaic == null) {
            return; // a picture in full colour has no samples of its own left to go by
        }
        Region r = out.region();
        int fromY = (r.y() + every - 1) / every * every;
        int fromX = (r.x() + every - 1) / every * every;
        for (int y = fromY; y + BLOCK <= r.bottom(); y += every) {
            for (int x = fromX; x + BLOCK <= r.right(); x += every) {
                means(out, x, y);
                white(out, x, y);
                specks(out, x, y);
                stars.look(mosaic, out, x, y, BLOCK);
            }
        }
    }

    private void means(Planes out, int x0, int y0) {
        if (mosaic.hasGains()) {
            return; // what the file asks for moves every mean
        }
        float[][] differences = new float[3][BLOCK * BLOCK];
        double[] made = new double[3];
        int[] n = new int[3];
        for (int y = y0; y < y0 + BLOCK; y++) {
            for (int x = x0; x < x0 + BLOCK; x++) {
                if (mosaic.clippedAt(x, y)) {
                    return;
                }
                int c = mosaic.pattern().colourAt(x, y);
                made[c] += out.at(c, x, y);
                differences[c][n[c]++] = out.at(c, x, y) - mosaic.at(x, y);
            }
        }
        double floor = mosaic.floor();
        for (int c = 0; c < 3; c++) {
            float[] sizes = Arrays.copyOf(differences[c], n[c]);
            Arrays.sort(sizes);
            float middle = sizes[sizes.length / 2];
            for (int i = 0; i < sizes.length; i++) {
                sizes[i] = Math.abs(differences[c][i] - middle);
            }
            Arrays.sort(sizes);
            double sd = 1.4826 * sizes[sizes.length / 2];
            double shift = 0;
            int usual = 0;
            for (int i = 0; i < n[c]; i++) {
                // Hot photosites are repaired in the return: they would lift the sensor's mean.
                if (Math.abs(differences[c][i] - middle) <= ODD_SDS * sd) {
                    shift += differences[c][i];
                    usual++;
                }
            }
            shift /= Math.max(1, usual);
            double mean = made[c] / n[c] - shift;
            // Where the sensor cuts noise its mean is not the light's.
            if (mean <= 0 || mean - floor < 2 * sd) {
                continue;
            }
            // By what came out: classes of noisy means would hold those that chance has brought there.
            double brightness = Math.max(1e-6, made[c] / n[c]);
            int stop = (int) Math.min(STOPS - 1, Math.floor(-Math.log(brightness) / Math.log(2)));
            List<double[]> into = blocks.get(c * STOPS + Math.max(0, stop));
            synchronized (into) {
                into.add(new double[] {mean, shift, x0, y0, sd});
            }
        }
    }

    private void white(Planes out, int x0, int y0) {
        Region all = mosaic.bounds();
        for (int y = y0; y < y0 + BLOCK; y++) {
            for (int x = x0; x < x0 + BLOCK; x++) {
                if (!mosaic.clippedAt(x, y)
                        || x < reach
                        || y < reach
                        || x + reach >= all.width()
                        || y + reach >= all.height()
                        || !clippedAround(x, y)) {
                    continue;
                }
                boolean white = out.at(0, x, y) >= NEARLY_WHITE
                        && out.at(1, x, y) >= NEARLY_WHITE
                        && out.at(2, x, y) >= NEARLY_WHITE;
                synchronized (this) {
                    clipped++;
                    if (!white) {
                        notWhite++;
                        whitePlace = new int[] {x, y};
                    }
                }
            }
        }
    }

    private boolean clippedAround(int x, int y) {
        for (int j = -reach; j <= reach; j++) {
            for (int i = -reach; i <= reach; i++) {
                if (!mosaic.clippedAt(x + i, y + j)) {
                    return false;
                }
            }
        }
        return true;
    }

    /** Pixels of green far below or above what lies two pixels away on four sides; of real texture there are about as many of both. */
    private void specks(Planes out, int x0, int y0) {
        int inner = BLOCK - 4;
        float[] differences = new float[inner * inner];
        for (int y = 0; y < inner; y++) {
            for (int x = 0; x < inner; x++) {
                int px = x0 + 2 + x;
                int py = y0 + 2 + y;
                float left = out.at(1, px - 2, py);
                float right = out.at(1, px + 2, py);
                float up = out.at(1, px, py - 2);
                float down = out.at(1, px, py + 2);
                // The middle two of the four: one speck does not lift its neighbours' differences.
                float middle = (left
                                + right
                                + up
                                + down
                                - Math.max(Math.max(left, right), Math.max(up, down))
                                - Math.min(Math.min(left, right), Math.min(up, down)))
                        / 2;
                differences[y * inner + x] = out.at(1, px, py) - middle;
            }
        }
        float[] sizes = new float[differences.length];
        for (int i = 0; i < sizes.length; i++) {
            sizes[i] = Math.abs(differences[i]);
        }
        Arrays.sort(sizes);
        double limit = Math.max(1e-5, SPECK_SDS * 1.4826 * sizes[sizes.length / 2]);
        int below = 0;
        int above = 0;
        for (float difference : differences) {
            below += difference < -limit ? 1 : 0;
            above += difference > limit ? 1 : 0;
        }
        synchronized (this) {
            looked += differences.length;
            low += below;
            high += above;
            if (below - above > mostSpecks) {
                mostSpecks = below - above;
                speckPlace = new int[] {x0 + BLOCK / 2, y0 + BLOCK / 2};
            }
        }
    }

    /** What stands out; empty for a return that is as it should be. */
    public List<Oddity> oddities() {
        List<Oddity> odd = new ArrayList<>();
        for (int c = 0; c < 3; c++) {
            Oddity worst = null;
            double most = SHIFT;
            for (int stop = 0; stop < STOPS; stop++) {
                List<double[]> here = blocks.get(c * STOPS + stop);
                if (here.size() < ENOUGH_BLOCKS) {
                    continue;
                }
                double mean = median(here, 0);
                double shift = median(here, 1);
                double[] off = here.stream()
                        .mapToDouble(block -> Math.abs(block[1] - shift))
                        .sorted()
                        .toArray();
                // Of a median: 1.2533 times that of a mean (normal scatter).
                double error = 1.2533 * 1.4826 * off[off.length / 2] / Math.sqrt(off.length);
                boolean seen = Math.abs(shift) > OF_NOISE * median(here, 4);
                if (seen && Math.abs(shift) / mean > most && Math.abs(shift) > SURE * error) {
                    most = Math.abs(shift) / mean;
                    double[] place = here.stream()
                            .max((p, q) -> Double.compare(p[1] * Math.signum(shift), q[1] * Math.signum(shift)))
                            .orElseThrow();
                    worst = new Oddity(
                            String.format(
                                    Locale.ROOT,
                                    "%s is %.0f %% %s than on the sensor, %d stops below clipping",
                                    COLOURS[c],
                                    100 * most,
                                    shift < 0 ? "darker" : "brighter",
                                    stop),
                            (int) place[2] + BLOCK / 2,
                            (int) place[3] + BLOCK / 2);
                }
            }
            if (worst != null) {
                odd.add(worst);
            }
        }
        if (notWhite > 0) {
            odd.add(new Oddity(
                    String.format(Locale.ROOT, "%.1f %% of what is clipped is not white", 100.0 * notWhite / clipped),
                    whitePlace[0],
                    whitePlace[1]));
        }
        double specks = looked == 0 ? 0 : 1e6 * (low - high) / looked;
        if (specks > SPECKS_PER_MEGAPIXEL && low > ASYMMETRY * high) {
            odd.add(new Oddity(
                    String.format(Locale.ROOT, "dark specks, about %,.0f a megapixel", specks),
                    speckPlace[0],
                    speckPlace[1]));
        }
        Oddity dimmed = stars.oddity();
        if (dimmed != null) {
            odd.add(dimmed);
        }
        return odd;
    }

    private static double median(List<double[]> list, int of) {
        double[] values = list.stream().mapToDouble(block -> block[of]).sorted().toArray();
        return values[values.length / 2];
    }
}
