package org.rainsieve.raw;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;

/**
 * Finds where the 6×6 array begins by trial: a picture's mean at each of the 36 places of the array, relative to its
 * surroundings, is alike at places of one colour when the phase is right. Every phase has a twin with red and blue
 * exchanged; which of the two it is tell the file's own layout, or the white balance under which the picture is about
 * neutral. Light that looks the same through all filters tells nothing; then the layout stays unknown.
 */
final class SixBySixPhase {
    /** The spread within colours of the second best phase must be at least this many times that of the best. */
    static final double MARGIN = 3;

    /** Red and blue must balance at least this many times better than exchanged. */
    static final double TWIN_MARGIN = 2;

    private final double[] means = new double[36];
    private final double[] levels = new double[36];

    private SixBySixPhase(short[] samples, int width, Region active, int black, int white) {
        int rowsApart = Math.max(6, active.height() / 300 / 6 * 6);
        for (int y = active.y(); y + 6 <= active.bottom(); y += rowsApart) {
            for (int x = active.x(); x + 6 <= active.right(); x += 6) {
                double mean = 0;
                int most = 0;
                for (int i = 0; i < 36; i++) {
                    int sample = samples[(y + i / 6) * width + x + i % 6] & 0xffff;
                    mean += sample / 36.0;
                    most = Math.max(most, sample);
                }
                if (most < white && mean > 0) {
                    for (int i = 0; i < 36; i++) {
                        int sample = samples[(y + i / 6) * width + x + i % 6] & 0xffff;
                        means[i] += sample / mean;
                        levels[i] += sample - black;
                    }
                }
            }
        }
    }

    /**
     * @param active part of the samples that sees light
     * @param declared the layout that the file itself gives as seen from the active part's corner; null without one
     * @param multipliers white balance of red, green and blue
     * @return the pattern as seen from the active part's corner
     */
    static CfaPattern of(
            short[] samples, int width, Region active, int black, int white, CfaPattern declared, double[] multipliers)
            throws RefusedException {
        return new SixBySixPhase(samples, width, active, black, white).pattern(declared, multipliers);
    }

    private CfaPattern pattern(CfaPattern declared, double[] multipliers) throws RefusedException {
        CfaPattern best = null;
        double least = Double.MAX_VALUE;
        double second = Double.MAX_VALUE;
        for (int shift = 0; shift < 36; shift++) {
            CfaPattern pattern = CfaPattern.SIX.shifted(shift % 6, shift / 6);
            double spread = spread(pattern);
            boolean same =
                    best != null && (pattern.equals(best) || exchanged(pattern).equals(best));
            if (spread < least) {
                second = same ? second : least;
                least = spread;
                best = pattern;
            } else if (spread < second && !same) {
                second = spread;
            }
        }
        if (second > MARGIN * least) {
            CfaPattern twin = exchanged(best);
            if (best.equals(declared) || twin.equals(declared)) {
                return declared;
            }
            double straight = imbalance(best, multipliers);
            double turned = imbalance(twin, multipliers);
            if (Math.max(straight, turned) > TWIN_MARGIN * Math.min(straight, turned)) {
                return straight < turned ? best : twin;
            }
        }
        throw new RefusedException(
                "The layout of this sensor's 6×6 colour filters could not be told from the picture with certainty.");
    }

    private static CfaPattern exchanged(CfaPattern pattern) {
        byte[] colours = pattern.colours();
        for (int i = 0; i < colours.length; i++) {
            colours[i] = (byte) (2 - colours[i]);
        }
        return new CfaPattern(6, 6, colours);
    }

    /** How far red and blue lie apart after white balance, as the logarithm of their ratio. */
    private double imbalance(CfaPattern pattern, double[] multipliers) {
        double red = 0;
        double blue = 0;
        for (int i = 0; i < 36; i++) {
            int colour = pattern.colourAt(i % 6, i / 6);
            red += colour == 0 ? levels[i] * multipliers[0] : 0;
            blue += colour == 2 ? levels[i] * multipliers[2] : 0;
        }
        return Math.abs(Math.log(red / blue));
    }

    /** The squared differences from the mean of each colour. */
    private double spread(CfaPattern pattern) {
        double spread = 0;
        for (int colour = 0; colour < 3; colour++) {
            double sum = 0;
            double squares = 0;
            int count = 0;
            for (int i = 0; i < 36; i++) {
                if (pattern.colourAt(i % 6, i / 6) == colour) {
                    sum += means[i];
                    squares += means[i] * means[i];
                    count++;
                }
            }
            spread += squares - sum * sum / count;
        }
        return spread;
    }
}
