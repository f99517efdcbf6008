package org.rainsieve.mask;

import java.util.Arrays;
import java.util.function.Function;
import java.util.function.Supplier;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.primitives.Smoothstep;

/**
 * How strong a mask is at each pixel of any region, from its strokes and settings alone: the same in one large region as in many
 * small ones.
 */
public final class MaskPainter {
    /** Edges are followed within so many pixels. */
    private static final int FOLLOW_PX = 12;

    /** Found areas are refined over two of their cells. */
    private static final int REFINE_PX = 16;

    /** A brush that follows edges keeps to what differs by no more than this from what it went over, in the same roots. */
    private static final double LIKE = 0.06;

    /** Contrasts below this, in square roots of luminance, are no edges. */
    private static final double EDGE = 0.015;

    /** Frame pixels per pixel of the regions asked for. */
    private final double step;

    private final Region bounds;
    private final Function<Region, Planes> estimate;
    private final double[] gains;
    private final Function<MaskShape, FoundArea> found;
    private final Supplier<FrameLook> look;

    /**
     * @param bounds of the frame
     * @param estimate the denoised picture of a region, whose edges are followed
     * @param look of the frame, for brushes that follow edges
     * @param found areas of {@link MaskShape.InFocus} and {@link MaskShape.FromSpot}
     */
    public MaskPainter(
            Region bounds,
            double[] gains,
            Function<Region, Planes> estimate,
            Supplier<FrameLook> look,
            Function<MaskShape, FoundArea> found) {
        this(1, bounds, gains, estimate, look, found);
    }

    private MaskPainter(
            double step,
            Region bounds,
            double[] gains,
            Function<Region, Planes> estimate,
            Supplier<FrameLook> look,
            Function<MaskShape, FoundArea> found) {
        this.step = step;
        this.bounds = bounds;
        this.gains = gains.clone();
        this.estimate = estimate;
        this.look = look;
        this.found = found;
    }

    /** The same for a reduced picture of the frame: quick, for looking at; nothing is refined to edges. */
    public static MaskPainter draft(int framePx, Region reduced, Function<MaskShape, FoundArea> found) {
        double step = (double) framePx / Math.max(reduced.width(), reduced.height());
        return new MaskPainter(step, reduced, new double[] {1, 1, 1}, null, null, found);
    }

    /** Row by row, 0 to 1, opacity included. */
    public float[] strength(Mask mask, Region region) {
        float[] sum = new float[Math.toIntExact(region.area())];
        if (mask.parts().stream().anyMatch(part -> isUntold(part.shape()))) {
            return sum;
        }
        for (MaskPart part : mask.parts()) {
            float[] own = shape(part.shape(), region);
            for (int i = 0; i < sum.length; i++) {
                float p = part.inverted() ? 1 - own[i] : own[i];
                sum[i] = switch (part.join()) {
                    case ADD -> Math.max(sum[i], p);
                    case TAKE -> sum[i] * (1 - p);
                    case OVERLAP -> sum[i] * p;
                };
            }
        }
        float opacity = (float) (mask.opacityPercent() / 100);
        for (int i = 0; i < sum.length; i++) {
            sum[i] = opacity * (mask.inverted() ? 1 - sum[i] : sum[i]);
        }
        return sum;
    }

    private boolean isUntold(MaskShape shape) {
        return shape instanceof MaskShape.InFocus focus
                && focus.ifTold() != null
                && !found.apply(focus).tellsApart();
    }

    private float[] shape(MaskShape given, Region region) {
        MaskShape shape = step == 1 ? given : given.scaled(1 / step);
        if (shape instanceof MaskShape.Brush brush) {
            return brush(brush, region);
        }
        if (shape instanceof MaskShape.Straight line) {
            return straight(line, region);
        }
        if (shape instanceof MaskShape.Round round) {
            return round(round, region);
        }
        FoundArea area = found.apply(given);
        return guided(region, REFINE_PX, (wide, roots) -> {
            float[] out = new float[Math.toIntExact(wide.area())];
            for (int y = 0; y < wide.height(); y++) {
                for (int x = 0; x < wide.width(); x++) {
                    out[y * wide.width() + x] = area.at((wide.x() + x) * step, (wide.y() + y) * step);
                }
            }
            return out;
        });
    }

    private float[] brush(MaskShape.Brush brush, Region region) {
        float[] sum = new float[Math.toIntExact(region.area())];
        for (Stroke stroke : brush.strokes()) {
            if (!reaches(stroke, region)) {
                continue;
            }
            float[] own = stroke.followEdges()
                    ? guided(region, FOLLOW_PX, (wide, roots) -> following(stroke, wide, roots))
                    : new Trail(stroke, region).strength(stroke);
            float opacity = (float) (stroke.opacityPercent() / 100);
            for (int i = 0; i < sum.length; i++) {
                float p = opacity * own[i];
                sum[i] = stroke.erase() ? sum[i] * (1 - p) : sum[i] + (1 - sum[i]) * p;
            }
        }
        return sum;
    }

    private static boolean reaches(Stroke stroke, Region region) {
        double reach = stroke.sizePx() / 2 + 2 * FOLLOW_PX;
        double x0 = Double.MAX_VALUE;
        double y0 = Double.MAX_VALUE;
        double x1 = -Double.MAX_VALUE;
        double y1 = -Double.MAX_VALUE;
        for (int i = 0; i < stroke.points().size(); i += 2) {
            x0 = Math.min(x0, stroke.points().get(i));
            x1 = Math.max(x1, stroke.points().get(i));
            y0 = Math.min(y0, stroke.points().get(i + 1));
            y1 = Math.max(y1, stroke.points().get(i + 1));
        }
        return x1 + reach >= region.x()
                && x0 - reach <= region.right()
                && y1 + reach >= region.y()
                && y0 - reach <= region.bottom();
    }

    /** Keeps to what looks like the places that the brush went over. */
    private float[] following(Stroke stroke, Region region, float[][] roots) {
        Trail trail = new Trail(stroke, region);
        float[] strength = trail.strength(stroke);
        if (roots == null) {
            return strength;
        }
        float[][] colours = new float[stroke.points().size() / 2][];
        for (int k = 0; k < colours.length; k++) {
            colours[k] = look.get()
                    .colourAt(stroke.points().get(2 * k), stroke.points().get(2 * k + 1));
        }
        for (int i = 0; i < strength.length; i++) {
            if (strength[i] > 0) {
                float[] from = colours[trail.piece[i]];
                float[] to = colours[Math.min(colours.length - 1, trail.piece[i] + 1)];
                double apart = 0;
                for (int c = 0; c < 3; c++) {
                    double over = from[c] + trail.along[i] * (to[c] - from[c]);
                    apart += (roots[c][i] - over) * (roots[c][i] - over);
                }
                strength[i] *= (float) Math.exp(-apart / (2 * 3 * LIKE * LIKE));
            }
        }
        return strength;
    }

    /** For each pixel of a region the nearest place of a stroke, as far as its size reaches. */
    private static final class Trail {
        private final float[] squared;
        /** Which piece of the stroke is nearest, and where on it. */
        private final int[] piece;

        private final float[] along;

        Trail(Stroke stroke, Region region) {
            int n = Math.toIntExact(region.area());
            squared = new float[n];
            piece = new int[n];
            along = new float[n];
            Arrays.fill(squared, Float.MAX_VALUE);
            int last = stroke.points().size() - 2;
            for (int i = 0; i <= Math.max(0, last - 2); i += 2) {
                int j = Math.min(last, i + 2);
                add(
                        stroke.points().get(i),
                        stroke.points().get(i + 1),
                        stroke.points().get(j),
                        stroke.points().get(j + 1),
                        i / 2,
                        stroke.sizePx() / 2,
                        region);
            }
        }

        private void add(double x0, double y0, double x1, double y1, int index, double radius, Region region) {
            double dx = x1 - x0;
            double dy = y1 - y0;
            double length = Math.max(1e-9, dx * dx + dy * dy);
            int left = Math.max(region.x(), (int) Math.floor(Math.min(x0, x1) - radius));
            int right = Math.min(region.right(), (int) Math.ceil(Math.max(x0, x1) + radius) + 1);
            int top = Math.max(region.y(), (int) Math.floor(Math.min(y0, y1) - radius));
            int bottom = Math.min(region.bottom(), (int) Math.ceil(Math.max(y0, y1) + radius) + 1);
            for (int y = top; y < bottom; y++) {
                int row = (y - region.y()) * region.width() - region.x();
                for (int x = left; x < right; x++) {
                    double share = Math.max(0, Math.min(1, ((x - x0) * dx + (y - y0) * dy) / length));
                    double ax = x - x0 - share * dx;
                    double ay = y - y0 - share * dy;
                    float distance = (float) (ax * ax + ay * ay);
                    if (distance < squared[row + x]) {
                        squared[row + x] = distance;
                        piece[row + x] = index;
                        along[row + x] = (float) share;
                    }
                }
            }
        }

        float[] strength(Stroke stroke) {
            double radius = stroke.sizePx() / 2;
            double full = radius * stroke.edgePercent() / 100;
            // Even a hard edge takes a pixel, or it would be jagged.
            double fall = Math.max(1, radius - full);
            float[] out = new float[squared.length];
            for (int i = 0; i < out.length; i++) {
                out[i] = squared[i] == Float.MAX_VALUE
                        ? 0
                        : (float) Smoothstep.at((radius - Math.sqrt(squared[i])) / fall);
            }
            return out;
        }
    }

    private static float[] straight(MaskShape.Straight line, Region region) {
        float[] out = new float[Math.toIntExact(region.area())];
        double dx = line.x1() - line.x0();
        double dy = line.y1() - line.y0();
        double length = dx * dx + dy * dy;
        for (int i = 0; i < out.length; i++) {
            double x = region.x() + i % region.width() - line.x0();
            double y = region.y() + (double) (i / region.width()) - line.y0();
            out[i] = (float) Smoothstep.at((x * dx + y * dy) / length);
        }
        return out;
    }

    private static float[] round(MaskShape.Round round, Region region) {
        float[] out = new float[Math.toIntExact(region.area())];
        double full = round.edgePercent() / 100;
        double fall = Math.max(1 / Math.min(round.radiusXPx(), round.radiusYPx()), 1 - full);
        for (int i = 0; i < out.length; i++) {
            double x = (region.x() + i % region.width() - round.x()) / round.radiusXPx();
            double y = (region.y() + (double) (i / region.width()) - round.y()) / round.radiusYPx();
            out[i] = (float) Smoothstep.at((1 - Math.hypot(x, y)) / fall);
        }
        return out;
    }

    /** What is asked for a region, from the square roots of its colours. */
    private interface Rough {
        float[] strength(Region region, float[][] roots);
    }

    /** Refined to the edges of the picture. */
    private float[] guided(Region region, int radiusPx, Rough rough) {
        if (estimate == null) {
            return rough.strength(region, null);
        }
        Region wide = region.grow(2 * radiusPx).intersect(bounds);
        float[][] roots = roots(wide);
        float[] guide = new float[roots[0].length];
        for (int i = 0; i < guide.length; i++) {
            guide[i] = (roots[0][i] + 2 * roots[1][i] + roots[2][i]) / 4;
        }
        float[] refined = GuidedFilter.filter(
                rough.strength(wide, roots), guide, wide.width(), wide.height(), radiusPx, EDGE * EDGE);
        float[] out = new float[Math.toIntExact(region.area())];
        Region inside = region.intersect(bounds);
        for (int y = inside.y(); y < inside.bottom(); y++) {
            System.arraycopy(
                    refined,
                    (y - wide.y()) * wide.width() + inside.x() - wide.x(),
                    out,
                    (y - region.y()) * region.width() + inside.x() - region.x(),
                    inside.width());
        }
        return out;
    }

    private float[][] roots(Region region) {
        Planes picture = estimate.apply(region);
        float[][] roots = new float[3][];
        for (int c = 0; c < 3; c++) {
            float[] plane = picture.channel(c);
            roots[c] = new float[plane.length];
            for (int i = 0; i < plane.length; i++) {
                roots[c][i] = (float) Math.sqrt(Math.max(0, gains[c] * plane[i]));
            }
        }
        return roots;
    }
}
