package org.rainsieve.scene;

import java.util.SplittableRandom;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Toads on a rainy road crossing by lamplight: a wet skin with warts on wet asphalt that mirrors the lamps far behind,
 * rain in the air. Lengths in toads: one is about as long as a hand.
 */
public final class ToadNight {
    private static final double HALF_HEIGHT = 0.092;
    private static final double[] KEY = Solid.unit(0.55, 0.72, -0.45);
    private static final double[] RIM = Solid.unit(-0.62, 0.33, 0.55);
    private static final double[] KEY_LIGHT = {1.25, 0.83, 0.44};
    private static final double[] RIM_LIGHT = {0.75, 0.82, 0.95};
    private static final double[] AMBIENT = {0.035, 0.040, 0.055};

    private final long seed;
    private final RainyNight.Lamp[] lamps;
    private final double turn;
    private final double crouch;
    private final double[] eye;

    /** @param seed another toad, another place, other lamps */
    public ToadNight(long seed) {
        this.seed = seed;
        SplittableRandom random = new SplittableRandom(seed * 77 + 5);
        turn = -0.9 + 1.5 * random.nextDouble();
        crouch = random.nextDouble();
        eye = new double[] {-1.5 + 3 * random.nextDouble(), 1.0 + 0.9 * random.nextDouble(), -12};
        lamps = new RainyNight.Lamp[9];
        double[][] colours = {
            {60, 34, 10},
            {60, 34, 10},
            {70, 52, 30},
            {46, 4, 3},
            {46, 4, 3},
            {8, 34, 22},
            {80, 74, 62},
            {60, 34, 10},
            {60, 30, 8}
        };
        for (int i = 0; i < lamps.length; i++) {
            double z = 28 + 60 * random.nextDouble();
            lamps[i] = new RainyNight.Lamp(
                    (random.nextDouble() - 0.5) * 0.42 * (z + 12),
                    0.6 + (0.02 + 0.11 * random.nextDouble()) * (z + 12),
                    z,
                    colours[i],
                    0.16 + 0.2 * random.nextDouble());
        }
    }

    /** @param missedMetres by how far the focus lies behind the toad, in toads */
    public SceneTruth render(int width, int height, double missedMetres) {
        View view = new View(eye, new double[] {0.1, 0.42, 0}, HALF_HEIGHT);
        Solid toad = this::toad;
        Region frame = new Region(0, 0, width, height);
        Planes ground = new Planes(frame, 3);
        Planes groundDepth = new Planes(frame, 1);
        view.render(ground, groundDepth, (direction, out) -> background(direction, out, toad, view));
        Planes subject = new Planes(frame, 4);
        Planes subjectDepth = new Planes(frame, 1);
        subject(view, toad, subject, subjectDepth);

        double focus = -eye[2] + missedMetres;
        Optic optic = new Optic(focus, height / 26.0);
        Planes through = optic.throughDepth(ground, groundDepth);
        Layer result = new Layer(width, height);
        for (int c = 0; c < 3; c++) {
            System.arraycopy(through.channel(c), 0, result.planes.channel(c), 0, width * height);
        }
        // Dots of light behind everything: discs of their own, added after, as they are far brighter than what they
        // cover.
        for (RainyNight.Lamp lamp : lamps) {
            RainyNight.bokeh(result, view.project(lamp.x(), lamp.y(), lamp.z(), width, height), lamp, optic);
        }
        double subjectBlur = Math.max(0.35, optic.radiusPx(-eye[2]));
        result.over(new Layer(DiscBlur.blur(subject, subjectBlur)));
        RainyNight.rain(result, optic, seed);

        Planes srgb = new Planes(frame, 3);
        Planes depth = new Planes(frame, 1);
        Planes blur = new Planes(frame, 1);
        for (int i = 0; i < width * height; i++) {
            boolean on = subject.channel(3)[i] > 0.5;
            float d = on ? subjectDepth.channel(0)[i] : groundDepth.channel(0)[i];
            depth.channel(0)[i] = d;
            blur.channel(0)[i] = (float) (on ? subjectBlur : optic.radiusPx(d));
        }
        for (int c = 0; c < 3; c++) {
            System.arraycopy(result.planes.channel(c), 0, srgb.channel(c), 0, width * height);
        }
        return new SceneTruth(srgb, depth, blur, focus);
    }

    private double toad(double wx, double wy, double wz) {
        double c = Math.cos(turn);
        double s = Math.sin(turn);
        double x = wx * c + wz * s;
        double z = -wx * s + wz * c;
        double y = wy;
        if (x * x + y * y + z * z > 1.6) {
            return Math.sqrt(x * x + y * y + z * z) - 1.1;
        }
        double lift = 0.06 * crouch;
        double m = Math.abs(z);
        double body = Solid.ellipsoid(x + 0.12, y - 0.31 - lift, z, 0.46, 0.27, 0.33);
        body = Solid.join(body, Solid.ellipsoid(x + 0.30, y - 0.24, z, 0.30, 0.22, 0.36), 0.12);
        double head = Solid.ellipsoid(x - 0.32, y - 0.43 - 1.5 * lift, z, 0.24, 0.155, 0.23);
        body = Solid.join(body, head, 0.10);
        body = Solid.join(body, Solid.ellipsoid(x - 0.36, y - 0.545 - 1.5 * lift, m - 0.13, 0.095, 0.085, 0.075), 0.03);
        double legs = Solid.ellipsoid(x + 0.34, y - 0.17, m - 0.33, 0.26, 0.12, 0.11);
        legs = Math.min(legs, Solid.capsule(x, y, m, -0.55, 0.09, 0.40, -0.12, 0.06, 0.47, 0.065));
        for (int toe = 0; toe < 3; toe++) {
            double away = -0.10 + 0.13 * toe;
            legs = Math.min(
                    legs, Solid.capsule(x, y, m, -0.14, 0.05, 0.47, 0.08 - 0.1 * toe, 0.015, 0.47 + away, 0.028));
            legs = Math.min(
                    legs, Solid.capsule(x, y, m, 0.30, 0.06, 0.31, 0.46 - 0.06 * toe, 0.015, 0.24 + 0.11 * toe, 0.024));
        }
        legs = Math.min(legs, Solid.capsule(x, y, m, 0.14, 0.30 + lift, 0.25, 0.30, 0.06, 0.31, 0.085));
        body = Solid.join(body, legs, 0.05);
        if (body > 0.08) {
            return body;
        }
        // Warts of three sizes over a grained skin.
        double wart = 0.013
                        * Texture.step(0.42, 0.05, Texture.cells(x * 8, y * 8, z * 8, seed))
                        * (0.3 + Texture.noise(x * 4, y * 4, z * 4, seed + 7))
                + 0.0055 * Texture.step(0.5, 0.1, Texture.cells(x * 24, y * 24, z * 24, seed + 9))
                + 0.004 * Texture.noise(x * 70, y * 70, z * 70, seed + 3);
        return body - wart;
    }

    private void subject(View view, Solid toad, Planes out, Planes depth) {
        int w = out.region().width();
        int h = out.region().height();
        double distance = -eye[2];
        java.util.stream.IntStream.range(0, h).parallel().forEach(y -> {
            double[] colour = new double[3];
            for (int x = 0; x < w; x++) {
                int i = y * w + x;
                for (int k = 0; k < 2; k++) {
                    double[] d = view.ray(x + 0.25 + 0.5 * k, y + 0.75 - 0.5 * k, w, h);
                    double t = toad.meet(view.eye, d, distance - 1.6, distance + 1.6, 0.0015);
                    if (t < 0) {
                        continue;
                    }
                    skin(view.eye[0] + t * d[0], view.eye[1] + t * d[1], view.eye[2] + t * d[2], d, toad, colour);
                    for (int c = 0; c < 3; c++) {
                        out.channel(c)[i] += (float) (colour[c] / 2);
                    }
                    out.channel(3)[i] += 0.5f;
                    depth.channel(0)[i] = (float) view.depth(d, t);
                }
            }
        });
    }

    private void skin(double x, double y, double z, double[] ray, Solid toad, double[] out) {
        double[] n = toad.normal(x, y, z, 0.0012);
        double c = Math.cos(turn);
        double s = Math.sin(turn);
        double lx = x * c + z * s;
        double lz = -x * s + z * c;
        double blotch = Texture.fractal(lx * 5, y * 5, lz * 5, 4, seed + 20);
        double fine = Texture.fractal(lx * 48, y * 48, lz * 48, 3, seed + 30);
        double pale = Texture.step(0.32, 0.08, y) * 0.6;
        double mix = Texture.step(0.42, 0.62, blotch);
        double[] albedo = new double[3];
        double[] dark = {0.11, 0.072, 0.034};
        double[] light = {0.32, 0.235, 0.125};
        for (int k = 0; k < 3; k++) {
            albedo[k] = (dark[k] + (light[k] - dark[k]) * Math.max(mix * 0.8, pale)) * (0.55 + 0.9 * fine);
        }
        double wet = 0.10 + 0.5 * Texture.step(0.5, 0.7, Texture.fractal(lx * 7, y * 7, lz * 7, 3, seed + 33));
        double lift = 0.09 * crouch;
        double ex = lx - 0.40;
        double ey = y - 0.548 - lift;
        double ez = Math.abs(lz) - 0.178;
        boolean inEye = ex * ex + ey * ey + ez * ez < 0.0032;
        if (inEye) {
            // A golden iris with a level pupil.
            double across = Math.hypot(ex * 1.1, ey * 2.3);
            boolean pupil = across < 0.043 && Math.abs(ey) < 0.016;
            double spark = 0.5 + Texture.fractal(lx * 130, y * 130, lz * 130, 2, seed + 40);
            albedo = pupil
                    ? new double[] {0.004, 0.004, 0.004}
                    : new double[] {0.55 * spark, 0.30 * spark, 0.05 * spark};
            wet = 3;
        }
        double occlusion = Math.min(1, 0.35 + 0.65 * Texture.step(-0.02, 0.25, y))
                * Math.min(1, 0.4 + 8 * toad.distance(x + 0.08 * n[0], y + 0.08 * n[1], z + 0.08 * n[2]));
        double[] half1 = Solid.unit(KEY[0] - ray[0], KEY[1] - ray[1], KEY[2] - ray[2]);
        double[] half2 = Solid.unit(RIM[0] - ray[0], RIM[1] - ray[1], RIM[2] - ray[2]);
        double key = Math.max(0, Solid.dot(n, KEY)) * toad.shadow(x, y, z, n, KEY);
        double rim = Math.max(0, Solid.dot(n, RIM));
        double gloss1 = wet * Math.pow(Math.max(0, Solid.dot(n, half1)), 70) * (key > 0 ? 1 : 0);
        double gloss2 = wet * 0.8 * Math.pow(Math.max(0, Solid.dot(n, half2)), 50);
        double edge = 0.05 * Math.pow(1 - Math.max(0, -Solid.dot(n, ray)), 4);
        for (int k = 0; k < 3; k++) {
            out[k] = albedo[k] * occlusion * (KEY_LIGHT[k] * key + 0.55 * RIM_LIGHT[k] * rim + AMBIENT[k])
                    + 0.9 * KEY_LIGHT[k] * gloss1
                    + 0.5 * RIM_LIGHT[k] * gloss2
                    + edge * RIM_LIGHT[k] * occlusion;
        }
    }

    private void background(double[] d, double[] out, Solid toad, View view) {
        if (d[1] >= -0.004) {
            sky(d, out);
            out[3] = 90;
            return;
        }
        double t = -eye[1] / d[1];
        double x = eye[0] + t * d[0];
        double z = eye[2] + t * d[2];
        if (z > 75) {
            sky(d, out);
            out[3] = 90;
            return;
        }
        // Asphalt: stones in dark binder, puddles, a painted line; wet all over.
        double scale = 1 / Math.max(1, (z + 12) / 14);
        double stones = Texture.cells(x * 17, 0, z * 17, seed + 50);
        double grain = Texture.fractal(x * 40, 0, z * 40, 2, seed + 60);
        double puddle = Texture.step(0.50, 0.60, Texture.fractal(x * 0.6, 1, z * 0.35, 4, seed + 70));
        double line = Texture.step(0.34, 0.30, Math.abs(x * 0.94 + z * 0.33 - 1.9))
                * Texture.step(0.30, 0.5, Texture.fractal(x * 6, 2, z * 6, 3, seed + 80) + 0.12);
        double tone = 0.010
                + 0.16
                        * Texture.step(0.5, 0.2, stones)
                        * Texture.hash((int) Math.floor(x * 17 + 0.5), 0, (int) Math.floor(z * 17 + 0.5), seed + 51)
                + 0.04 * grain;
        double[] albedo = {tone + 0.35 * line, tone + 0.34 * line, tone * 0.96 + 0.30 * line};
        double rough = (1 - puddle) * scale;
        double nx = rough * 0.20 * (Texture.noise(x * 19, 3, z * 19, seed + 90) - 0.5)
                + 0.004 * (Texture.noise(x * 5, 4, z * 5, seed) - 0.5);
        double nz = rough * 0.20 * (Texture.noise(x * 19, 5, z * 19, seed + 91) - 0.5);
        double[] n = Solid.unit(nx, 1, nz);
        double facing = 2 * Solid.dot(d, n);
        double[] mirrored = Solid.unit(d[0] - facing * n[0], Math.abs(d[1] - facing * n[1]), d[2] - facing * n[2]);
        double fresnel = 0.03 + 0.97 * Math.pow(1 - Math.max(0, -Solid.dot(d, n)), 5);
        double lamp = Math.max(0, Solid.dot(n, KEY));
        double dim = 0.5 + 0.5 / (1 + 0.02 * (x * x + z * z));
        double contact = 1;
        double[] mirror = {0.01, 0.012, 0.018};
        double near = x * x + z * z;
        if (near < 4) {
            double over = toad.distance(x, 0.05, z);
            contact = Math.min(1, 0.15 + 2.2 * Math.max(0, over)) * (0.25 + 0.75 * toad.shadow(x, 0.01, z, n, KEY));
            double hit = toad.meet(new double[] {x, 0.01, z}, mirrored, 0.02, 1.8, 0.01);
            if (hit > 0) {
                mirror = new double[] {0.05, 0.036, 0.02};
            } else {
                reflections(x, z, mirrored, mirror);
            }
        } else {
            reflections(x, z, mirrored, mirror);
        }
        for (int k = 0; k < 3; k++) {
            out[k] = albedo[k] * (0.75 * KEY_LIGHT[k] * lamp * dim * contact + 1.5 * AMBIENT[k])
                    + fresnel * (0.35 + 0.65 * puddle) * mirror[k];
        }
        // A glint of the key lamp on wet stones.
        double[] half = Solid.unit(KEY[0] - d[0], KEY[1] - d[1], KEY[2] - d[2]);
        double glint = 0.5 * contact * Math.pow(Math.max(0, Solid.dot(n, half)), 400);
        for (int k = 0; k < 3; k++) {
            out[k] += glint * KEY_LIGHT[k];
        }
        out[3] = view.depth(d, t);
    }

    /** Lamps seen in the road: drawn out towards the viewer, as roughness does. */
    private void reflections(double x, double z, double[] mirrored, double[] out) {
        for (RainyNight.Lamp lamp : lamps) {
            double[] to = Solid.unit(lamp.x() - x, lamp.y(), lamp.z() - z);
            double across = Math.atan2(to[0], to[2]) - Math.atan2(mirrored[0], mirrored[2]);
            double along = Math.asin(to[1]) - Math.asin(Math.min(1, mirrored[1]));
            double light = 0.055 * lamp.size() * Math.exp(-across * across / 0.00016 - along * along / 0.006);
            for (int k = 0; k < 3; k++) {
                out[k] += lamp.colour()[k] * light;
            }
        }
    }

    private void sky(double[] d, double[] out) {
        double trees = Texture.fractal(d[0] * 30, d[1] * 40, 7, 5, seed + 100);
        double height = 0.06 + 0.05 * Texture.fractal(d[0] * 9, 3, 1, 3, seed + 110);
        double wood = Texture.step(height + 0.02, height - 0.02, d[1] + 0.03 * (trees - 0.5));
        double glow = Math.exp(-Math.max(0, d[1]) * 14);
        out[0] = (0.010 + 0.030 * glow) * (1 - wood) + wood * 0.006 * trees;
        out[1] = (0.011 + 0.021 * glow) * (1 - wood) + wood * 0.009 * trees;
        out[2] = (0.018 + 0.018 * glow) * (1 - wood) + wood * 0.007 * trees;
        for (RainyNight.Lamp lamp : lamps) {
            double[] to = Solid.unit(lamp.x() - eye[0], lamp.y() - eye[1], lamp.z() - eye[2]);
            double angle = Math.acos(Math.min(1, Solid.dot(to, d)));
            double halo = 0.0045 * Math.exp(-angle * 60);
            for (int k = 0; k < 3; k++) {
                out[k] += lamp.colour()[k] * halo;
            }
        }
    }
}
