package org.rainsieve.demosaic;

import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.RootScale;

/**
 * Directional demosaicing with a posteriori decision and refinement for 2×2 mosaics: Menon, Andriani, Calvagno, IEEE TIP
 * 16(1), 2007. The decision (horizontal or vertical) can be taken on one mosaic and applied to another; given the
 * decision, everything is linear in the mosaic.
 */
public final class MenonDemosaic implements Demosaic {
    public static final int MARGIN = 12;

    /**
     * What differences of one colour count in the decision beside those of chrominance, which the paper takes alone: fine stripes
     * of two colours have as smooth a chrominance across as along, and come out grey. Photographs gain 0.1 dB.
     */
    private static final float SAME_COLOUR = 0.25f;

    private final CfaPattern pattern;
    private final float[] gains;
    private final RootScale scale;

    /** See {@link Demosaic#of}. */
    public MenonDemosaic(CfaPattern pattern, double[] gains, RootScale scale) {
        if (!pattern.isBayer()) {
            throw new IllegalArgumentException("This demosaic is for 2×2 mosaics, not " + pattern);
        }
        this.pattern = pattern;
        this.scale = scale;
        this.gains = new float[] {(float) gains[0], (float) gains[1], (float) gains[2]};
    }

    @Override
    public int margin() {
        return MARGIN;
    }

    private float[] balanced(Planes mosaic) {
        Region r = mosaic.region();
        float[] out = mosaic.channel(0).clone();
        for (int y = 0; y < r.height(); y++) {
            float even = gains[pattern.colourAt(r.x(), r.y() + y)];
            float odd = gains[pattern.colourAt(r.x() + 1, r.y() + y)];
            for (int x = 0, i = y * r.width(); x < r.width(); x++, i++) {
                out[i] *= (x & 1) == 0 ? even : odd;
            }
        }
        if (scale != null) {
            float[] scaled = new float[out.length];
            scale.forward(out, scaled);
            return scaled;
        }
        return out;
    }

    /** 1 where the horizontal neighbours are to be trusted, 0 for the vertical ones. */
    @Override
    public byte[] decide(Planes mosaic) {
        Region r = mosaic.region();
        int w = r.width();
        int h = r.height();
        float[] m = balanced(mosaic);
        float[] chromaH = new float[m.length];
        float[] chromaV = new float[m.length];
        for (int y = 2; y < h - 2; y++) {
            for (int x = 2 + greenOffset(r.x() + 2, r.y() + y); x < w - 2; x += 2) {
                int i = y * w + x;
                chromaH[i] = m[i] - greenAcross(m, i, 1);
                chromaV[i] = m[i] - greenAcross(m, i, w);
            }
        }
        // |C(x) − C(x+2)| in each direction; of chrominance zero at green positions, as in the paper's planes.
        float[] stepH = new float[m.length];
        float[] stepV = new float[m.length];
        for (int y = 2; y < h - 4; y++) {
            for (int i = y * w + 2; i < y * w + w - 4; i++) {
                stepH[i] = Math.abs(chromaH[i] - chromaH[i + 2]) + SAME_COLOUR * Math.abs(m[i] - m[i + 2]);
                stepV[i] = Math.abs(chromaV[i] - chromaV[i + 2 * w]) + SAME_COLOUR * Math.abs(m[i] - m[i + 2 * w]);
            }
        }
        byte[] horizontal = new byte[m.length];
        for (int y = 4; y < h - 4; y++) {
            for (int i = y * w + 4; i < y * w + w - 4; i++) {
                // The 5×5 window of the paper looks from the step's first end in each direction.
                float sumH = 3 * (stepH[i] + stepH[i - 2])
                        + stepH[i - 1 - w]
                        + stepH[i - 1 + w]
                        + stepH[i - 2 * w]
                        + stepH[i - 2 - 2 * w]
                        + stepH[i + 2 * w]
                        + stepH[i - 2 + 2 * w];
                float sumV = 3 * (stepV[i] + stepV[i - 2 * w])
                        + stepV[i - w - 1]
                        + stepV[i - w + 1]
                        + stepV[i - 2]
                        + stepV[i - 2 - 2 * w]
                        + stepV[i + 2]
                        + stepV[i + 2 - 2 * w];
                horizontal[i] = (byte) (sumV >= sumH ? 1 : 0);
            }
        }
        return horizontal;
    }

    @Override
    public void interpolate(Planes mosaic, byte[] horizontal, Planes out) {
        Region r = mosaic.region();
        if (!r.contains(out.region().grow(MARGIN))) {
            throw new IllegalArgumentException("The mosaic does not reach far enough around " + out.region());
        }
        int w = r.width();
        int h = r.height();
        float[] m = balanced(mosaic);
        float[] g = m.clone();
        for (int y = 2; y < h - 2; y++) {
            for (int x = 2 + greenOffset(r.x() + 2, r.y() + y); x < w - 2; x += 2) {
                int i = y * w + x;
                g[i] = greenAcross(m, i, horizontal[i] != 0 ? 1 : w);
            }
        }
        float[] red = new float[m.length];
        float[] blue = new float[m.length];
        float[][] colours = {red, null, blue};
        // Red and blue at their own places and at green, along the line on which that colour lies.
        for (int y = 3; y < h - 3; y++) {
            int first = 3 + greenOffset(r.x() + 3, r.y() + y);
            int across = pattern.colourAt(r.x() + first, r.y() + y);
            float[] own = colours[across];
            float[] other = colours[2 - across];
            for (int i = y * w + first; i < y * w + w - 3; i += 2) {
                own[i] = m[i];
            }
            for (int i = y * w + 7 - first; i < y * w + w - 3; i += 2) {
                own[i] = g[i] + (m[i - 1] - g[i - 1] + m[i + 1] - g[i + 1]) / 2;
                other[i] = g[i] + (m[i - w] - g[i - w] + m[i + w] - g[i + w]) / 2;
            }
        }
        for (int y = 4; y < h - 4; y++) {
            int first = 4 + greenOffset(r.x() + 4, r.y() + y);
            int own = pattern.colourAt(r.x() + first, r.y() + y);
            float[] other = colours[2 - own];
            float[] mine = colours[own];
            for (int i = y * w + first; i < y * w + w - 4; i += 2) {
                int step = horizontal[i] != 0 ? 1 : w;
                other[i] = m[i] + (other[i - step] - mine[i - step] + other[i + step] - mine[i + step]) / 2;
            }
        }
        refine(r, m, g, colours, horizontal);
        copy(r, red, 0, out);
        copy(r, g, 1, out);
        copy(r, blue, 2, out);
    }

    /** The paper's section on updating: each colour again, from averaged colour differences along the decision. */
    private void refine(Region r, float[] m, float[] g, float[][] colours, byte[] horizontal) {
        int w = r.width();
        int h = r.height();
        float[] green = g.clone();
        for (int y = 5; y < h - 5; y++) {
            int first = 5 + greenOffset(r.x() + 5, r.y() + y);
            float[] mine = colours[pattern.colourAt(r.x() + first, r.y() + y)];
            for (int i = y * w + first; i < y * w + w - 5; i += 2) {
                int step = horizontal[i] != 0 ? 1 : w;
                float difference =
                        (mine[i - step] - green[i - step] + mine[i] - green[i] + mine[i + step] - green[i + step]) / 3;
                g[i] = m[i] - difference;
            }
        }
        for (int y = 6; y < h - 6; y++) {
            int first = 6 + 1 - greenOffset(r.x() + 6, r.y() + y);
            int across = pattern.colourAt(r.x() + first + 1, r.y() + y);
            float[] own = colours[across];
            float[] other = colours[2 - across];
            for (int i = y * w + first; i < y * w + w - 6; i += 2) {
                own[i] = m[i] + (m[i - 1] - g[i - 1] + m[i + 1] - g[i + 1]) / 2;
                other[i] = m[i] + (m[i - w] - g[i - w] + m[i + w] - g[i + w]) / 2;
            }
        }
        for (int y = 7; y < h - 7; y++) {
            int first = 7 + greenOffset(r.x() + 7, r.y() + y);
            int own = pattern.colourAt(r.x() + first, r.y() + y);
            float[] other = colours[2 - own];
            float[] mine = colours[own];
            for (int i = y * w + first; i < y * w + w - 7; i += 2) {
                int step = horizontal[i] != 0 ? 1 : w;
                // The average includes the place itself, as first interpolated.
                float difference =
                        (other[i - step] - mine[i - step] + other[i] - mine[i] + other[i + step] - mine[i + step]) / 3;
                other[i] = m[i] + difference;
            }
        }
    }

    /** 0 when (x, y) is red or blue, 1 when it is green: how far the next red or blue of its row is. */
    private int greenOffset(int x, int y) {
        return pattern.colourAt(x, y) == 1 ? 1 : 0;
    }

    private static float greenAcross(float[] m, int i, int step) {
        return (m[i - step] + m[i + step]) / 2 + (2 * m[i] - m[i - 2 * step] - m[i + 2 * step]) / 4;
    }

    private void copy(Region from, float[] plane, int channel, Planes out) {
        Region to = out.region();
        float[] result = out.channel(channel);
        float unbalance = 1 / gains[channel];
        float[] row = new float[to.width()];
        float[] linear = scale == null ? row : new float[to.width()];
        for (int y = to.y(); y < to.bottom(); y++) {
            System.arraycopy(plane, (y - from.y()) * from.width() + to.x() - from.x(), row, 0, row.length);
            if (scale != null) {
                scale.inverse(row, linear);
            }
            int o = out.index(to.x(), y);
            for (int x = 0; x < row.length; x++) {
                result[o + x] = linear[x] * unbalance;
            }
        }
    }
}
