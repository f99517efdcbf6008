package org.rainsieve.sharpen;

import java.nio.FloatBuffer;
import java.util.Arrays;
import java.util.List;
import org.rainsieve.frame.Region;
import org.rainsieve.network.ReleasedModels;
import org.rainsieve.noise.RootScale;

/**
 * What a network makes of a blurred luminance, told its blur and its noise (see docs/learned.md). It is given what the plain filter makes
 * of it, the blurred picture, and what an inverse filter finds as if there were no noise; by cells of 2 × 2 px.
 */
public final class LearnedDetail {
    /**
     * Planes in, the first twelve in {@link #SCALE}: four positions of luminance as the plain filter sharpens it, of the blurred
     * picture, and of the strong inverse; the sd of its grain; the soft part, the disc, the line, and the cosine and sine of twice its
     * angle times the line.
     */
    public static final int PLANES_IN = 18;

    /** Planes out: four positions of luminance. */
    public static final int PLANES_OUT = 4;

    public static final RootScale SCALE = new RootScale(0.002f);

    /** The network's reach in px: six convolutions on cells and two on cells of cells, and what aligns them. */
    static final int REACH_PX = 24;

    static final ReleasedModels MODELS = new ReleasedModels(List.of("sharpen-1"), "to sharpen by plain rules");

    private LearnedDetail() {}

    /**
     * Luminance with its blur taken back.
     *
     * @param model its hash
     * @return over the evidence's region; nothing to be relied on nearer than {@link #REACH_PX} to its border
     */
    static float[] sharpened(String model, Sharpening.Evidence evidence, PointSpread told) {
        Region region = evidence.tile().region();
        int across = region.width() / 2;
        int down = region.height() / 2;
        float[] sharp = new float[Math.toIntExact(region.area())];
        MODELS.network(model)
                .run(
                        across,
                        down,
                        input -> write(evidence, told, region, input),
                        PLANES_OUT,
                        answer -> read(answer, across, down, evidence.white(), sharp));
        return sharp;
    }

    /**
     * Writes a part of the evidence as planes.
     *
     * @param told the blur; how soft it is at each place is told by the evidence
     * @param part of even sides
     */
    public static void write(Sharpening.Evidence evidence, PointSpread told, Region part, FloatBuffer to) {
        SharpenTile tile = evidence.tile();
        Region region = tile.region();
        int across = part.width() / 2;
        int cells = across * (part.height() / 2);
        float[] sd = new float[cells];
        float[] soft = new float[cells];
        float[][] rows = new float[3][part.width()];
        float[] scaled = new float[part.width()];
        // White was 1 in all that the network has seen.
        float unit = 1 / evidence.white();
        for (int y = 0; y < part.height(); y++) {
            int from = (part.y() - region.y() + y) * region.width() + part.x() - region.x();
            for (int x = 0; x < part.width(); x++) {
                int at = from + x;
                float here = unit * tile.luminance()[at];
                rows[0][x] = here + unit * (tile.fine()[at] + tile.coarse()[at]);
                rows[1][x] = here;
                rows[2][x] = unit * evidence.strong()[at];
                int cell = y / 2 * across + x / 2;
                sd[cell] +=
                        unit * (float) Math.sqrt(evidence.variance()[at] / (Math.max(0, here) + SCALE.offset())) / 8;
                soft[cell] += evidence.softPx()[at] / (float) (4 * PointSpread.LARGEST_SOFT_PX);
            }
            for (int p = 0; p < 3; p++) {
                SCALE.forward(rows[p], scaled);
                for (int x = 0; x < part.width(); x++) {
                    to.put((4 * p + y % 2 * 2 + x % 2) * cells + y / 2 * across + x / 2, scaled[x]);
                }
            }
        }
        to.put(12 * cells, sd);
        to.put(13 * cells, soft);
        double angle = Math.toRadians(2 * told.lineAngleDegrees());
        float line = (float) (told.linePx() / PointSpread.LARGEST_LINE_PX);
        float[] shape = {
            (float) (told.discPx() / PointSpread.LARGEST_DISC_PX),
            line,
            (float) (line * Math.cos(angle)),
            (float) (line * Math.sin(angle))
        };
        for (int k = 0; k < shape.length; k++) {
            Arrays.fill(sd, shape[k]);
            to.put((14 + k) * cells, sd);
        }
    }

    private static void read(FloatBuffer answer, int across, int down, float white, float[] to) {
        float[] row = new float[across];
        float[] light = new float[across];
        for (int k = 0; k < PLANES_OUT; k++) {
            for (int y = 0; y < down; y++) {
                answer.get((k * down + y) * across, row);
                SCALE.inverse(row, light);
                int line = (2 * y + (k >> 1)) * 2 * across + (k & 1);
                for (int x = 0; x < across; x++) {
                    to[line + 2 * x] = white * light[x];
                }
            }
        }
    }
}
