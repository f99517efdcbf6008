package org.rainsieve.scene;

import java.util.stream.IntStream;
import org.rainsieve.frame.Planes;

/** Movement of the camera during the exposure: every point becomes a straight line. */
final class Movement {
    private Movement() {}

    /** Means along a line of that length, in steps of at most half a pixel, between pixels by straight lines. */
    static Planes along(Planes in, double lengthPx, double angleRadians) {
        int w = in.region().width();
        int h = in.region().height();
        int steps = (int) Math.ceil(2 * lengthPx);
        Planes out = new Planes(in.region(), in.channels());
        IntStream.range(0, h).parallel().forEach(y -> {
            for (int k = 0; k < steps; k++) {
                double t = lengthPx * ((k + 0.5) / steps - 0.5);
                double dx = t * Math.cos(angleRadians);
                double dy = t * Math.sin(angleRadians);
                int sx = (int) Math.floor(dx);
                int y0 = Math.min(Math.max(y + (int) Math.floor(dy), 0), h - 1) * w;
                int y1 = Math.min(Math.max(y + (int) Math.floor(dy) + 1, 0), h - 1) * w;
                float fx = (float) (dx - sx);
                float fy = (float) (dy - Math.floor(dy));
                for (int c = 0; c < in.channels(); c++) {
                    float[] from = in.channel(c);
                    float[] to = out.channel(c);
                    for (int x = 0; x < w; x++) {
                        int x0 = Math.min(Math.max(x + sx, 0), w - 1);
                        int x1 = Math.min(Math.max(x + sx + 1, 0), w - 1);
                        float upper = from[y0 + x0] + fx * (from[y0 + x1] - from[y0 + x0]);
                        float lower = from[y1 + x0] + fx * (from[y1 + x1] - from[y1 + x0]);
                        to[y * w + x] += (upper + fy * (lower - upper)) / steps;
                    }
                }
            }
        });
        return out;
    }
}
