package org.rainsieve.scene;

import java.util.SplittableRandom;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** A wind pump under stars: a smooth sky glow, stars of many brightnesses, a lattice tower lit by a lantern, grass. */
public final class WindPump {
    private static final double[] LANTERN = {1.0, 0.62, 0.30};

    private final long seed;

    /** @param seed another stand, another sky */
    public WindPump(long seed) {
        this.seed = seed;
    }

    /** Where a star was put and how much light it has, for checks of star photometry. */
    public record Star(double x, double y, double flux, double sigmaPx) {}

    /** The stars of a frame; the same seed gives the same ones. */
    public java.util.List<Star> stars(int width, int height) {
        SplittableRandom random = new SplittableRandom(seed * 31 + 2);
        java.util.List<Star> stars = new java.util.ArrayList<>();
        int count = (int) (width * (double) height / 420);
        double sigma = 0.95 + 0.15 * random.nextDouble();
        for (int i = 0; i < count; i++) {
            double x = random.nextDouble() * width;
            double y = random.nextDouble() * height * 0.93;
            // Counts grow by about 2.8 for each magnitude (a factor of 2.5 in light).
            double flux = 0.16 * Math.pow(1 - random.nextDouble(), -1 / 1.15);
            if (random.nextDouble() < 0.35 + 0.65 * milky(x / height, y / height)) {
                stars.add(new Star(x, y, Math.min(flux, 90), sigma));
            }
        }
        return stars;
    }

    private double milky(double u, double v) {
        double across = (v - 0.35) * 0.9 + (u - 0.75) * 0.55;
        double lanes = Texture.fractal(u * 4, v * 4, 1, 5, seed + 1);
        return Math.exp(-across * across / 0.035) * Math.max(0, 1.6 * lanes - 0.35);
    }

    public SceneTruth render(int width, int height) {
        Region frame = new Region(0, 0, width, height);
        Layer sky = new Layer(width, height);
        SplittableRandom random = new SplittableRandom(seed);
        double horizon = 0.86 + 0.04 * random.nextDouble();
        double glowAt = random.nextDouble() * width / height;
        java.util.stream.IntStream.range(0, height).parallel().forEach(y -> {
            for (int x = 0; x < width; x++) {
                double u = (double) x / height;
                double v = (double) y / height;
                double up = Math.max(0, horizon - v);
                double town = Math.exp(-up * 7) * Math.exp(-(u - glowAt) * (u - glowAt) * 1.6);
                double air = Math.exp(-up * 3.0);
                double m = milky(u, v);
                int i = y * width + x;
                sky.planes.channel(0)[i] = (float) (0.017 + 0.21 * town + 0.026 * air + 0.060 * m);
                sky.planes.channel(1)[i] = (float) (0.021 + 0.125 * town + 0.040 * air + 0.054 * m);
                sky.planes.channel(2)[i] = (float) (0.031 + 0.060 * town + 0.036 * air + 0.057 * m);
            }
        });
        for (Star star : stars(width, height)) {
            double tint = Texture.hash((int) (star.x * 16), (int) (star.y * 16), 0, seed);
            point(sky, star, new double[] {0.8 + 0.45 * tint, 0.95, 1.25 - 0.5 * tint});
        }
        Planes depth = new Planes(frame, 1);
        java.util.Arrays.fill(depth.channel(0), 1e6f);
        Layer land = new Layer(width, height);
        hills(land, horizon, depth);
        tower(land, random, horizon);
        grass(land, random);
        sky.over(new Layer(DiscBlur.blur(land.planes, 0.7)));
        Planes srgb = new Planes(frame, 3);
        for (int c = 0; c < 3; c++) {
            System.arraycopy(sky.planes.channel(c), 0, srgb.channel(c), 0, width * height);
        }
        for (int i = 0; i < width * height; i++) {
            if (land.planes.channel(3)[i] > 0.5 && depth.channel(0)[i] > 1e5) {
                depth.channel(0)[i] = 40;
            }
        }
        Planes blur = new Planes(frame, 1);
        java.util.Arrays.fill(blur.channel(0), 0.7f);
        return new SceneTruth(srgb, depth, blur, 1e6);
    }

    /** A star as the lens draws it: a Gaussian, and a faint wider one around bright ones. */
    private static void point(Layer sky, Star star, double[] tint) {
        int reach = star.flux > 4 ? 14 : 6;
        double s2 = 2 * star.sigmaPx * star.sigmaPx;
        double peak = star.flux / (Math.PI * s2);
        for (int y = (int) star.y - reach; y <= star.y + reach; y++) {
            for (int x = (int) star.x - reach; x <= star.x + reach; x++) {
                double d2 = (x + 0.5 - star.x) * (x + 0.5 - star.x) + (y + 0.5 - star.y) * (y + 0.5 - star.y);
                double light =
                        peak * Math.exp(-d2 / s2) + (star.flux > 4 ? 0.004 * peak * Math.exp(-d2 / (s2 * 9)) : 0);
                sky.add(x, y, tint[0] * light, tint[1] * light, tint[2] * light);
            }
        }
    }

    private void hills(Layer land, double horizon, Planes depth) {
        int w = land.width;
        int h = land.height;
        for (int x = 0; x < w; x++) {
            double u = (double) x / h;
            for (int ridge = 0; ridge < 3; ridge++) {
                double top = horizon
                        - 0.03
                        + 0.035 * ridge
                        + (0.05 - 0.012 * ridge)
                                * (0.5 - Texture.fractal(u * (1.3 + ridge), ridge, 0, 6, seed + 40 + ridge));
                double tone = 0.008 + 0.004 * (2 - ridge);
                int from = (int) Math.max(0, top * h);
                for (int y = from; y < h; y++) {
                    double rough = Texture.fractal(u * 60, (double) y / h * 90, ridge, 3, seed + 50);
                    double coverage = Math.min(1, y + 1 - top * h);
                    land.over(x, y, tone * (0.5 + rough), tone * (0.55 + rough), tone * (0.55 + 0.9 * rough), coverage);
                    depth.channel(0)[y * w + x] = 4000 - 1900 * ridge;
                }
            }
        }
    }

    private void tower(Layer land, SplittableRandom random, double horizon) {
        double h = land.height;
        double foot = (horizon + 0.06) * h;
        double top = (0.20 + 0.1 * random.nextDouble()) * h;
        double cx = (0.35 + 0.75 * random.nextDouble()) * h;
        double wide = 0.115 * h;
        double narrow = 0.013 * h;
        double px = h / 1000;
        int bays = 9;
        double[][] legs = {{-1, 1}, {-0.42, 0.6}, {0.5, 0.7}, {1, 1.05}};
        for (int leg = 0; leg < 4; leg++) {
            double side = legs[leg][0];
            for (int part = 0; part < 40; part++) {
                double t0 = part / 40.0;
                double t1 = (part + 1) / 40.0;
                double[] c = steel(t0, legs[leg][1]);
                land.line(
                        x(cx, side, t0, wide, narrow),
                        y(t0, foot, top),
                        x(cx, side, t1, wide, narrow),
                        y(t1, foot, top),
                        Math.max(1.2, 4.2 * px),
                        0,
                        c,
                        1);
            }
        }
        for (int bay = 0; bay < bays; bay++) {
            double t0 = 1 - Math.pow(1 - bay / (double) bays, 1.25);
            double t1 = 1 - Math.pow(1 - (bay + 1) / (double) bays, 1.25);
            for (int pair = 0; pair < 3; pair++) {
                double a = legs[pair][0];
                double b = legs[pair + 1][0];
                double[] c = steel(t0, 0.6 + 0.3 * pair);
                double thin = Math.max(1, 1.9 * px);
                land.line(
                        x(cx, a, t0, wide, narrow),
                        y(t0, foot, top),
                        x(cx, b, t1, wide, narrow),
                        y(t1, foot, top),
                        thin,
                        0,
                        c,
                        0.95);
                land.line(
                        x(cx, b, t0, wide, narrow),
                        y(t0, foot, top),
                        x(cx, a, t1, wide, narrow),
                        y(t1, foot, top),
                        thin,
                        0,
                        c,
                        0.95);
                land.line(
                        x(cx, a, t1, wide, narrow),
                        y(t1, foot, top),
                        x(cx, b, t1, wide, narrow),
                        y(t1, foot, top),
                        thin * 1.2,
                        0,
                        c,
                        1);
            }
        }
        double hub = top - 0.012 * h;
        double radius = 0.098 * h;
        double tilt = 0.72;
        double[] vane = steel(1, 0.8);
        for (int k = 0; k < 26; k++) {
            double v = (k / 25.0 - 0.5) * 0.075 * h;
            land.line(
                    cx + 0.10 * h,
                    hub + v * 0.6,
                    cx + 0.19 * h,
                    hub + v,
                    Math.max(1.5, 3.2 * px),
                    0,
                    steel(1, 0.5 + 0.5 * k / 25),
                    1);
        }
        land.line(cx, hub, cx + 0.12 * h, hub, Math.max(1.2, 3 * px), 0, vane, 1);
        double start = random.nextDouble();
        for (int blade = 0; blade < 18; blade++) {
            double angle = (blade + start) * 2 * Math.PI / 18;
            for (int strip = 0; strip < 9; strip++) {
                double turn = angle + (strip - 4) * 0.021;
                double inner = 0.36 * radius;
                double outer = radius * (1 - 0.004 * (strip - 4) * (strip - 4));
                double light = 0.35 + 0.65 * Math.max(0, Math.cos(angle - 2.2)) + 0.04 * (strip - 4);
                land.line(
                        cx + tilt * inner * Math.cos(turn),
                        hub + inner * Math.sin(turn),
                        cx + tilt * outer * Math.cos(turn),
                        hub + outer * Math.sin(turn),
                        Math.max(1.3, 2.9 * px),
                        0,
                        steel(0.8, light),
                        1);
            }
        }
        for (int ring = 0; ring < 2; ring++) {
            double r = radius * (0.40 + 0.38 * ring);
            for (int k = 0; k < 90; k++) {
                double a = k * 2 * Math.PI / 90;
                double b = (k + 1) * 2 * Math.PI / 90;
                land.line(
                        cx + tilt * r * Math.cos(a),
                        hub + r * Math.sin(a),
                        cx + tilt * r * Math.cos(b),
                        hub + r * Math.sin(b),
                        Math.max(1, 1.6 * px),
                        0,
                        steel(0.8, 0.7),
                        1);
            }
        }
        land.disc(cx, hub, 0.010 * h, steel(0.8, 1.1), 1);
    }

    private static double x(double cx, double side, double t, double wide, double narrow) {
        return cx + side * (wide + (narrow - wide) * t);
    }

    private static double y(double t, double foot, double top) {
        return foot + (top - foot) * t;
    }

    /** Galvanised steel in the light of a lantern at the foot, which fades upwards. */
    private double[] steel(double t, double side) {
        double light = 0.035 + 0.30 * Math.exp(-2.6 * t) * side + 0.02 * side;
        double rust = 0.8 + 0.4 * Texture.noise(t * 40, side * 3, 0, seed + 60);
        return new double[] {light * LANTERN[0] * rust, light * 0.74 * rust, light * 0.52};
    }

    private void grass(Layer land, SplittableRandom random) {
        int count = land.width * land.height / 1400;
        double h = land.height;
        for (int i = 0; i < count; i++) {
            double nearness = Math.sqrt((i + 0.5) / count);
            double y = (0.93 + 0.12 * nearness) * h;
            double x = random.nextDouble() * land.width;
            double length = (0.012 + 0.055 * nearness * random.nextDouble()) * h;
            double lean = (random.nextDouble() - 0.35) * 0.8 * length;
            double light = 0.007 + 0.06 * Math.exp(-Math.pow((x / h - 0.7) * 1.4, 2)) * random.nextDouble();
            land.stroke(
                    x,
                    y,
                    x + lean,
                    y - length,
                    1 + 1.4 * nearness * h / 1000,
                    new double[] {light * 1.2, light, light * 0.35},
                    0.95);
        }
    }
}
