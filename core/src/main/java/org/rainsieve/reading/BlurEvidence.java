package org.rainsieve.reading;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;

/**
 * What edges tell of the shape of a blur, as numbers for the trained reader. Behind a blur the slope across a straight step, seen in
 * the direction θ, is the blur's projection onto that direction (its line spread, as in ISO 12233): a Gaussian for a soft blur, a
 * half circle for a disc, a box of length L·|cos(θ − φ)| for a movement along φ. Profiles are gathered by direction; of each
 * direction two means are told, of its narrower edges and of its middling ones, for soft backgrounds have all directions too.
 *
 * <p>Layout: for each of {@value #DIRECTIONS} directions, from 0 up in equal steps of the gradient's angle, {@value #HALF} slopes of
 * the narrower edges from the middle outwards, as many of the middling ones, and how many edges there were (log₂(1 + n) ÷ 10); then
 * the variance that reading the profiles added, in px², and the sd of the blur by the edges' steepness, in px (0 where it is not known).
 */
public final class BlurEvidence {
    public static final int DIRECTIONS = 12;
    static final int HALF = BlurReader.REACH + 1;
    public static final int PER_DIRECTION = 2 * HALF + 1;
    public static final int SIZE = DIRECTIONS * PER_DIRECTION + 2;

    private static final int LEAST = 8;
    /** Shares of a direction's edges, the narrowest first. */
    private static final double[] NARROWER = {0.1, 0.45};

    private static final double[] MIDDLING = {0.45, 0.8};

    /** Slopes sum to 1 over their width: as large as other numbers are, they are learned from more easily. */
    private static final float SCALE = 10;

    /** Fewer edges tell nothing. */
    private static final int LEAST_IN_ALL = 40;

    private BlurEvidence() {}

    /** Slopes across one edge, of unit sum, and the direction of its gradient in radians, 0 to π. */
    record Profile(double[] slopes, double angle) {
        double width() {
            return 1 / Arrays.stream(slopes).max().orElse(1);
        }
    }

    /** @return null where there are too few edges */
    static float[] of(List<Profile> profiles, double ownVariance, double softPx) {
        if (profiles.size() < LEAST_IN_ALL) {
            return null;
        }
        List<List<Profile>> bins = new ArrayList<>();
        for (int i = 0; i < DIRECTIONS; i++) {
            bins.add(new ArrayList<>());
        }
        for (Profile profile : profiles) {
            bins.get((int) Math.round(profile.angle / Math.PI * DIRECTIONS) % DIRECTIONS)
                    .add(profile);
        }
        float[] out = new float[SIZE];
        for (int i = 0; i < DIRECTIONS; i++) {
            List<Profile> bin = bins.get(i);
            int at = i * PER_DIRECTION;
            out[at + 2 * HALF] = (float) (Math.log(1 + bin.size()) / Math.log(2) / 10);
            if (bin.size() >= LEAST) {
                bin.sort(Comparator.comparingDouble(Profile::width));
                pool(bin, NARROWER, out, at);
                pool(bin, MIDDLING, out, at + HALF);
            }
        }
        out[SIZE - 2] = (float) ownVariance;
        out[SIZE - 1] = Double.isNaN(softPx) ? 0 : (float) softPx;
        return out;
    }

    /** Medians of the slopes, folded about the middle and of unit sum. */
    private static void pool(List<Profile> bin, double[] shares, float[] out, int at) {
        List<Profile> used =
                bin.subList((int) (shares[0] * bin.size()), Math.max(4, (int) Math.ceil(shares[1] * bin.size())));
        double[] slopes = new double[2 * BlurReader.REACH + 1];
        double sum = 0;
        for (int i = 0; i < slopes.length; i++) {
            int place = i;
            double[] values =
                    used.stream().mapToDouble(p -> p.slopes[place]).sorted().toArray();
            slopes[i] = values[values.length / 2];
            sum += slopes[i];
        }
        for (int i = 0; i < HALF; i++) {
            out[at + i] = (float) (SCALE * (slopes[BlurReader.REACH + i] + slopes[BlurReader.REACH - i]) / (2 * sum));
        }
    }
}
