package org.rainsieve.denoise;

import java.nio.FloatBuffer;
import java.util.Arrays;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Censoring;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.RootScale;
import org.rainsieve.noise.SensorNoise;

/**
 * A tile of a mosaic as the planes that a network reads, white-balanced and in a {@link RootScale}. 2×2: the four of the mosaic;
 * 6×6: {@link NearColours} at four positions each, and four that tell whose photosite stands there (red −1, green 0, blue 1). Then
 * for each colour its noise's sd far above black and at black; and, for networks that know of it, how near to black the sensor
 * cuts its noise (see {@link Censoring}).
 */
final class MosaicPlanes {
    private static final int BAYER_PLANES = 4;
    private static final int SIX_PLANES = 16;
    private static final int NOISE_PLANES = 6;
    private static final int PERIOD = 6;

    private final Planes noisy;
    private final CfaPattern pattern;
    private final double[] gains;
    private final RootScale scale;
    private final CellGrid grid;

    MosaicPlanes(Planes noisy, CfaPattern pattern, double[] gains, RootScale scale, CellGrid grid) {
        this.noisy = noisy;
        this.pattern = pattern;
        this.gains = gains;
        this.scale = scale;
        this.grid = grid;
    }

    /** Planes of the mosaic and of its noise, without what only newer networks are told. */
    static int least(CfaPattern pattern) {
        return (pattern.isBayer() ? BAYER_PLANES : SIX_PLANES) + NOISE_PLANES;
    }

    /** @param planes that the network reads */
    void write(FloatBuffer input, int planes, SensorNoise noise) {
        int mosaic = pattern.isBayer() ? BAYER_PLANES : SIX_PLANES;
        if (pattern.isBayer()) {
            writeBayer(input);
        } else {
            writeSix(input);
        }
        NoiseModel law = noise.law();
        float[] level = new float[grid.count()];
        for (int c = 0; c < 3; c++) {
            Arrays.fill(level, scale.brightSd(law.a().get(c) * gains[c]));
            input.put((mosaic + c) * grid.count(), level);
            Arrays.fill(level, scale.darkSd(law.b().get(c) * gains[c] * gains[c]));
            input.put((mosaic + 3 + c) * grid.count(), level);
        }
        if (planes > mosaic + NOISE_PLANES) {
            Arrays.fill(level, Censoring.nearness(noise.floor(), law.b().get(1)));
            input.put((mosaic + NOISE_PLANES) * grid.count(), level);
        }
    }

    private void writeBayer(FloatBuffer input) {
        Region r = noisy.region();
        float[] row = new float[grid.across()];
        float[] scaled = new float[grid.across()];
        for (int k = 0; k < BAYER_PLANES; k++) {
            int colour = pattern.colourAt(grid.left() + (k & 1), grid.top() + (k >> 1));
            float gain = (float) gains[colour];
            for (int cy = 0; cy < grid.down(); cy++) {
                // Beyond the region nothing matters; it repeats the last cell there.
                int y = CellGrid.inside(grid.top() + 2 * cy + (k >> 1), r.y(), r.bottom(), 2);
                for (int cx = 0; cx < grid.across(); cx++) {
                    int x = CellGrid.inside(grid.left() + 2 * cx + (k & 1), r.x(), r.right(), 2);
                    row[cx] = noisy.channel(0)[noisy.index(x, y)] * gain;
                }
                scale.forward(row, scaled);
                input.put(k * grid.count() + cy * grid.across(), scaled);
            }
        }
    }

    private void writeSix(FloatBuffer input) {
        Region r = noisy.region();
        int w = 2 * grid.across();
        int h = 2 * grid.down();
        float[] mosaic = new float[w * h];
        for (int y = 0; y < h; y++) {
            int fromY = CellGrid.inside(grid.top() + y, r.y(), r.bottom(), PERIOD);
            for (int x = 0; x < w; x++) {
                int fromX = CellGrid.inside(grid.left() + x, r.x(), r.right(), PERIOD);
                float gain = (float) gains[pattern.colourAt(fromX, fromY)];
                mosaic[y * w + x] = scale.forward(noisy.channel(0)[noisy.index(fromX, fromY)] * gain);
            }
        }
        NearColours near = new NearColours(pattern.shifted(grid.left(), grid.top()));
        float[] row = new float[grid.across()];
        for (int plane = 0; plane < SIX_PLANES; plane++) {
            int k = plane % 4;
            int colour = plane / 4;
            for (int cy = 0; cy < grid.down(); cy++) {
                int y = 2 * cy + (k >> 1);
                for (int cx = 0; cx < grid.across(); cx++) {
                    int x = 2 * cx + (k & 1);
                    row[cx] = colour < 3 ? near.at(mosaic, w, h, x, y, colour) : near.colourAt(x, y) - 1;
                }
                input.put(plane * grid.count() + cy * grid.across(), row);
            }
        }
    }
}
