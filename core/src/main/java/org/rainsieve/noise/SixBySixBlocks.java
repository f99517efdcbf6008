package org.rainsieve.noise;

import java.util.Arrays;
import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;

/**
 * The blocks of a 6×6 mosaic for {@link SensorNoiseFit}: 24×24 pixels, in which fine differences are taken in the squares of
 * four greens and, around each green that stands alone, across the four reds and the four blues that surround it.
 */
final class SixBySixBlocks {
    private static final int BLOCK = 24;

    /** For small frames, of which there would be too few of the others. */
    private static final int SMALL_BLOCK = 12;

    private static final int FEW_BLOCKS = 200;
    private static final int MOST_PLACES = 12_000;

    /** Every square of 3×3 has five greens. */
    private static final int CELL = 3;

    private static final int GREENS_IN_CELL = 5;

    private SixBySixBlocks() {}

    static void read(Mosaic mosaic, NoiseReader.Steps steps, SensorNoiseFit fit) {
        // Differences reach two pixels beyond their block.
        int large = (mosaic.width() - 4) / BLOCK * ((mosaic.height() - 4) / BLOCK);
        int block = large < FEW_BLOCKS ? SMALL_BLOCK : BLOCK;
        int across = (mosaic.width() - 4) / block;
        int down = (mosaic.height() - 4) / block;
        int stride = Math.max(1, (int) Math.sqrt(across * (double) down / MOST_PLACES));
        IntStream.range(0, down / stride).parallel().forEach(row -> {
            for (int column = 0; column < across / stride; column++) {
                readBlock(mosaic.pattern(), steps, 2 + column * stride * block, 2 + row * stride * block, block, fit);
            }
        });
    }

    private static void readBlock(
            CfaPattern pattern, NoiseReader.Steps steps, int x0, int y0, int side, SensorNoiseFit fit) {
        double[] sums = new double[3];
        int[] counts = new int[3];
        int[] cut = new int[3];
        int cells = side / CELL;
        double[] greens = new double[cells * cells];
        float[][] fine = new float[3][side * side / 9];
        int[] n = new int[3];
        for (int y = y0; y < y0 + side; y++) {
            for (int x = x0; x < x0 + side; x++) {
                int colour = pattern.colourAt(x, y);
                float value = steps.at(x, y);
                sums[colour] += value;
                counts[colour]++;
                cut[colour] += steps.cut(x, y) ? 1 : 0;
                if (colour != 1) {
                    continue;
                }
                greens[(y - y0) / CELL * cells + (x - x0) / CELL] += value / GREENS_IN_CELL;
                boolean right = pattern.colourAt(x + 1, y) == 1;
                boolean below = pattern.colourAt(x, y + 1) == 1;
                if (right && below) {
                    fine[1][n[1]++] =
                            Math.abs(steps.at(x, y) - steps.at(x + 1, y) - steps.at(x, y + 1) + steps.at(x + 1, y + 1))
                                    / 2;
                } else if (!right && !below && pattern.colourAt(x - 1, y) != 1 && pattern.colourAt(x, y - 1) != 1) {
                    int beside = pattern.colourAt(x + 1, y);
                    fine[beside][n[beside]++] = around(steps, x, y, 1, 2);
                    fine[2 - beside][n[2 - beside]++] = around(steps, x, y, 2, 1);
                }
            }
        }
        float structure = structure(greens, cells);
        for (int c = 0; c < 3; c++) {
            fit.add(
                    c,
                    (float) (sums[c] / counts[c]),
                    Arrays.copyOf(fine[c], n[c]),
                    structure,
                    (double) cut[c] / counts[c]);
        }
    }

    /**
     * Mean square of the differences between the greens of neighbouring cells (Haar's, in three directions), for all colours:
     * texture is in all of them.
     */
    private static float structure(double[] g, int cells) {
        double sum = 0;
        for (int y = 0; y < cells; y += 2) {
            for (int x = 0; x < cells; x += 2) {
                int i = y * cells + x;
                double p = g[i];
                double q = g[i + 1];
                double r = g[i + cells];
                double s = g[i + cells + 1];
                sum += Math.pow(p - q + r - s, 2) + Math.pow(p + q - r - s, 2) + Math.pow(p - q - r + s, 2);
            }
        }
        return (float) (sum / g.length);
    }

    private static float around(NoiseReader.Steps steps, int x, int y, int dx, int dy) {
        return Math.abs(steps.at(x - dx, y) + steps.at(x + dx, y) - steps.at(x, y - dy) - steps.at(x, y + dy)) / 2;
    }
}
