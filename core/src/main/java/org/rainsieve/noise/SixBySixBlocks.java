package org.rainsieve.noise;

import java.util.Arrays;
import java.util.stream.IntStream;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;

/**
 * The blocks of a 6×6 mosaic for {@link NoiseFit}: 24×24 pixels, in which fine differences are taken in the squares of
 * four greens and, around each green that stands alone, across the four reds and the four blues that surround it.
 */
final class SixBySixBlocks {
    private static final int BLOCK = 24;
    private static final int PART = 6;
    private static final int CELLS = BLOCK * BLOCK / 9;
    private static final int MAX_CUT = BLOCK * BLOCK / 20;

    private SixBySixBlocks() {}

    static void read(Mosaic mosaic, NoiseFit[] fits) {
        // Differences reach two pixels beyond their block.
        int across = (mosaic.width() - 4) / BLOCK;
        int down = (mosaic.height() - 4) / BLOCK;
        int stride = Math.max(1, (int) Math.sqrt(across * (double) down / 24000));
        IntStream.range(0, down / stride).parallel().forEach(row -> {
            for (int column = 0; column < across / stride; column++) {
                readBlock(mosaic, 2 + column * stride * BLOCK, 2 + row * stride * BLOCK, fits);
            }
        });
    }

    private static void readBlock(Mosaic mosaic, int x0, int y0, NoiseFit[] fits) {
        CfaPattern pattern = mosaic.pattern();
        double[][] sums = new double[3][BLOCK / PART * BLOCK / PART];
        int[][] counts = new int[3][sums[0].length];
        float[][] fine = new float[3][CELLS];
        int[] n = new int[3];
        int cut = 0;
        for (int y = y0; y < y0 + BLOCK; y++) {
            for (int x = x0; x < x0 + BLOCK; x++) {
                int sample = mosaic.sample(x, y);
                if ((sample >= mosaic.white() || sample == 0) && ++cut > MAX_CUT) {
                    return;
                }
                int colour = pattern.colourAt(x, y);
                int part = (y - y0) / PART * (BLOCK / PART) + (x - x0) / PART;
                sums[colour][part] += mosaic.at(x, y);
                counts[colour][part]++;
                if (colour != 1) {
                    continue;
                }
                boolean right = pattern.colourAt(x + 1, y) == 1;
                boolean below = pattern.colourAt(x, y + 1) == 1;
                if (right && below) {
                    fine[1][n[1]++] = Math.abs(mosaic.at(x, y)
                                    - mosaic.at(x + 1, y)
                                    - mosaic.at(x, y + 1)
                                    + mosaic.at(x + 1, y + 1))
                            / 2;
                } else if (!right && !below && pattern.colourAt(x - 1, y) != 1 && pattern.colourAt(x, y - 1) != 1) {
                    int beside = pattern.colourAt(x + 1, y);
                    fine[beside][n[beside]++] = around(mosaic, x, y, 1, 2);
                    fine[2 - beside][n[2 - beside]++] = around(mosaic, x, y, 2, 1);
                }
            }
        }
        for (int c = 0; c < 3; c++) {
            double mean =
                    Arrays.stream(sums[c]).sum() / Arrays.stream(counts[c]).sum();
            double structure = 0;
            for (int part = 0; part < sums[c].length; part++) {
                structure += Math.pow(sums[c][part] / counts[c][part] - mean, 2);
            }
            Arrays.sort(fine[c]);
            double sd = (fine[c][CELLS / 2 - 1] + fine[c][CELLS / 2]) / 2 / 0.6745;
            fits[c].add((float) mean, (float) (sd * sd), (float) (structure / sums[c].length));
        }
    }

    private static float around(Mosaic mosaic, int x, int y, int dx, int dy) {
        return Math.abs(mosaic.at(x - dx, y) + mosaic.at(x + dx, y) - mosaic.at(x, y - dy) - mosaic.at(x, y + dy)) / 2;
    }
}
