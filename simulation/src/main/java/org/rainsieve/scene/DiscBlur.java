package org.rainsieve.scene;

import java.util.stream.IntStream;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** The blur of a thin lens: every point becomes an even disc. Large discs are made on a reduced picture. */
final class DiscBlur {
    private static final double LARGEST_AT_FULL_SIZE = 7;

    private DiscBlur() {}

    static Planes blur(Planes in, double radiusPx) {
        if (radiusPx < 0.4) {
            return in;
        }
        int factor = (int) Math.max(1, radiusPx / LARGEST_AT_FULL_SIZE);
        return factor == 1
                ? exact(in, radiusPx)
                : enlarged(exact(reduced(in, factor), radiusPx / factor), in.region(), factor);
    }

    /** By rows: the disc is a stack of runs, each an even mean found from running sums, its ends weighted by coverage. */
    private static Planes exact(Planes in, double radius) {
        int w = in.region().width();
        int h = in.region().height();
        int reach = (int) Math.ceil(radius + 0.5);
        double[] half = new double[2 * reach + 1];
        double area = 0;
        for (int dy = -reach; dy <= reach; dy++) {
            // Mean half width of the disc over this row of pixels.
            double sum = 0;
            for (int k = 0; k < 8; k++) {
                double y = dy - 0.5 + (k + 0.5) / 8;
                sum += Math.abs(y) < radius ? Math.sqrt(radius * radius - y * y) : 0;
            }
            half[dy + reach] = sum / 8;
            area += 2 * sum / 8;
        }
        double whole = area;
        Planes out = new Planes(in.region(), in.channels());
        for (int c = 0; c < in.channels(); c++) {
            float[] from = in.channel(c);
            float[] to = out.channel(c);
            double[] sums = new double[h * (w + 1)];
            IntStream.range(0, h).parallel().forEach(y -> {
                double sum = 0;
                for (int x = 0; x < w; x++) {
                    sums[y * (w + 1) + x] = sum;
                    sum += from[y * w + x];
                }
                sums[y * (w + 1) + w] = sum;
            });
            IntStream.range(0, h).parallel().forEach(y -> {
                for (int dy = -reach; dy <= reach; dy++) {
                    double r = half[dy + reach];
                    if (r <= 0) {
                        continue;
                    }
                    int row = Math.min(h - 1, Math.max(0, y + dy)) * (w + 1);
                    for (int x = 0; x < w; x++) {
                        double value = integral(sums, row, w, x + 0.5 + r) - integral(sums, row, w, x + 0.5 - r);
                        to[y * w + x] += (float) (value / whole);
                    }
                }
            });
        }
        return out;
    }

    /** Running sum up to a place between pixels; beyond the ends the outermost pixel goes on. */
    private static double integral(double[] sums, int row, int w, double at) {
        if (at <= 0) {
            return at * (sums[row + 1] - sums[row]);
        }
        if (at >= w) {
            return sums[row + w] + (at - w) * (sums[row + w] - sums[row + w - 1]);
        }
        int i = (int) at;
        double part = at - i;
        return sums[row + i] + (part == 0 ? 0 : part * (sums[row + i + 1] - sums[row + i]));
    }

    private static Planes reduced(Planes in, int factor) {
        int w = (in.region().width() + factor - 1) / factor;
        int h = (in.region().height() + factor - 1) / factor;
        Planes out = new Planes(new Region(0, 0, w, h), in.channels());
        for (int c = 0; c < in.channels(); c++) {
            for (int y = 0; y < h; y++) {
                for (int x = 0; x < w; x++) {
                    float sum = 0;
                    for (int k = 0; k < factor * factor; k++) {
                        int sx = Math.min(in.region().width() - 1, x * factor + k % factor);
                        int sy = Math.min(in.region().height() - 1, y * factor + k / factor);
                        sum += in.channel(c)[sy * in.region().width() + sx];
                    }
                    out.channel(c)[y * w + x] = sum / (factor * factor);
                }
            }
        }
        return out;
    }

    private static Planes enlarged(Planes in, Region to, int factor) {
        int w = in.region().width();
        int h = in.region().height();
        Planes out = new Planes(to, in.channels());
        for (int c = 0; c < in.channels(); c++) {
            float[] from = in.channel(c);
            for (int y = 0; y < to.height(); y++) {
                double sy = Math.min(h - 1, Math.max(0, (y + 0.5) / factor - 0.5));
                int y0 = (int) sy;
                int y1 = Math.min(h - 1, y0 + 1);
                float v = (float) (sy - y0);
                for (int x = 0; x < to.width(); x++) {
                    double sx = Math.min(w - 1, Math.max(0, (x + 0.5) / factor - 0.5));
                    int x0 = (int) sx;
                    int x1 = Math.min(w - 1, x0 + 1);
                    float u = (float) (sx - x0);
                    float upper = from[y0 * w + x0] * (1 - u) + from[y0 * w + x1] * u;
                    float lower = from[y1 * w + x0] * (1 - u) + from[y1 * w + x1] * u;
                    out.channel(c)[y * to.width() + x] = upper * (1 - v) + lower * v;
                }
            }
        }
        return out;
    }
}
