package org.rainsieve.pipeline;

import java.util.Arrays;
import java.util.Locale;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;

/**
 * Whether points of light that stand out of an even ground on the sensor are in the return as well. They are found by a matched filter
 * (Turin 1960) in units of the ground's own scatter, so that no law is needed; hot photosites, which are one photosite wide, and
 * textures, which have more than points, are left out. Safe for several threads.
 */
final class StarCheck {
    /** Of the matched filter, as wide as a star of FWHM 2 px. */
    private static final double SIGMA_PX = 0.85;

    private static final int REACH = 2;
    private static final double[] KERNEL = new double[(2 * REACH + 1) * (2 * REACH + 1)];

    static {
        double power = 0;
        for (int i = 0; i < KERNEL.length; i++) {
            int x = i % (2 * REACH + 1) - REACH;
            int y = i / (2 * REACH + 1) - REACH;
            KERNEL[i] = Math.exp(-(x * x + y * y) / (2 * SIGMA_PX * SIGMA_PX));
            power += KERNEL[i] * KERNEL[i];
        }
        for (int i = 0; i < KERNEL.length; i++) {
            KERNEL[i] /= Math.sqrt(power);
        }
    }

    /** In sd of the ground: what is a star without doubt, and what its surroundings stay below. */
    private static final double STAR = 9;

    private static final double GROUND = 5.5;
    private static final double LIT = 2;
    private static final int LEAST_LIT = 3;

    /** A star's own light ends here. */
    private static final int AROUND_PX = 5;

    private static final int MOST_IN_BLOCK = 6;
    private static final double DIMMED = 0.5;
    private static final int ENOUGH = 10;
    private static final double TOO_MANY = 0.2;

    private int stars;
    private int dimmed;
    private int[] place;

    void look(Mosaic mosaic, Planes out, int x0, int y0, int size) {
        double[] ground = new double[3];
        double[] sd = new double[3];
        double[] after = new double[3];
        for (int c = 0; c < 3; c++) {
            float[] before = new float[size * size];
            float[] made = new float[size * size];
            int n = 0;
            for (int i = 0; i < size * size; i++) {
                int x = x0 + i % size;
                int y = y0 + i / size;
                if (mosaic.pattern().colourAt(x, y) == c) {
                    before[n] = mosaic.at(x, y);
                    made[n++] = out.at(c, x, y);
                }
            }
            before = Arrays.copyOf(before, n);
            made = Arrays.copyOf(made, n);
            Arrays.sort(before);
            Arrays.sort(made);
            ground[c] = before[n / 2];
            after[c] = made[n / 2];
            for (int i = 0; i < n; i++) {
                before[i] = (float) Math.abs(before[i] - ground[c]);
            }
            Arrays.sort(before);
            sd[c] = 1.4826 * before[n / 2];
            if (!(sd[c] > 0)) {
                return;
            }
        }
        double[] z = new double[size * size];
        for (int i = 0; i < z.length; i++) {
            int x = x0 + i % size;
            int y = y0 + i / size;
            int c = mosaic.pattern().colourAt(x, y);
            z[i] = (mosaic.at(x, y) - ground[c]) / sd[c];
        }
        double[] filtered = filtered(z, size);
        int[] found = new int[MOST_IN_BLOCK];
        int n = 0;
        for (int i = 0; i < filtered.length; i++) {
            if (filtered[i] >= STAR && highest(filtered, size, i) && lit(z, size, i) >= LEAST_LIT) {
                if (n == MOST_IN_BLOCK) {
                    return;
                }
                found[n++] = i;
            }
        }
        if (n == 0 || !evenBut(filtered, size, Arrays.copyOf(found, n))) {
            return;
        }
        for (int k = 0; k < n; k++) {
            count(mosaic, out, x0 + found[k] % size, y0 + found[k] / size, ground, after);
        }
    }

    private void count(Mosaic mosaic, Planes out, int x0, int y0, double[] ground, double[] after) {
        double before = 0;
        double made = 0;
        for (int k = 0; k < KERNEL.length; k++) {
            int x = x0 + k % (2 * REACH + 1) - REACH;
            int y = y0 + k / (2 * REACH + 1) - REACH;
            int c = mosaic.pattern().colourAt(x, y);
            before += KERNEL[k] * (mosaic.at(x, y) - ground[c]);
            made += KERNEL[k] * (out.at(c, x, y) - after[c]);
        }
        synchronized (this) {
            stars++;
            if (made < DIMMED * before) {
                dimmed++;
                place = new int[] {x0, y0};
            }
        }
    }

    private static double[] filtered(double[] z, int size) {
        double[] filtered = new double[z.length];
        for (int y = REACH; y < size - REACH; y++) {
            for (int x = REACH; x < size - REACH; x++) {
                double sum = 0;
                for (int k = 0; k < KERNEL.length; k++) {
                    int at = (y + k / (2 * REACH + 1) - REACH) * size + x + k % (2 * REACH + 1) - REACH;
                    sum += KERNEL[k] * z[at];
                }
                filtered[y * size + x] = sum;
            }
        }
        return filtered;
    }

    private static boolean highest(double[] filtered, int size, int at) {
        int x0 = at % size;
        int y0 = at / size;
        if (x0 < AROUND_PX || y0 < AROUND_PX || x0 >= size - AROUND_PX || y0 >= size - AROUND_PX) {
            return false;
        }
        for (int y = -REACH; y <= REACH; y++) {
            for (int x = -REACH; x <= REACH; x++) {
                if (filtered[at + y * size + x] > filtered[at]) {
                    return false;
                }
            }
        }
        return true;
    }

    private static int lit(double[] z, int size, int at) {
        int lit = 0;
        for (int y = -1; y <= 1; y++) {
            for (int x = -1; x <= 1; x++) {
                lit += z[at + y * size + x] > LIT ? 1 : 0;
            }
        }
        return lit;
    }

    /** Whether there is nothing but the stars. */
    private static boolean evenBut(double[] filtered, int size, int[] stars) {
        for (int i = 0; i < filtered.length; i++) {
            if (Math.abs(filtered[i]) > GROUND) {
                boolean ofStar = false;
                for (int star : stars) {
                    ofStar |= Math.abs(star % size - i % size) <= AROUND_PX
                            && Math.abs(star / size - i / size) <= AROUND_PX;
                }
                if (!ofStar) {
                    return false;
                }
            }
        }
        return true;
    }

    /** @return null where nothing stands out */
    synchronized ReturnCheck.Oddity oddity() {
        return stars < ENOUGH || dimmed <= TOO_MANY * stars
                ? null
                : new ReturnCheck.Oddity(
                        String.format(Locale.ROOT, "%d of %d points of light lost more than half of it", dimmed, stars),
                        place[0],
                        place[1]);
    }
}
