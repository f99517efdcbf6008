package org.rainsieve.scene;

import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** A transparent sheet of linear light, colour premultiplied by coverage: channels red, green, blue, coverage. */
final class Layer {
    final int width;
    final int height;
    final Planes planes;

    Layer(int width, int height) {
        this(new Planes(new Region(0, 0, width, height), 4));
    }

    /** @param planes red, green, blue, coverage; they become this layer's */
    Layer(Planes planes) {
        this.planes = planes;
        width = planes.region().width();
        height = planes.region().height();
    }

    /** Lays colour over one pixel. */
    void over(int x, int y, double r, double g, double b, double coverage) {
        if (x < 0 || y < 0 || x >= width || y >= height || coverage <= 0) {
            return;
        }
        int i = y * width + x;
        float rest = (float) (1 - coverage);
        planes.channel(0)[i] = planes.channel(0)[i] * rest + (float) (r * coverage);
        planes.channel(1)[i] = planes.channel(1)[i] * rest + (float) (g * coverage);
        planes.channel(2)[i] = planes.channel(2)[i] * rest + (float) (b * coverage);
        planes.channel(3)[i] = planes.channel(3)[i] * rest + (float) coverage;
    }

    /** Adds light without covering anything. */
    void add(int x, int y, double r, double g, double b) {
        if (x >= 0 && y >= 0 && x < width && y < height) {
            int i = y * width + x;
            planes.channel(0)[i] += (float) r;
            planes.channel(1)[i] += (float) g;
            planes.channel(2)[i] += (float) b;
        }
    }

    /**
     * A hair, barb or blade: a line that tapers to its end, with the coverage of each pixel by distance.
     *
     * @param widthPx width at its root
     */
    void stroke(double x0, double y0, double x1, double y1, double widthPx, double[] colour, double opacity) {
        line(x0, y0, x1, y1, widthPx, 0.7, colour, opacity);
    }

    /** @param taper share of the width that is gone at the far end */
    void line(
            double x0, double y0, double x1, double y1, double widthPx, double taper, double[] colour, double opacity) {
        double dx = x1 - x0;
        double dy = y1 - y0;
        double length = Math.max(1e-6, Math.hypot(dx, dy));
        int left = (int) Math.floor(Math.min(x0, x1) - widthPx);
        int right = (int) Math.ceil(Math.max(x0, x1) + widthPx);
        int top = (int) Math.floor(Math.min(y0, y1) - widthPx);
        int bottom = (int) Math.ceil(Math.max(y0, y1) + widthPx);
        for (int y = Math.max(0, top); y <= Math.min(height - 1, bottom); y++) {
            for (int x = Math.max(0, left); x <= Math.min(width - 1, right); x++) {
                double along = Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / (length * length)));
                double distance = Math.hypot(x - x0 - along * dx, y - y0 - along * dy);
                double half = widthPx / 2 * (1 - taper * along);
                double coverage = Math.min(1, Math.max(0, half - distance + 0.5)) * Math.min(1, 2 * half);
                over(x, y, colour[0], colour[1], colour[2], coverage * opacity);
            }
        }
    }

    void disc(double cx, double cy, double radius, double[] colour, double opacity) {
        for (int y = (int) Math.floor(cy - radius - 1); y <= cy + radius + 1; y++) {
            for (int x = (int) Math.floor(cx - radius - 1); x <= cx + radius + 1; x++) {
                double coverage = Math.min(1, Math.max(0, radius - Math.hypot(x - cx, y - cy) + 0.5));
                over(x, y, colour[0], colour[1], colour[2], coverage * opacity);
            }
        }
    }

    /** Lays another sheet over this one. */
    void over(Layer above) {
        for (int i = 0; i < width * height; i++) {
            float rest = 1 - above.planes.channel(3)[i];
            for (int c = 0; c < 4; c++) {
                planes.channel(c)[i] =
                        planes.channel(c)[i] * rest + above.planes.channel(c)[i];
            }
        }
    }
}
