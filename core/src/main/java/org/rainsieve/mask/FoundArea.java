package org.rainsieve.mask;

import java.util.ArrayDeque;
import org.rainsieve.primitives.Smoothstep;

/**
 * What was found in a frame, cell by cell: 1 inside, 0 outside, 0.5 on the rim.
 *
 * @param strength columns · rows
 */
public record FoundArea(int columns, int rows, int cellPx, float[] strength) {
    /** Texture has more fine structure than the edge of a step with the same blur. */
    private static final double TEXTURE = 0.68;

    /** How sharply what is in focus is told from what is not, in natural logarithms of the bands' ratio. */
    private static final double SLOPE = 0.15;

    /** Where nothing is known it is out of focus, with this weight: what is smooth is mostly background. */
    private static final double UNKNOWN = 0.3;

    private static final double CHROMA = 0.2;
    private static final double LIGHTNESS = 2.5;
    private static final double TEXTURES = 6;
    private static final double FOCUS = 0.155;

    /** Clearly inside and clearly outside. */
    private static final float IN = 0.7f;

    private static final float OUT = 0.3f;

    /** Less of a frame is no more than rain or grain; with more there is no other part to speak of. Chosen by looking. */
    private static final double LEAST_PERCENT = 0.5;

    private static final double MOST_PERCENT = 90;

    /** Whether the frame has both: what lies inside and what lies outside. */
    public boolean tellsApart() {
        double inside = percent();
        return inside >= LEAST_PERCENT && inside <= MOST_PERCENT;
    }

    /** Share of the frame that lies inside, in %. */
    public double percent() {
        int inside = 0;
        for (float s : strength) {
            inside += s > 0.5f ? 1 : 0;
        }
        return 100.0 * inside / strength.length;
    }

    public static FoundArea of(MaskShape shape, FrameLook look) {
        float[] field = shape instanceof MaskShape.FromSpot spot
                ? fromSpot(look, spot)
                : inFocus(look, ((MaskShape.InFocus) shape).limitPx());
        float[] strength = new float[field.length];
        for (int i = 0; i < field.length; i++) {
            strength[i] = (float) Smoothstep.at((field[i] - OUT) / (IN - OUT));
        }
        return new FoundArea(look.columns(), look.rows(), look.cellPx(), strength);
    }

    /** Energy of the edge of a step in the fine band over that in the coarse one, after a blur of so many bins. */
    static double stepRatio(double sigma) {
        return energy(FrameLook.SIGMAS[0], FrameLook.SIGMAS[1], sigma)
                / energy(FrameLook.SIGMAS[1], FrameLook.SIGMAS[2], sigma);
    }

    /** ∫(Φ(x/p) − Φ(x/q))² dx but for a factor. */
    private static double energy(double fine, double coarse, double sigma) {
        double p = Math.hypot(fine, sigma);
        double q = Math.hypot(coarse, sigma);
        return Math.hypot(p, q) - (p + q) / Math.sqrt(2);
    }

    private static float[] inFocus(FrameLook look, double limitPx) {
        int n = look.columns() * look.rows();
        float[] wanted = new float[n];
        float[] known = new float[n];
        double limit = Math.log(stepRatio(TEXTURE * limitPx / look.binPx()));
        for (int i = 0; i < n; i++) {
            double fine = look.fine()[i];
            double coarse = look.coarse()[i];
            double fineNoise = look.fineNoise()[i] + 1e-12;
            double coarseNoise = look.coarseNoise()[i] + 1e-12;
            double ratio = Math.log(Math.max(fine, 0.3 * fineNoise) / Math.max(coarse, 0.3 * coarseNoise));
            double sharp = 1 / (1 + Math.exp((limit - ratio) / SLOPE));
            double told = ramp(coarse / coarseNoise, 0.6, 2) * (sharp * ramp(fine / fineNoise, 0.4, 1.2) + 1 - sharp);
            double all = told + UNKNOWN * (1 - told);
            wanted[i] = (float) (told * sharp / all);
            known[i] = (float) all;
        }
        return Spreading.solve(look, wanted, known);
    }

    private static float[] fromSpot(FrameLook look, MaskShape.FromSpot spot) {
        int w = look.columns();
        int h = look.rows();
        int column = Math.max(0, Math.min(w - 1, (int) (spot.x() / look.cellPx())));
        int row = Math.max(0, Math.min(h - 1, (int) (spot.y() / look.cellPx())));
        float[] focus = inFocus(look, MaskShape.InFocus.USUAL.limitPx());
        double[] scales = {CHROMA, CHROMA, LIGHTNESS, TEXTURES, FOCUS};
        double[] here = new double[scales.length];
        double[] mean = new double[scales.length];
        int count = 0;
        for (int y = Math.max(0, row - 2); y <= Math.min(h - 1, row + 2); y++) {
            for (int x = Math.max(0, column - 2); x <= Math.min(w - 1, column + 2); x++) {
                features(look, focus, y * w + x, here);
                for (int k = 0; k < mean.length; k++) {
                    mean[k] += here[k];
                }
                count++;
            }
        }
        float[] wanted = new float[w * h];
        float[] known = new float[w * h];
        for (int i = 0; i < wanted.length; i++) {
            features(look, focus, i, here);
            double apart = 0;
            for (int k = 0; k < mean.length; k++) {
                double d = (here[k] - mean[k] / count) / scales[k];
                apart += d * d;
            }
            double alike = 1 / (1 + Math.exp(apart - spot.reach()));
            wanted[i] = (float) alike;
            known[i] = (float) (0.1 + 0.9 * Math.abs(2 * alike - 1));
            if (Math.hypot(i % w - column, (double) (i / w) - row) <= 2) {
                wanted[i] = 1;
                known[i] = 3;
            }
        }
        return together(Spreading.solve(look, wanted, known), w, row * w + column);
    }

    /** Red and blue in the sum, its logarithm, texture against it, and how much in focus. */
    private static void features(FrameLook look, float[] focus, int i, double[] out) {
        double red = square(look.colour(0)[i]);
        double green = square(look.colour(1)[i]);
        double blue = square(look.colour(2)[i]);
        double sum = red + green + blue + 1e-3;
        double structure = Math.max(0, look.fine()[i])
                + Math.max(0, look.coarse()[i])
                + 0.3 * (look.fineNoise()[i] + look.coarseNoise()[i]);
        out[0] = red / sum;
        out[1] = blue / sum;
        out[2] = Math.log(sum + 0.003);
        out[3] = Math.log(structure / square(sum / 3) + 1e-4) / 2;
        out[4] = focus[i];
    }

    /** What is inside and hangs together with the place; the rest of the field is kept below the rim. */
    private static float[] together(float[] field, int w, int from) {
        boolean[] reached = new boolean[field.length];
        ArrayDeque<Integer> open = new ArrayDeque<>();
        open.add(from);
        reached[from] = true;
        while (!open.isEmpty()) {
            int i = open.poll();
            int[] next = {i % w > 0 ? i - 1 : -1, i % w < w - 1 ? i + 1 : -1, i - w, i + w};
            for (int j : next) {
                // The rim itself belongs to it, or it would end in steps.
                if (j >= 0 && j < field.length && !reached[j] && field[j] > OUT) {
                    reached[j] = true;
                    if (field[j] > 0.5f) {
                        open.add(j);
                    }
                }
            }
        }
        float[] out = field.clone();
        for (int i = 0; i < out.length; i++) {
            out[i] = reached[i] ? out[i] : Math.min(out[i], OUT);
        }
        return out;
    }

    private static double square(double v) {
        return v * v;
    }

    private static double ramp(double value, double from, double to) {
        return Math.max(0, Math.min(1, (value - from) / (to - from)));
    }

    /** Between the cells' middles on straight lines; beyond the outermost as these. */
    public float at(double x, double y) {
        double u = Math.max(0, Math.min(columns - 1.0, (x + 0.5) / cellPx - 0.5));
        double v = Math.max(0, Math.min(rows - 1.0, (y + 0.5) / cellPx - 0.5));
        int x0 = Math.min(columns - 1, (int) u);
        int y0 = Math.min(rows - 1, (int) v);
        int x1 = Math.min(columns - 1, x0 + 1);
        int y1 = Math.min(rows - 1, y0 + 1);
        float fx = (float) (u - x0);
        float fy = (float) (v - y0);
        float top = strength[y0 * columns + x0] * (1 - fx) + strength[y0 * columns + x1] * fx;
        float bottom = strength[y1 * columns + x0] * (1 - fx) + strength[y1 * columns + x1] * fx;
        return top * (1 - fy) + bottom * fy;
    }
}
