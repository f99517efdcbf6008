package org.rainsieve.noise;

import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Finds {@link LineFaults} in one whole frame. A line is faulty where it differs, in the same sense along many photosites,
 * from those of its colour on both sides while its neighbours of other colours do not: a lens spreads a wire or a mast over
 * more than one of them. Banding is what all parts of a row (or a column) have in common beside the rows around it; it is
 * believed only where the parts agree, and never more of it than the read noise's sd, so that no picture can be taken for it.
 */
public final class LineFinder {
    /** Lines are judged in pieces by this many of their photosites. */
    private static final int PIECE = 128;

    private static final int BAND = 64;

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
    private static final int SHORTEST = 128;

    private static final double OFF_RIM = 0.04;

    private static final int CHUNK = 32;

    /** Its chunks vary by no more than this many times what noise makes of them, and not quite half of what it is. */
    private static final double UNEVEN = 4;

    /** More lines than this are a picture of lines. */
    private static final int MOST_LINES = 400;

    /**
     * Share of a line's own excess that its neighbours show if it is light: half of what a Gaussian line of FWHM 1.8 pixels
     * shows there.
     */
    private static final double LIGHT_SHARE = 0.21;

    /** The same, when it is plain at the rim already. */
    private static final float LIGHT_FOR_SURE = 0.5f;

    /** Rows are compared with so many of their phase of the pattern on each side. */
    private static final int AROUND = 8;

    /** Rows differ when their variance is larger than noise makes it by this share of it. */
    private static final float PRESENT = 0.3f;

    private static final int QUARTERS = 4;

    private static final float CUT_SD = 2.5f;

    private static final Figure EXCESS = LineFinder::excess;

    private static final Figure DEVIATIONS = LineFinder::deviations;

    private final Mosaic mosaic;
    private final CfaPattern pattern;
    private final NoiseModel law;
    private final double[] gains;
    /** a and b of each photosite of a row, for each phase of the pattern. */
    private final float[][] shot;

    private final float[][] read;

    private LineFinder(Mosaic mosaic, NoiseModel law, double[] gains) {
        this.mosaic = mosaic;
        this.pattern = mosaic.pattern();
        this.law = law;
        this.gains = gains;
        this.shot = new float[pattern.height()][mosaic.width()];
        this.read = new float[pattern.height()][mosaic.width()];
        for (int y = 0; y < pattern.height(); y++) {
            for (int x = 0; x < mosaic.width(); x++) {
                int colour = pattern.colourAt(x, y);
                shot[y][x] = law.a().get(colour).floatValue();
                read[y][x] = law.b().get(colour).floatValue();
            }
        }
    }

    /** @param gains white-balance gains, which make the excess of different colours comparable */
    public static LineFaults find(Mosaic mosaic, NoiseModel law, double[] gains) {
        return new LineFinder(mosaic, law, gains).find(true);
    }

    /** @param strongApart whether lines that are hard to miss are looked for first, and apart */
    private LineFaults find(boolean strongApart) {
        float cap = (float) Math.sqrt(law.b().stream().mapToDouble(b -> b).min().orElse(0));
        int thin = Math.max(1, Math.min(MOST_THIN, mosaic.width() * mosaic.height() / WHOLLY_PX));
        Means[] means = means(AROUND, thin, EXCESS, DEVIATIONS);
        List<LineFaults.Line> lines = lines(means[1], strongApart ? STRONG_SD : 0);
        if (strongApart && !lines.isEmpty()) {
            // They would show in all rows (or columns) that are compared with them.
            Mosaic without = new LineFaults(lines, new float[0], new float[0]).repaired(mosaic);
            LineFaults rest = new LineFinder(without, law, gains).find(false);
            return new LineFaults(
                    Stream.concat(lines.stream(), rest.lines().stream()).toList(), rest.rows(), rest.columns());
        }
        float[] rows = common(means[0].rows, pattern.height(), cap);
        float[] columns = common(transposed(means[0].columns), pattern.width(), cap);
        if (rows.length + columns.length == 0) {
            return new LineFaults(lines(means[1], 0), rows, columns);
        }
        Means excess = means(AROUND, 1, EXCESS)[0];
        rows = common(excess.rows, pattern.height(), cap);
        columns = common(transposed(excess.columns), pattern.width(), cap);
        LineFinder evened = new LineFinder(mosaic.with(null, columns, rows), law, gains);
        lines = evened.lines(evened.means(2, thin, DEVIATIONS)[0], 0);
        for (LineFaults.Line line : lines) {
            float[] added = line.column() ? columns : rows;
            if (added.length > 0) {
                added[line.at()] = 0; // what a fault answers was taken for it, which its sound part must not pay for
            }
        }
        return new LineFaults(lines, rows, columns);
    }

    private List<LineFaults.Line> lines(Means deviations, double leastSd) {
        List<Found> found = Stream.concat(found(true, transposed(deviations.columns)), found(false, deviations.rows))
                .toList();
        List<LineFaults.Line> lines = found.stream()
                .filter(one -> one.fault && one.sd >= leastSd && found.stream().noneMatch(one::comesFrom))
                .map(Found::line)
                .toList();
        return lines.size() > MOST_LINES ? List.of() : lines;
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

    private static float[][] transposed(float[][] from) {
        float[][] to = new float[from[0].length][from.length];
        for (int i = 0; i < from.length; i++) {
            for (int j = 0; j < to.length; j++) {
                to[j][i] = from[i][j];
            }
        }
        return to;
    }

    /** Means of a figure over pieces of columns, by piece and column, and over pieces of rows, by row and piece. */
    private record Means(float[][] columns, float[][] rows) {}

    /** A figure of the middle one of photosites that lie across a line, with a and b of their noise. */
    private interface Figure {
        /** @param across arrays of photosites, each a step further; the one at {@code middle} is asked about */
        void of(float[][] across, int middle, float[] a, float[] b, float[] out);
    }

    /**
     * @param reach how many steps around are looked at
     * @param thin every so manieth row (in whole patterns) is enough for columns, and piece for rows
     */
    private Means[] means(int reach, int thin, Figure... figures) {
        int w = mosaic.width();
        int h = mosaic.height();
        int across = (w + PIECE - 1) / PIECE;
        int stretch = thin * PIECE;
        Means[] all = new Means[figures.length];
        for (int f = 0; f < all.length; f++) {
            all[f] = new Means(new float[(h + stretch - 1) / stretch][w], new float[h][(across + thin - 1) / thin]);
        }
        IntStream.range(0, (h + stretch - 1) / stretch).parallel().forEach(piece -> {
            int end = Math.min(h, (piece + 1) * stretch);
            for (int top = piece * stretch; top < end; top += BAND) {
                band(top, Math.min(BAND, end - top), reach, thin, figures, all);
            }
            for (Means means : all) {
                for (int x = 0; x < w; x++) {
                    means.columns[piece][x] *= (float) thin / (end - piece * stretch);
                }
            }
        });
        return all;
    }

    private void band(int top, int rows, int reach, int thin, Figure[] figures, Means[] all) {
        int w = mosaic.width();
        int padX = reach * pattern.width();
        int padY = reach * pattern.height();
        Planes planes = new Planes(new Region(-padX, top - padY, w + 2 * padX, rows + 2 * padY), 1);
        mosaic.fill(planes);
        float[] m = planes.channel(0);
        int stride = w + 2 * padX;
        // Shifted copies: only what lies at equal places of several arrays is worked on several at a time.
        float[][] shifted = new float[2 * reach + 1][w];
        float[] out = new float[w];
        for (int y = 0; y < rows; y++) {
            if ((top + y) / pattern.height() % thin == 0) {
                for (int k = 0; k <= 2 * reach; k++) {
                    System.arraycopy(m, (padY + y) * stride + k * pattern.width(), shifted[k], 0, w);
                }
                int phase = (top + y) % pattern.height();
                for (int f = 0; f < figures.length; f++) {
                    figures[f].of(shifted, reach, shot[phase], read[phase], out);
                    add(out, all[f].columns[top / (thin * PIECE)]);
                }
            }
        }
        float[][] part = new float[2 * reach + 1][PIECE];
        float[] a = new float[PIECE];
        float[] b = new float[PIECE];
        float[] of = new float[PIECE];
        for (int p = 0; p * PIECE < w; p += thin) {
            int left = p * PIECE;
            int length = Math.min(PIECE, w - left);
            for (int y = 0; y < rows; y++) {
                int phase = (top + y) % pattern.height();
                System.arraycopy(shot[phase], left, a, 0, length);
                System.arraycopy(read[phase], left, b, 0, length);
                for (int k = 0; k <= 2 * reach; k++) {
                    System.arraycopy(m, (y + k * pattern.height()) * stride + padX + left, part[k], 0, length);
                }
                for (int f = 0; f < figures.length; f++) {
                    figures[f].of(part, reach, a, b, of);
                    all[f].rows[top + y][p / thin] = mean(of, length);
                }
            }
        }
    }

    private static float mean(float[] values, int length) {
        float sum = 0;
        for (int x = 0; x < length; x++) {
            sum += values[x];
        }
        return sum / length;
    }

    private static void add(float[] from, float[] to) {
        for (int x = 0; x < to.length; x++) {
            to[x] += from[x];
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
            float middle = 0.5f
                    * (Math.max(Math.min(p[x], q[x]), Math.min(r[x], s[x]))
                            + Math.min(Math.max(p[x], q[x]), Math.max(r[x], s[x])));
            float sd = (float) Math.sqrt(a[x] * Math.max(0, middle) + b[x]);
            out[x] = Math.max(-MOST_SD, Math.min(MOST_SD, (own[x] - middle) / sd));
        }
    }

    /** What it has more than the mean of those around; strong structure is cut. */
    private static void excess(float[][] across, int middle, float[] a, float[] b, float[] out) {
        Arrays.fill(out, 0);
        for (int k = 0; k < AROUND; k++) {
            addBoth(across[middle - 1 - k], across[middle + 1 + k], out);
        }
        beyond(across[middle], a, b, out);
    }

    private static void addBoth(float[] one, float[] other, float[] to) {
        for (int x = 0; x < to.length; x++) {
            to[x] += one[x] + other[x];
        }
    }

    private static void beyond(float[] own, float[] a, float[] b, float[] sums) {
        for (int x = 0; x < sums.length; x++) {
            float level = sums[x] * (0.5f / AROUND);
            float cut = CUT_SD * (float) Math.sqrt(a[x] * Math.max(0, level) + b[x]);
            sums[x] = Math.max(-cut, Math.min(cut, own[x] - level));
        }
    }

    /**
     * What the parts of each row have in common.
     *
     * @param parts of each row, how far they lie above the rows around
     * @return empty if the rows do not differ by more than noise lets them
     */
    private static float[] common(float[][] parts, int step, float cap) {
        int n = parts.length;
        int pieces = parts[0].length;
        if (pieces < QUARTERS) {
            return new float[0];
        }
        float[][] quarters = new float[QUARTERS][n];
        float[] middle = new float[n];
        float[] noise = new float[n];
        for (int i = 0; i < n; i++) {
            float[] four = new float[QUARTERS];
            for (int q = 0; q < QUARTERS; q++) {
                int from = q * pieces / QUARTERS;
                int to = (q + 1) * pieces / QUARTERS;
                four[q] = middleHalf(Arrays.copyOfRange(parts[i], from, to));
                quarters[q][i] = four[q];
            }
            middle[i] = middleHalf(four);
            // The middle two of four normal values lie 0.594 sd apart; their mean varies by 0.298 of the variance.
            float sd = (four[2] - four[1]) / 0.594f;
            noise[i] = 0.298f * sd * sd;
        }
        float banding = least(quarters);
        float usual = Math.max(0, variance(middle) - banding);
        if (!(banding > PRESENT * usual)) {
            return new float[0];
        }
        // The rows around have theirs, too: what was taken away with them is put back.
        float[] mean = roundabout(middle, step);
        float[] found = new float[n];
        for (int i = 0; i < n; i++) {
            float share = banding / (banding + Math.max(usual, noise[i]));
            found[i] = Math.max(-cap, Math.min(cap, share * (middle[i] + mean[i])));
        }
        return found;
    }

    /** The least variance that any two quarters share: a picture has hardly anything in common over all of a row. */
    private static float least(float[][] quarters) {
        int n = quarters[0].length;
        float least = Float.MAX_VALUE;
        float[] sum = new float[n];
        float[] difference = new float[n];
        for (int p = 0; p < QUARTERS; p++) {
            for (int q = p + 1; q < QUARTERS; q++) {
                for (int i = 0; i < n; i++) {
                    sum[i] = (quarters[p][i] + quarters[q][i]) / 2;
                    difference[i] = (quarters[p][i] - quarters[q][i]) / 2;
                }
                least = Math.min(least, variance(sum) - variance(difference));
            }
        }
        return least;
    }

    /** The mean of all but the lowest and the highest quarter; the array is put in order. */
    private static float middleHalf(float[] values) {
        Arrays.sort(values);
        int from = values.length / 4;
        float sum = 0;
        for (int k = from; k < values.length - from; k++) {
            sum += values[k];
        }
        return sum / (values.length - 2 * from);
    }

    /** By the median of sizes, as far as these are normal. */
    private static float variance(float[] values) {
        float[] sizes = new float[values.length];
        for (int i = 0; i < sizes.length; i++) {
            sizes[i] = Math.abs(values[i]);
        }
        Arrays.sort(sizes);
        float sd = sizes[sizes.length / 2] / 0.6745f;
        return sd * sd;
    }

    private static float[] roundabout(float[] values, int step) {
        int n = values.length;
        float[] mean = new float[n];
        for (int i = 0; i < n; i++) {
            for (int k = 1; k <= AROUND; k++) {
                mean[i] += values[Math.max(i % step, i - k * step)] + values[Math.min(i + k * step, n - 1)];
            }
            mean[i] /= 2 * AROUND;
        }
        return mean;
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
        double beside = (new Across(columns, at - 1).excess(stretch) + new Across(columns, at + 1).excess(stretch)) / 2;
        double excess = own.excess(stretch);
        boolean fault = (from <= off || to >= along - off)
                && sign * beside < LIGHT_SHARE * sign * excess
                && own.even(from, to, sign * mean);
        return new Found(new LineFaults.Line(columns, at, from, to), mean, step(columns), fault);
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
                float middle =
                        (Math.max(Math.min(p, q), Math.min(r, s)) + Math.min(Math.max(p, q), Math.max(r, s))) / 2;
                float d = value(column, at, i) - middle;
                int colour = column ? pattern.colourAt(at, i) : pattern.colourAt(i, at);
                int x = column ? at : i;
                int phase = (column ? i : at) % pattern.height();
                float sd = (float) Math.sqrt(shot[phase][x] * Math.max(0, middle) + read[phase][x]);
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
