package org.rainsieve.noise;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.stream.DoubleStream;
import org.rainsieve.frame.Mosaic;

/**
 * Tells white noise from noise that was smoothed: in smooth places, how the variance of means of four neighbours of one
 * green compares with a quarter of the variance of single ones. Each brightness is looked at by itself, and a low one of the answers
 * counts: what was smoothed was smoothed everywhere.
 */
final class NoiseKind {
    private static final int SIDE = 8;

    /** How many places are looked at. */
    private static final int PLACES = 12_000;

    /** Only the smoothest twentieth counts: texture has coarse differences too. */
    private static final int SMOOTH_PART = 20;

    private static final int MOST_CLASSES = 12;
    private static final int PER_CLASS = 600;

    private record Place(double mean, double structure, double fine, double coarse) {}

    private NoiseKind() {}

    static double coarseToFine(Mosaic mosaic) {
        // Every second pixel of a 2×2 array is of one colour, every third green of a 6×6 array is green again.
        int step = mosaic.pattern().isBayer() ? 2 : 3;
        int size = step * SIDE;
        int x0 = 0;
        while (mosaic.pattern().colourAt(x0, 0) != 1) {
            x0++;
        }
        int across = (mosaic.width() - x0) / size;
        int down = mosaic.height() / size;
        int apart = Math.max(1, (int) Math.sqrt(across * (double) down / PLACES));
        List<Place> places = new ArrayList<>();
        double[] v = new double[SIDE * SIDE];
        for (int cy = 0; cy < down; cy += apart) {
            for (int cx = 0; cx < across; cx += apart) {
                boolean whole = true;
                for (int i = 0; i < v.length && whole; i++) {
                    int x = x0 + cx * size + i % SIDE * step;
                    int y = cy * size + i / SIDE * step;
                    int sample = mosaic.sample(x, y);
                    whole = sample > 0 && sample < mosaic.white();
                    v[i] = mosaic.at(x, y);
                }
                if (whole) {
                    places.add(place(v));
                }
            }
        }
        if (places.size() < 100) {
            return 1;
        }
        places.sort(Comparator.comparingDouble(Place::mean));
        int classes = Math.max(1, Math.min(MOST_CLASSES, places.size() / PER_CLASS));
        double[] ratios = new double[classes];
        for (int k = 0; k < classes; k++) {
            ratios[k] = ratio(
                    new ArrayList<>(places.subList(k * places.size() / classes, (k + 1) * places.size() / classes)));
        }
        Arrays.sort(ratios);
        // Texture lifts it at one brightness or another; smoothing at all of them. What was sharpened has less at most
        // of them.
        double low = ratios[(classes - 1) / 6];
        return low > 1 ? low : Math.min(1, ratios[classes / 2]);
    }

    private static double ratio(List<Place> places) {
        places.sort(Comparator.comparingDouble(p -> p.structure / Math.max(1e-12, p.fine)));
        List<Place> smooth = places.subList(0, Math.max(60, places.size() / SMOOTH_PART));
        double fine = middle(smooth.stream().mapToDouble(Place::fine));
        double coarse = middle(smooth.stream().mapToDouble(Place::coarse));
        // Medians of sums of 16 and of 4 squares lie below their means by these factors (chi-square law).
        return fine > 0 ? coarse / 0.839 / (fine / 0.959) : 1;
    }

    private static double middle(DoubleStream values) {
        double[] sorted = values.sorted().toArray();
        return sorted[sorted.length / 2];
    }

    /** Fine and coarse by second differences in squares of four, structure by the slope across the place. */
    private static Place place(double[] v) {
        double fine = 0;
        double[] means = new double[v.length / 4];
        for (int y = 0; y < SIDE; y += 2) {
            for (int x = 0; x < SIDE; x += 2) {
                int i = y * SIDE + x;
                double d = (v[i] - v[i + 1] - v[i + SIDE] + v[i + SIDE + 1]) / 2;
                fine += d * d / (v.length / 4.0);
                means[y / 2 * SIDE / 2 + x / 2] = (v[i] + v[i + 1] + v[i + SIDE] + v[i + SIDE + 1]) / 4;
            }
        }
        double coarse = 0;
        int half = SIDE / 2;
        for (int y = 0; y < half; y += 2) {
            for (int x = 0; x < half; x += 2) {
                int i = y * half + x;
                double d = (means[i] - means[i + 1] - means[i + half] + means[i + half + 1]) / 2;
                coarse += 4 * d * d / (v.length / 16.0);
            }
        }
        double slopeX = 0;
        double slopeY = 0;
        for (int i = 0; i < means.length; i++) {
            slopeX += means[i] * (i % half - (half - 1) / 2.0);
            slopeY += means[i] * (i / half - (half - 1) / 2.0);
        }
        return new Place(Arrays.stream(means).sum() / means.length, slopeX * slopeX + slopeY * slopeY, fine, coarse);
    }
}
