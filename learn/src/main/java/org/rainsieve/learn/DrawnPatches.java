package org.rainsieve.learn;

import java.util.SplittableRandom;
import org.rainsieve.noise.Chance;

/**
 * Generated training pictures: free of licences, free of noise, and rich in what photographs show too rarely.
 * Dead leaves after Achddou, Gousseau, Ladjal 2021 (sizes by a power law); the rest is plain drawing. Each fills a
 * square patch of planar linear RGB.
 */
final class DrawnPatches {
    private DrawnPatches() {}

    static float[] draw(int size, SplittableRandom random) {
        float[] rgb = new float[3 * size * size];
        double kind = random.nextDouble();
        if (kind < 0.34) {
            deadLeaves(rgb, size, random);
        } else if (kind < 0.5) {
            strokes(rgb, size, random);
        } else if (kind < 0.58) {
            fabric(rgb, size, random);
        } else if (kind < 0.67) {
            ripples(rgb, size, random);
        } else if (kind < 0.76) {
            stars(rgb, size, random);
        } else if (kind < 0.84) {
            shapes(rgb, size, random);
        } else {
            evenColours(rgb, size, random);
        }
        return rgb;
    }

    private static float[] colour(SplittableRandom random) {
        float level = (float) Math.pow(random.nextDouble(), 2.2);
        float saturation = random.nextFloat() < 0.3f ? 1f : 0.35f;
        float[] colour = new float[3];
        for (int c = 0; c < 3; c++) {
            colour[c] = level * (1 - saturation + saturation * random.nextFloat() * 1.6f);
        }
        return colour;
    }

    private static void gradient(float[] rgb, int size, SplittableRandom random) {
        float[] from = colour(random);
        float[] to = colour(random);
        double angle = random.nextDouble() * 2 * Math.PI;
        double across = Math.cos(angle) / size;
        double down = Math.sin(angle) / size;
        for (int y = 0; y < size; y++) {
            for (int x = 0; x < size; x++) {
                float t = (float) Math.min(1, Math.max(0, 0.5 + (x - size / 2.0) * across + (y - size / 2.0) * down));
                for (int c = 0; c < 3; c++) {
                    rgb[(c * size + y) * size + x] = from[c] + (to[c] - from[c]) * t;
                }
            }
        }
    }

    /** Blends a colour in with the coverage of a pixel by an edge at the given distance (pixels, inside negative). */
    private static void cover(float[] rgb, int size, int x, int y, double distance, float[] colour, float opacity) {
        if (x < 0 || y < 0 || x >= size || y >= size || distance >= 0.5) {
            return;
        }
        float share = (float) Math.min(1, 0.5 - distance) * opacity;
        for (int c = 0; c < 3; c++) {
            int i = (c * size + y) * size + x;
            rgb[i] += (colour[c] - rgb[i]) * share;
        }
    }

    private static void deadLeaves(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        double smallest = 1.5;
        double largest = size * 0.6;
        int count = 40 + random.nextInt(260);
        for (int leaf = 0; leaf < count; leaf++) {
            // Radius density r^-3 between the limits, by inversion.
            double u = random.nextDouble();
            double r = 1 / Math.sqrt(u / (smallest * smallest) + (1 - u) / (largest * largest));
            double cx = random.nextDouble() * size;
            double cy = random.nextDouble() * size;
            double angle = random.nextDouble() * Math.PI;
            double squash = 0.4 + 0.6 * random.nextDouble();
            boolean square = random.nextDouble() < 0.3;
            float[] colour = colour(random);
            float[] other = colour(random);
            double period = random.nextDouble() < 0.3 ? 2 + random.nextDouble() * 10 : 0;
            double turn = random.nextDouble() * Math.PI;
            float[] mixed = new float[3];
            for (int y = (int) Math.max(0, cy - r - 1); y <= Math.min(size - 1, cy + r + 1); y++) {
                for (int x = (int) Math.max(0, cx - r - 1); x <= Math.min(size - 1, cx + r + 1); x++) {
                    double dx = x - cx;
                    double dy = y - cy;
                    double p = dx * Math.cos(angle) + dy * Math.sin(angle);
                    double q = (-dx * Math.sin(angle) + dy * Math.cos(angle)) / squash;
                    double distance = square ? Math.max(Math.abs(p), Math.abs(q)) - r * 0.7 : Math.hypot(p, q) - r;
                    float wave = period == 0
                            ? 0
                            : (float) (0.5
                                    + 0.5 * Math.sin(2 * Math.PI * (p * Math.cos(turn) + q * Math.sin(turn)) / period));
                    for (int c = 0; c < 3; c++) {
                        mixed[c] = colour[c] + (other[c] - colour[c]) * wave * 0.6f;
                    }
                    cover(rgb, size, x, y, distance, mixed, 1);
                }
            }
        }
    }

    private static void line(
            float[] rgb, int size, double x0, double y0, double x1, double y1, double width, float[] colour, float o) {
        double length = Math.max(1e-6, Math.hypot(x1 - x0, y1 - y0));
        double ux = (x1 - x0) / length;
        double uy = (y1 - y0) / length;
        int left = (int) Math.max(0, Math.min(x0, x1) - width - 1);
        int right = (int) Math.min(size - 1, Math.max(x0, x1) + width + 1);
        int top = (int) Math.max(0, Math.min(y0, y1) - width - 1);
        int bottom = (int) Math.min(size - 1, Math.max(y0, y1) + width + 1);
        for (int y = top; y <= bottom; y++) {
            for (int x = left; x <= right; x++) {
                double along = Math.min(length, Math.max(0, (x - x0) * ux + (y - y0) * uy));
                double distance = Math.hypot(x - x0 - along * ux, y - y0 - along * uy) - width / 2;
                cover(rgb, size, x, y, distance, colour, o);
            }
        }
    }

    /** Fur, feather and grass: many thin strokes with a common direction that drifts. */
    private static void strokes(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        double angle = random.nextDouble() * Math.PI;
        double drift = (random.nextDouble() - 0.5) * 2;
        float[] base = colour(random);
        int count = 50 + random.nextInt(500);
        for (int i = 0; i < count; i++) {
            double x = random.nextDouble() * size;
            double y = random.nextDouble() * size;
            double turn = angle + drift * x / size + (random.nextDouble() - 0.5) * 0.5;
            double length = 5 + random.nextDouble() * 30;
            double width = 0.6 + random.nextDouble() * 1.6;
            float shade = 0.4f + 1.2f * random.nextFloat();
            float[] colour = {base[0] * shade, base[1] * shade, base[2] * shade};
            line(
                    rgb,
                    size,
                    x,
                    y,
                    x + length * Math.cos(turn),
                    y + length * Math.sin(turn),
                    width,
                    colour,
                    0.5f + 0.5f * random.nextFloat());
        }
    }

    private static void fabric(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        double angle = random.nextDouble() * Math.PI;
        double first = 2.2 + random.nextDouble() * 9;
        double second = 2.2 + random.nextDouble() * 9;
        float depth = 0.2f + 0.7f * random.nextFloat();
        float[] tint = colour(random);
        for (int y = 0; y < size; y++) {
            for (int x = 0; x < size; x++) {
                double p = x * Math.cos(angle) + y * Math.sin(angle);
                double q = -x * Math.sin(angle) + y * Math.cos(angle);
                float weave = (float) ((0.5 + 0.5 * Math.sin(2 * Math.PI * p / first))
                        * (0.5 + 0.5 * Math.sin(2 * Math.PI * q / second)));
                for (int c = 0; c < 3; c++) {
                    int i = (c * size + y) * size + x;
                    rgb[i] = rgb[i] * (1 - depth * weave) + tint[c] * depth * weave;
                }
            }
        }
    }

    private static void stars(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        float sky = (float) Math.pow(10, -3 + 2 * random.nextDouble());
        for (int i = 0; i < rgb.length; i++) {
            rgb[i] *= sky;
        }
        int count = 5 + random.nextInt(60);
        double sigma = 0.75 + random.nextDouble() * 0.7;
        for (int s = 0; s < count; s++) {
            double cx = random.nextDouble() * size;
            double cy = random.nextDouble() * size;
            double peak = Math.pow(10, -2.5 + 3 * random.nextDouble() * random.nextDouble());
            float[] tint = {0.7f + 0.6f * random.nextFloat(), 1, 0.7f + 0.6f * random.nextFloat()};
            for (int y = (int) Math.max(0, cy - 6); y <= Math.min(size - 1, cy + 6); y++) {
                for (int x = (int) Math.max(0, cx - 6); x <= Math.min(size - 1, cx + 6); x++) {
                    double d2 = (x - cx) * (x - cx) + (y - cy) * (y - cy);
                    float light = (float) (peak * Math.exp(-d2 / (2 * sigma * sigma)));
                    for (int c = 0; c < 3; c++) {
                        rgb[(c * size + y) * size + x] += light * tint[c];
                    }
                }
            }
        }
    }

    /** Type-like and built shapes: bars, boxes and rings of flat colour at every angle. */
    private static void shapes(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        int count = 6 + random.nextInt(50);
        double angle = random.nextDouble() < 0.5 ? 0 : random.nextDouble() * Math.PI;
        for (int i = 0; i < count; i++) {
            double x = random.nextDouble() * size;
            double y = random.nextDouble() * size;
            double turn = angle + random.nextInt(4) * Math.PI / 4;
            double length = 3 + random.nextDouble() * 40;
            line(
                    rgb,
                    size,
                    x,
                    y,
                    x + length * Math.cos(turn),
                    y + length * Math.sin(turn),
                    1 + random.nextDouble() * 7,
                    colour(random),
                    1);
        }
    }

    /**
     * Stripes and edges between two colours of one brightness or one green, which photographs hold seldom: colour that is not
     * false.
     */
    private static void evenColours(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        int count = 2 + random.nextInt(12);
        for (int i = 0; i < count; i++) {
            double cx = random.nextDouble() * size;
            double cy = random.nextDouble() * size;
            double r = 10 + random.nextDouble() * 60;
            float[] one = colour(random);
            float[] other = colour(random);
            // As bright, or as green: a mosaic tells most about green.
            float even = random.nextBoolean()
                    ? (one[0] + 2 * one[1] + one[2]) / Math.max(1e-3f, other[0] + 2 * other[1] + other[2])
                    : Math.min(2, one[1] / Math.max(1e-3f, other[1]));
            boolean edge = random.nextDouble() < 0.4;
            double period = edge ? 4 * r : 3 + random.nextDouble() * 9;
            double steep = edge || random.nextDouble() < 0.5 ? period / (2 * Math.PI) : 0.5;
            double turn = random.nextDouble() < 0.5 ? random.nextInt(2) * Math.PI / 2 : random.nextDouble() * Math.PI;
            double phase = edge ? 0 : random.nextDouble() * 2 * Math.PI;
            float[] mixed = new float[3];
            for (int y = (int) Math.max(0, cy - r - 1); y <= Math.min(size - 1, cy + r + 1); y++) {
                for (int x = (int) Math.max(0, cx - r - 1); x <= Math.min(size - 1, cx + r + 1); x++) {
                    double across = (x - cx) * Math.cos(turn) + (y - cy) * Math.sin(turn);
                    double wave = 0.5 + steep * Math.sin(2 * Math.PI * across / period + phase);
                    float share = (float) Math.min(1, Math.max(0, wave));
                    for (int c = 0; c < 3; c++) {
                        mixed[c] = one[c] + (even * other[c] - one[c]) * share;
                    }
                    cover(rgb, size, x, y, Math.hypot(x - cx, y - cy) - r, mixed, 1);
                }
            }
        }
    }

    /** Water, haze and fur out of focus: soft waves of many sizes along one direction, of little contrast. */
    private static void ripples(float[] rgb, int size, SplittableRandom random) {
        gradient(rgb, size, random);
        double angle = random.nextDouble() * Math.PI;
        double stretch = 1 + 5 * random.nextDouble();
        double contrast = 0.05 + 0.6 * random.nextDouble();
        double slope = 0.5 + random.nextDouble();
        float[] log = new float[size * size];
        for (double spacing = 3; spacing < size; spacing *= 2) {
            double height = contrast * Math.pow(spacing / size, slope);
            int points = (int) (2.2 * size / spacing) + 4;
            float[] lattice = new float[points * points];
            for (int i = 0; i < lattice.length; i++) {
                lattice[i] = (float) (height * Chance.normal(random));
            }
            for (int y = 0; y < size; y++) {
                for (int x = 0; x < size; x++) {
                    double p = ((x - size / 2.0) * Math.cos(angle) + (y - size / 2.0) * Math.sin(angle)) / stretch;
                    double q = (y - size / 2.0) * Math.cos(angle) - (x - size / 2.0) * Math.sin(angle);
                    log[y * size + x] +=
                            smooth(lattice, points, p / spacing + points / 2.0, q / spacing + points / 2.0);
                }
            }
        }
        for (int i = 0; i < log.length; i++) {
            float light = (float) Math.exp(3 * log[i]);
            for (int c = 0; c < 3; c++) {
                rgb[c * size * size + i] *= light;
            }
        }
    }

    /** Between the points of a lattice, without creases. */
    private static float smooth(float[] lattice, int points, double x, double y) {
        int x0 = (int) Math.min(points - 2, Math.max(0, Math.floor(x)));
        int y0 = (int) Math.min(points - 2, Math.max(0, Math.floor(y)));
        float u = (float) (x - x0);
        float v = (float) (y - y0);
        u = u * u * (3 - 2 * u);
        v = v * v * (3 - 2 * v);
        int i = y0 * points + x0;
        float top = lattice[i] + u * (lattice[i + 1] - lattice[i]);
        float bottom = lattice[i + points] + u * (lattice[i + points + 1] - lattice[i + points]);
        return top + v * (bottom - top);
    }

    /** Four even fields of colours of any depth, from white down to seven stops below. */
    static float[] evenFields(int size, SplittableRandom random) {
        float[] rgb = new float[3 * size * size];
        float[][] colours = new float[4][3];
        for (float[] colour : colours) {
            float level = (float) Math.pow(2, -5 * random.nextDouble());
            boolean deep = random.nextBoolean();
            for (int c = 0; c < 3; c++) {
                colour[c] = level * (float) Math.pow(2, (deep ? -5 : -1) * random.nextDouble());
            }
        }
        for (int i = 0; i < size * size; i++) {
            float[] colour = colours[(i / size < size / 2 ? 0 : 2) + (i % size < size / 2 ? 0 : 1)];
            for (int c = 0; c < 3; c++) {
                rgb[c * size * size + i] = colour[c];
            }
        }
        return rgb;
    }
}
