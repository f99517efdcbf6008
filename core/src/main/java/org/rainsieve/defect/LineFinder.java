package org.rainsieve.defect;

import java.util.List;
import java.util.Objects;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.noise.NoiseModel;

/**
 * Finds {@link LineFaults} in one whole frame. A line is faulty where it differs, in the same sense along many photosites,
 * from those of its colour on both sides while its neighbours of other colours do not: a lens spreads a wire or a mast over
 * more than one of them. For banding see {@link Banding}.
 */
public final class LineFinder {
    /** In larger frames a part of the photosites tells where lines are suspect, and whether there is banding. */
    private static final int WHOLLY_PX = 4_000_000;

    private static final int MOST_THIN = 4;

    /** A piece is suspect when it differs by this many sd in the mean, each photosite counting at most {@link #MOST_SD}. */
    private static final float SUSPECT_SD = 0.45f;

    /** A line that deviates this much less than one beside it is no line of its own. */
    private static final double REFLECTED = 1.5;

    /** Of the sum of deviations along a line, in units of what chance makes of it, as nearly as independence goes. */
    private static final double CERTAIN = 9;

    private static final float MOST_SD = 4;

    private static final double STRONG_SD = 2;

    /** A faulty line is at least this long, and goes on to the rim, as read-out does, nearly. */
    private static final int SHORTEST = 64;

    private static final double OFF_RIM = 0.04;

    private static final int CHUNK = 32;

    /** Its chunks vary by no more than this many times what noise makes of them, and not quite half of what it is. */
    private static final double UNEVEN = 4;

    /** If more lines than one in this many are faulty, it is a picture of lines. */
    private static final int LINES_TO_A_FAULT = 64;

    /**
     * Share of a line's own excess that its neighbours show if it is light: half of what a Gaussian line of FWHM 1.8 pixels
     * shows there.
     */
    private static final double LIGHT_SHARE = 0.21;

    /** The same, when it is plain at the rim already. */
    private static final float LIGHT_FOR_SURE = 0.5f;

    private static final LineMeans.Figure DEVIATIONS = LineFinder::deviations;

    private final Mosaic mosaic;
    private final CfaPattern pattern;
    private final NoiseModel law;
    private final double[] gains;

    private LineFinder(Mosaic mosaic, NoiseModel law, double[] gains) {
        this.mosaic = mosaic;
        this.pattern = mosaic.pattern();
        this.law = law;
        this.gains = gains;
    }

    /** @param gains white-balance gains, which make the excess of different colours comparable */
    public static LineFaults find(Mosaic mosaic, NoiseModel law, double[] gains) {
        return new LineFinder(mosaic, law, gains).find(true);
    }

    /** @param strongApart whether lines that are hard to miss are looked for first, and apart */
    private LineFaults find(boolean strongApart) {
        float cap = (float) Math.sqrt(law.b().stream().mapToDouble(b -> b).min().orElse(0));
        int thin = Math.max(1, Math.min(MOST_THIN, mosaic.width() * mosaic.height() / WHOLLY_PX));
        LineMeans[] means = LineMeans.of(mosaic, law, Banding.AROUND, thin, Banding::excess, DEVIATIONS);
        List<LineFaults.Line> lines = lines(means[1], strongApart ? STRONG_SD : 0);
        if (strongApart && !lines.isEmpty()) {
            // They would show in all rows (or columns) that are compared with them.
            Mosaic without = new LineFaults(lines, new float[0], new float[0]).repaired(mosaic);
            LineFaults rest = new LineFinder(without, law, gains).find(false);
            return new LineFaults(
                    Stream.concat(lines.stream(), rest.lines().stream()).toList(), rest.rows(), rest.columns());
        }
        float[] rows = Banding.common(means[0].rows(), pattern.height(), cap);
        float[] columns = Banding.common(means[0].ofColumns(), pattern.width(), cap);
        if (rows.length + columns.length == 0) {
            return new LineFaults(lines(means[1], 0), rows, columns);
        }
        LineMeans excess = LineMeans.of(mosaic, law, Banding.AROUND, 1, Banding::excess)[0];
        rows = Banding.common(excess.rows(), pattern.height(), cap);
        columns = Banding.common(excess.ofColumns(), pattern.width(), cap);
        LineFinder evened = new LineFinder(mosaic.with(null, columns, rows), law, gains);
        List<LineFaults.Line> before = lines(means[1], 0);
        // What shows only after evening was made by it.
        lines = evened.lines(LineMeans.of(evened.mosaic, law, 2, thin, DEVIATIONS)[0], 0).stream()
                .filter(line ->
                        before.stream().anyMatch(other -> other.column() == line.column() && other.at() == line.at()))
                .toList();
        for (LineFaults.Line line : lines) {
            float[] added = line.column() ? columns : rows;
            if (added.length > 0) {
                added[line.at()] = 0; // what a fault answers was taken for it, which its sound part must not pay for
            }
        }
        return new LineFaults(lines, rows, columns);
    }

    private List<LineFaults.Line> lines(LineMeans deviations, double leastSd) {
        List<Found> found = Stream.concat(found(true, deviations.ofColumns()), found(false, deviations.rows()))
                .toList();
        List<LineFaults.Line> lines = found.stream()
                .filter(one -> one.fault && one.sd >= leastSd && found.stream().noneMatch(one::comesFrom))
                .map(Found::line)
                .toList();
        return lines.size() > (mosaic.width() + mosaic.height()) / LINES_TO_A_FAULT ? List.of() : lines;
    }

    /**
     * @param sd by which it deviates in the mean, without its sign
     * @param fault false for what belongs to the picture
     */
    private record Found(LineFaults.Line line, double sd, int step, boolean fault) {
        /** A line next to a stronger one is compared with that, and shows its reflection. */
        boolean comesFrom(Found other) {
            return other.line.column() == line.column()
                    && Math.abs(other.line.at() - line.at()) <= 2 * step
                    && other.sd > REFLECTED * sd;
        }
    }

    /** How far from the middle of those on both sides, in sd. */
    private static void deviations(float[][] across, int middle, float[] a, float[] b, float[] out) {
        deviations(
                across[middle - 2],
                across[middle - 1],
                across[middle],
                across[middle + 1],
                across[middle + 2],
                a,
                b,
                out);
    }

    private static void deviations(
            float[] p, float[] q, float[] own, float[] r, float[] s, float[] a, float[] b, float[] out) {
        for (int x = 0; x < out.length; x++) {
            float middle = middle(p[x], q[x], r[x], s[x]);
            float sd = (float) Math.sqrt(a[x] * Math.max(0, middle) + b[x]);
            out[x] = Math.max(-MOST_SD, Math.min(MOST_SD, (own[x] - middle) / sd));
        }
    }

    /** The mean of the middle two. */
    private static float middle(float p, float q, float r, float s) {
        return (Math.max(Math.min(p, q), Math.min(r, s)) + Math.min(Math.max(p, q), Math.max(r, s))) / 2;
    }

    /** @param pieces mean deviation of each line's pieces, in sd */
    private Stream<Found> found(boolean columns, float[][] pieces) {
        int rim = 2 * step(columns);
        return IntStream.range(rim, pieces.length - rim)
                .parallel()
                .mapToObj(at -> {
                    Found bright = found(columns, pieces, at, 1);
                    return bright == null ? found(columns, pieces, at, -1) : bright;
                })
                .filter(Objects::nonNull);
    }

    private Found found(boolean columns, float[][] pieces, int at, int sign) {
        int end = pieces[at].length - 1;
        int rim = sign * pieces[at][0] > sign * pieces[at][end] ? 0 : end;
        float sd = sign * pieces[at][rim];
        if (sd < SUSPECT_SD) {
            return null;
        }
        float beside = sign * (pieces[at - 1][rim] + pieces[at + 1][rim]) / 2;
        return beside > LIGHT_FOR_SURE * sd
                ? new Found(new LineFaults.Line(columns, at, 0, 0), sd, step(columns), false)
                : exact(columns, at, sign);
    }

    private int step(boolean columns) {
        return columns ? pattern.width() : pattern.height();
    }

    /** Where a suspected line begins and ends; null if it is none. */
    private Found exact(boolean columns, int at, int sign) {
        Across own = new Across(columns, at);
        int[] stretch = own.stretch(sign, SUSPECT_SD / 2);
        if (stretch[1] - stretch[0] < SHORTEST) {
            return null;
        }
        stretch = own.stretch(sign, own.meanSd(sign, stretch) / 2);
        int from = stretch[0];
        int to = stretch[1];
        double mean = own.meanSd(sign, stretch);
        if (to - from < SHORTEST || mean * Math.sqrt(to - from) < CERTAIN) {
            return null;
        }
        int along = own.inSd.length;
        double off = OFF_RIM * along;
        boolean fault = (from <= off || to >= along - off)
                && own.even(from, to, sign * mean)
                && beside(columns, at, stretch) < LIGHT_SHARE * sign * own.excess(stretch);
        return new Found(new LineFaults.Line(columns, at, from, to), mean, step(columns), fault);
    }

    /** At an edge both neighbours deviate, too, one of them to the other side. */
    private double beside(boolean columns, int at, int[] stretch) {
        return Math.max(
                Math.abs(new Across(columns, at - 1).excess(stretch)),
                Math.abs(new Across(columns, at + 1).excess(stretch)));
    }

    /** How far each photosite of one line is from the middle of its colour on both sides. */
    private final class Across {
        /** In sd, each counting so much at most. */
        private final float[] inSd;

        /** Balanced, 1.0 = clipping. */
        private final float[] balanced;

        Across(boolean column, int at) {
            int along = column ? mosaic.height() : mosaic.width();
            int step = step(column);
            inSd = new float[along];
            balanced = new float[along];
            for (int i = 0; i < along; i++) {
                float p = value(column, at - 2 * step, i);
                float q = value(column, at - step, i);
                float r = value(column, at + step, i);
                float s = value(column, at + 2 * step, i);
                float middle = middle(p, q, r, s);
                float d = value(column, at, i) - middle;
                int colour = column ? pattern.colourAt(at, i) : pattern.colourAt(i, at);
                float sd = (float) Math.sqrt(law.variance(colour, middle));
                inSd[i] = Math.max(-MOST_SD, Math.min(MOST_SD, d / sd));
                balanced[i] = (float) gains[colour] * d;
            }
        }

        private float value(boolean column, int at, int i) {
            return column ? mosaic.at(mosaic.column(at), i) : mosaic.at(i, mosaic.row(at));
        }

        /** The stretch that stands out most: the largest sum of what lies above a drift. */
        int[] stretch(int sign, double drift) {
            double best = 0;
            double sum = 0;
            int start = 0;
            int[] stretch = new int[2];
            for (int i = 0; i < inSd.length; i++) {
                sum += sign * inSd[i] - drift;
                if (sum <= 0) {
                    sum = 0;
                    start = i + 1;
                } else if (sum > best) {
                    best = sum;
                    stretch[0] = start;
                    stretch[1] = i + 1;
                }
            }
            return stretch;
        }

        double meanSd(int sign, int[] stretch) {
            double sum = 0;
            for (int i = stretch[0]; i < stretch[1]; i++) {
                sum += sign * inSd[i];
            }
            return sum / Math.max(1, stretch[1] - stretch[0]);
        }

        double excess(int[] stretch) {
            double sum = 0;
            for (int i = stretch[0]; i < stretch[1]; i++) {
                sum += balanced[i];
            }
            return sum;
        }

        /** A fault is the same all along, as far as noise lets it be seen; what belongs to the picture is not. */
        boolean even(int from, int to, double mean) {
            double squares = 0;
            int chunks = (to - from) / CHUNK;
            for (int k = 0; k < chunks; k++) {
                double sum = 0;
                for (int i = from + k * CHUNK; i < from + (k + 1) * CHUNK; i++) {
                    sum += inSd[i];
                }
                squares += Math.pow(sum / CHUNK - mean, 2);
            }
            // A photosite less the middle of four varies by about 1.3 sd².
            return squares / chunks < UNEVEN * 1.3 / CHUNK + 0.2 * mean * mean;
        }
    }
}
