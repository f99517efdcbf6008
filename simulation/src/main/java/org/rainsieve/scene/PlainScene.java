package org.rainsieve.scene;

import java.util.SplittableRandom;
import org.rainsieve.colour.Lab;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.colour.White;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * A plain test picture with known truth, in linear sRGB: a colour chart, a black field, a lamp that clips, a smooth
 * gradient, slanted edges and a field of fine strokes. Everything scales with the picture's size.
 */
public final class PlainScene {
    /** Chart fields across and down. */
    public static final int COLUMNS = 6;

    public static final int ROWS = 4;

    private final int width;
    private final int height;
    private final Planes srgb;

    /** @param seed where the strokes lie */
    public PlainScene(int width, int height, long seed) {
        this.width = width;
        this.height = height;
        srgb = new Planes(new Region(0, 0, width, height), 3);
        ground();
        strokes(new SplittableRandom(seed));
        edges();
        blur();
        lamp();
        for (int i = 0; i < COLUMNS * ROWS; i++) {
            rectangle(chartField(i), chartColour(i));
        }
        rectangle(blackField(), new double[] {0, 0, 0});
    }

    public Planes srgb() {
        return srgb;
    }

    /** The chart field's place in the upper left quarter. */
    public Region chartField(int index) {
        int size = Math.min(width / 2 / COLUMNS, height / 2 / ROWS);
        return new Region(
                index % COLUMNS * size + size / 12, index / COLUMNS * size + size / 12, size * 5 / 6, size * 5 / 6);
    }

    /** L*a*b* (D50) of a chart field: a row of neutrals, then colours around the circle at three lightnesses. */
    public static Lab chartLab(int index) {
        int column = index % COLUMNS;
        int row = index / COLUMNS;
        if (row == 0) {
            return new Lab(20 + 14 * column, 0, 0);
        }
        double angle = 2 * Math.PI * (column + 0.5 * (row % 2)) / COLUMNS;
        double chroma = row == 2 ? 26 : 18;
        return new Lab(28 + 16 * row, chroma * Math.cos(angle), chroma * Math.sin(angle));
    }

    private static double[] chartColour(int index) {
        Lab lab = chartLab(index);
        double fy = (lab.l() + 16) / 116;
        double[] white = White.D50.xyz();
        double[] xyz = {
            white[0] * inverse(fy + lab.a() / 500), white[1] * inverse(fy), white[2] * inverse(fy - lab.b() / 200)
        };
        Matrix3 toSrgb = RgbSpace.SRGB.fromXyzD50();
        return toSrgb.times(xyz);
    }

    private static double inverse(double f) {
        return f > 6.0 / 29 ? f * f * f : (116 * f - 16) * 27 / 24389;
    }

    /** A field without any light, right of the chart. */
    public Region blackField() {
        return new Region(width * 11 / 20, height / 20, width * 3 / 20, height * 3 / 10);
    }

    /** A disc many times brighter than clipping. */
    public Region lampField() {
        int radius = height / 10;
        return new Region(width * 17 / 20 - radius, height / 5 - radius, 2 * radius, 2 * radius);
    }

    /** A smooth field without structure, for measuring noise. */
    public Region smoothField() {
        return new Region(width / 40, height * 22 / 40, width * 18 / 40, height * 7 / 40);
    }

    private void ground() {
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                double t = (double) x / width;
                int i = y * width + x;
                // A dusk sky: warm to cool, about two stops from side to side.
                srgb.channel(0)[i] = (float) (0.10 + 0.22 * t);
                srgb.channel(1)[i] = (float) (0.11 + 0.18 * t);
                srgb.channel(2)[i] = (float) (0.16 + 0.12 * t);
            }
        }
    }

    private void strokes(SplittableRandom random) {
        int count = width * height / 160;
        for (int s = 0; s < count; s++) {
            double x = width * (0.52 + 0.48 * random.nextDouble());
            double y = height * (0.5 + 0.5 * random.nextDouble());
            double angle = 1.2 + 0.8 * Math.sin(x / width * 9) + 0.3 * random.nextDouble();
            double length = 10 + 30 * random.nextDouble();
            float shade = (float) (0.02 + 0.5 * random.nextDouble() * random.nextDouble());
            double dx = Math.cos(angle);
            double dy = Math.sin(angle);
            for (double t = 0; t < length; t += 0.5) {
                stamp(x + dx * t, y + dy * t, shade);
            }
        }
    }

    private void stamp(double cx, double cy, float shade) {
        int x0 = (int) Math.floor(cx);
        int y0 = (int) Math.floor(cy);
        for (int k = 0; k < 4; k++) {
            int x = x0 + (k & 1);
            int y = y0 + (k >> 1);
            if (x < width / 2 || y < height / 2 || x >= width || y >= height) {
                continue;
            }
            float share = (float) (0.8 * (1 - Math.abs(cx - x)) * (1 - Math.abs(cy - y)));
            int i = y * width + x;
            srgb.channel(0)[i] += (shade * 1.15f - srgb.channel(0)[i]) * share;
            srgb.channel(1)[i] += (shade * 0.92f - srgb.channel(1)[i]) * share;
            srgb.channel(2)[i] += (shade * 0.62f - srgb.channel(2)[i]) * share;
        }
    }

    /** Slanted boards, dark on light and red on blue, in the lower left. */
    private void edges() {
        for (int y = height * 3 / 4; y < height; y++) {
            for (int x = 0; x < width / 2; x++) {
                double along = (x + 0.0875 * (y - height * 3.0 / 4)) * 12 / width;
                double part = along - Math.floor(along);
                double edge = Math.min(1, Math.max(0, (0.5 - part) * width / 12 + 0.5));
                boolean coloured = y > height * 7 / 8;
                double[] on = coloured ? new double[] {0.35, 0.03, 0.02} : new double[] {0.45, 0.45, 0.45};
                double[] off = coloured ? new double[] {0.02, 0.05, 0.30} : new double[] {0.03, 0.03, 0.03};
                for (int c = 0; c < 3; c++) {
                    srgb.channel(c)[y * width + x] = (float) (off[c] + (on[c] - off[c]) * edge);
                }
            }
        }
    }

    /** A lens in front of the sensor: [1 2 1]/4 both ways, so that no colour is seen by a single photosite. */
    private void blur() {
        for (int c = 0; c < 3; c++) {
            float[] plane = srgb.channel(c);
            for (int step : new int[] {1, width}) {
                float[] from = plane.clone();
                for (int y = 1; y < height - 1; y++) {
                    for (int i = y * width + 1; i < y * width + width - 1; i++) {
                        plane[i] = (from[i - step] + 2 * from[i] + from[i + step]) / 4;
                    }
                }
            }
        }
    }

    private void lamp() {
        Region field = lampField();
        double radius = field.width() / 2.0;
        double cx = field.x() + radius;
        double cy = field.y() + radius;
        for (int y = 0; y < height / 2; y++) {
            for (int x = width * 7 / 10; x < width; x++) {
                double d = Math.hypot(x - cx, y - cy);
                double glow = d < radius ? 6 : 0.5 * Math.exp(-(d - radius) / (radius / 3));
                int i = y * width + x;
                srgb.channel(0)[i] += (float) glow;
                srgb.channel(1)[i] += (float) (glow * 0.8);
                srgb.channel(2)[i] += (float) (glow * 0.5);
            }
        }
    }

    private void rectangle(Region field, double[] colour) {
        for (int y = field.y(); y < field.bottom(); y++) {
            for (int x = field.x(); x < field.right(); x++) {
                for (int c = 0; c < 3; c++) {
                    srgb.channel(c)[y * width + x] = (float) colour[c];
                }
            }
        }
    }
}
