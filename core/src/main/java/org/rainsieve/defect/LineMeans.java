package org.rainsieve.defect;

import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/**
 * Means of a figure of single photosites over pieces of the rows and columns of a frame, such as how far they are from
 * those on both sides.
 *
 * @param columns by piece and column
 * @param rows by row and piece
 */
record LineMeans(float[][] columns, float[][] rows) {
    /** Lines are judged in pieces by this many of their photosites. */
    static final int PIECE = 128;

    private static final int BAND = 64;

    /** A figure of the middle one of photosites that lie across a line, with a and b of their noise. */
    interface Figure {
        /** @param across arrays of photosites, each a step further; the one at {@code middle} is asked about */
        void of(float[][] across, int middle, float[] a, float[] b, float[] out);
    }

    /**
     * @param reach how many steps around are looked at
     * @param thin every so manieth row (in whole patterns) is enough for columns, and piece for rows
     */
    static LineMeans[] of(Mosaic mosaic, NoiseModel law, int reach, int thin, Figure... figures) {
        return new Work(mosaic, law, reach, thin, figures).done();
    }

    /** Piece by piece for each column. */
    float[][] ofColumns() {
        float[][] to = new float[columns[0].length][columns.length];
        for (int i = 0; i < columns.length; i++) {
            for (int j = 0; j < to.length; j++) {
                to[j][i] = columns[i][j];
            }
        }
        return to;
    }

    private static final class Work {
        private final Mosaic mosaic;
        private final CfaPattern pattern;
        private final int reach;
        private final int thin;
        private final Figure[] figures;
        private final int w;
        private final LineMeans[] all;
        /** a and b of each photosite of a row, for each phase of the pattern. */
        private final float[][] shot;

        private final float[][] read;

        Work(Mosaic mosaic, NoiseModel law, int reach, int thin, Figure[] figures) {
            this.mosaic = mosaic;
            this.pattern = mosaic.pattern();
            this.reach = reach;
            this.thin = thin;
            this.figures = figures;
            this.w = mosaic.width();
            this.shot = new float[pattern.height()][w];
            this.read = new float[pattern.height()][w];
            for (int y = 0; y < pattern.height(); y++) {
                for (int x = 0; x < w; x++) {
                    int colour = pattern.colourAt(x, y);
                    shot[y][x] = law.a().get(colour).floatValue();
                    read[y][x] = law.b().get(colour).floatValue();
                }
            }
            // What is left over at the end is too short to tell anything for itself.
            int down = Math.max(1, mosaic.height() / (thin * PIECE));
            int across = Math.max(1, w / PIECE);
            all = new LineMeans[figures.length];
            for (int f = 0; f < all.length; f++) {
                all[f] = new LineMeans(new float[down][w], new float[mosaic.height()][(across + thin - 1) / thin]);
            }
        }

        LineMeans[] done() {
            int down = all[0].columns.length;
            IntStream.range(0, down).parallel().forEach(piece -> {
                int begin = piece * thin * PIECE;
                int end = piece == down - 1 ? mosaic.height() : begin + thin * PIECE;
                for (int top = begin; top < end; top += BAND) {
                    band(top, Math.min(BAND, end - top), piece);
                }
                long taken = IntStream.range(begin, end).filter(this::taken).count();
                for (LineMeans means : all) {
                    for (int x = 0; x < w; x++) {
                        means.columns[piece][x] /= taken;
                    }
                }
            });
            return all;
        }

        private boolean taken(int y) {
            return y / pattern.height() % thin == 0;
        }

        private void band(int top, int rows, int piece) {
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
                if (taken(top + y)) {
                    for (int k = 0; k <= 2 * reach; k++) {
                        System.arraycopy(m, (padY + y) * stride + k * pattern.width(), shifted[k], 0, w);
                    }
                    int phase = (top + y) % pattern.height();
                    for (int f = 0; f < figures.length; f++) {
                        figures[f].of(shifted, reach, shot[phase], read[phase], out);
                        add(out, all[f].columns[piece]);
                    }
                }
            }
            int length = Math.min(PIECE, w);
            float[][] part = new float[2 * reach + 1][length];
            float[] a = new float[length];
            float[] b = new float[length];
            float[] of = new float[length];
            for (int p = 0; p < all[0].rows[0].length; p++) {
                int left = p * thin * PIECE;
                for (int y = 0; y < rows; y++) {
                    int phase = (top + y) % pattern.height();
                    System.arraycopy(shot[phase], left, a, 0, length);
                    System.arraycopy(read[phase], left, b, 0, length);
                    for (int k = 0; k <= 2 * reach; k++) {
                        System.arraycopy(m, (y + k * pattern.height()) * stride + padX + left, part[k], 0, length);
                    }
                    for (int f = 0; f < figures.length; f++) {
                        figures[f].of(part, reach, a, b, of);
                        all[f].rows[top + y][p] = mean(of);
                    }
                }
            }
        }

        private static float mean(float[] values) {
            float sum = 0;
            for (float value : values) {
                sum += value;
            }
            return sum / values.length;
        }

        private static void add(float[] from, float[] to) {
            for (int x = 0; x < to.length; x++) {
                to[x] += from[x];
            }
        }
    }
}
