package org.rainsieve.delivery;

import java.util.stream.IntStream;
import org.rainsieve.colour.BaselineTone;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.icc.OutputProfile;

/**
 * A return as a picture for people: what its crop shows, in a delivery space, perhaps reduced. The rendering is plain: white
 * balance as shot, no tone curve, no edits; values are limited to the camera's white, so that clipped lamps stay neutral, before the baseline exposure is applied.
 */
final class Delivered {
    private final PixelSource source;
    private final Region shown;
    private final int width;
    private final int height;
    private final BaselineTone tone;
    private final float[] m = new float[9];
    private final float[] white = new float[3];
    private final float[][] tables = new float[3][];

    /** @param shown the part of it that is delivered */
    Delivered(PixelSource source, Region shown, CameraColour colour, DeliverySettings settings, OutputProfile profile) {
        this.source = source;
        this.shown = shown;
        double longest = Math.max(shown.width(), shown.height());
        double scale = settings.longEdgePx() == 0 ? 1 : Math.min(1, settings.longEdgePx() / longest);
        width = (int) Math.max(1, Math.round(scale * shown.width()));
        height = (int) Math.max(1, Math.round(scale * shown.height()));
        Matrix3 matrix = profile.fromXyzD50().times(colour.toXyzD50());
        tone = new BaselineTone(colour.baselineExposureStops());
        for (int i = 0; i < 9; i++) {
            m[i] = (float) matrix.m()[i];
        }
        for (int c = 0; c < 3; c++) {
            white[c] = (float) colour.white()[c];
            tables[c] = profile.table(c);
        }
    }

    int width() {
        return width;
    }

    int height() {
        return height;
    }

    /** Rows as interleaved encoded values, 0 to 1. */
    float[] rows(int from, int count) {
        Planes linear = new Planes(new Region(0, from, width, count), 3);
        if (width == shown.width() && height == shown.height()) {
            Planes own = new Planes(new Region(shown.x(), shown.y() + from, width, count), 3);
            source.fill(own);
            linear = own;
        } else {
            reduce(linear);
        }
        float[] out = new float[3 * width * count];
        float[] r = linear.channel(0);
        float[] g = linear.channel(1);
        float[] b = linear.channel(2);
        IntStream.range(0, count).parallel().forEach(y -> {
            for (int i = y * width; i < (y + 1) * width; i++) {
                float red = Math.min(r[i], white[0]);
                float green = Math.min(g[i], white[1]);
                float blue = Math.min(b[i], white[2]);
                for (int c = 0; c < 3; c++) {
                    float light = m[3 * c] * red + m[3 * c + 1] * green + m[3 * c + 2] * blue;
                    out[3 * i + c] = DeliverySpace.looked(tables[c], tone.of(light));
                }
            }
        });
        return out;
    }

    /** The mean over the area that each smaller pixel covers, in linear light. */
    private void reduce(Planes out) {
        double across = (double) shown.width() / width;
        double down = (double) shown.height() / height;
        Region r = out.region();
        int top = (int) (r.y() * down);
        int bottom = Math.min(shown.height(), (int) Math.ceil(r.bottom() * down - 1e-9));
        Planes in = new Planes(new Region(shown.x(), shown.y() + top, shown.width(), bottom - top), 3);
        source.fill(in);
        IntStream.range(0, r.height()).parallel().forEach(row -> {
            double y0 = (r.y() + row) * down;
            double y1 = y0 + down;
            for (int x = 0; x < r.width(); x++) {
                double x0 = x * across;
                double x1 = x0 + across;
                double[] sums = new double[3];
                for (int sy = (int) y0; sy < Math.min(bottom, Math.ceil(y1 - 1e-9)); sy++) {
                    double tall = Math.min(y1, sy + 1) - Math.max(y0, sy);
                    for (int sx = (int) x0; sx < Math.min(shown.width(), Math.ceil(x1 - 1e-9)); sx++) {
                        double share = tall * (Math.min(x1, sx + 1) - Math.max(x0, sx));
                        int i = (sy - top) * shown.width() + sx;
                        for (int c = 0; c < 3; c++) {
                            sums[c] += share * in.channel(c)[i];
                        }
                    }
                }
                for (int c = 0; c < 3; c++) {
                    out.channel(c)[row * width + x] = (float) (sums[c] / across / down);
                }
            }
        });
    }
}
