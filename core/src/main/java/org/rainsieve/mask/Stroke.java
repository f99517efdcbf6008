package org.rainsieve.mask;

import java.util.List;

/**
 * One movement of the brush, in pixels of the frame as the sensor lies.
 *
 * @param sizePx diameter
 * @param edgePercent 100 for a hard edge; with less, this share of the radius is at full strength and the rest falls off
 * @param opacityPercent how strong it is in its middle
 * @param erase takes strength away instead
 * @param followEdges keeps to edges of the picture (guided filter)
 * @param points x and y in turn
 */
public record Stroke(
        double sizePx,
        double edgePercent,
        double opacityPercent,
        boolean erase,
        boolean followEdges,
        List<Double> points) {
    private static final int MOST_POINTS = 4000;

    public Stroke {
        MaskChecks.within("A brush's size", sizePx, 1, 20_000, "px");
        MaskChecks.within("A brush's edge", edgePercent, 0, 100, "%");
        MaskChecks.within("A brush's opacity", opacityPercent, 0, 100, "%");
        points = List.copyOf(points);
        if (points.isEmpty() || points.size() % 2 != 0 || points.size() > 2 * MOST_POINTS) {
            throw new IllegalArgumentException("A stroke has 1 to " + MOST_POINTS + " places");
        }
        for (double at : points) {
            MaskChecks.within("A stroke's place", at, -100_000, 100_000, "px");
        }
    }

    Stroke scaled(double factor) {
        return new Stroke(
                Math.max(1, sizePx * factor),
                edgePercent,
                opacityPercent,
                erase,
                followEdges,
                points.stream().map(at -> at * factor).toList());
    }
}
