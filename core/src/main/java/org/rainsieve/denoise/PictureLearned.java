package org.rainsieve.denoise;

import java.nio.FloatBuffer;
import java.util.Arrays;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.network.Network;
import org.rainsieve.noise.NoiseModel;

/**
 * {@link Learned} for one picture in full colour, by the network trained for those. Where there is next to no noise its own
 * error is the larger one: there {@link PictureQuick} takes over, by degrees.
 */
final class PictureLearned implements PictureMethod {
    /** Fine luminance noise in {@link PictureLevels#SCALE} up to which the network has no say, and from which it alone has. */
    private static final float NONE = 0.003f;

    private static final float ALL = 0.009f;
    private static final int FINE = 7;

    private static final double[] AS_IT_IS = {1, 1, 1};

    private final Network network;
    private final float[] levels;
    private final float share;
    private final PictureQuick quick;

    PictureLearned(Picture picture, NoiseModel law, Network network) {
        this.network = network;
        this.levels = PictureLevels.of(picture, law);
        float at = Math.max(0, Math.min(1, (levels[FINE] - NONE) / (ALL - NONE)));
        this.share = at * at * (3 - 2 * at);
        this.quick = share < 1 ? new PictureQuick(picture, law) : null;
    }

    @Override
    public int margin() {
        return quick == null ? Learned.MARGIN : Math.max(Learned.MARGIN, quick.margin());
    }

    @Override
    public Planes estimate(Planes noisy) {
        if (share == 0) {
            return quick.estimate(noisy);
        }
        Planes learned = learned(noisy);
        if (share == 1) {
            return learned;
        }
        Planes plain = quick.estimate(noisy);
        for (int c = 0; c < 3; c++) {
            float[] to = learned.channel(c);
            float[] from = plain.channel(c);
            for (int i = 0; i < to.length; i++) {
                to[i] = from[i] + share * (to[i] - from[i]);
            }
        }
        return learned;
    }

    private Planes learned(Planes noisy) {
        Region r = noisy.region();
        CellGrid grid = CellGrid.over(r);
        Planes[] out = new Planes[1];
        network.run(
                grid.across(),
                grid.down(),
                input -> write(noisy, grid, input),
                CellGrid.PLANES,
                answer -> out[0] = grid.picture(answer, r, AS_IT_IS, PictureLevels.SCALE));
        return out[0];
    }

    /** The picture, then what is told of its noise. */
    private void write(Planes noisy, CellGrid grid, FloatBuffer input) {
        Region r = noisy.region();
        float[] row = new float[grid.across()];
        for (int p = 0; p < CellGrid.PLANES; p++) {
            for (int cy = 0; cy < grid.down(); cy++) {
                int y = CellGrid.inside(grid.top() + 2 * cy + (p >> 1 & 1), r.y(), r.bottom(), 2);
                for (int cx = 0; cx < grid.across(); cx++) {
                    int x = CellGrid.inside(grid.left() + 2 * cx + (p & 1), r.x(), r.right(), 2);
                    row[cx] = PictureLevels.SCALE.forward(noisy.at(p / 4, x, y));
                }
                input.put(p * grid.count() + cy * grid.across(), row);
            }
        }
        float[] level = new float[grid.count()];
        for (int k = 0; k < levels.length; k++) {
            Arrays.fill(level, levels[k]);
            input.put((CellGrid.PLANES + k) * grid.count(), level);
        }
    }
}
