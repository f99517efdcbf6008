package org.rainsieve.scene;

import java.util.SplittableRandom;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * Boats with paper lanterns on a lake at dusk: rowers in striped cloth and straw hats, skin and hair, a brass horn, wood,
 * and rippled water that mirrors the lamps. Lengths in metres.
 */
public final class LanternRegatta {
    private static final double[] SKY_LIGHT = Solid.unit(-0.25, 0.85, -0.45);

    private enum Stuff {
        WOOD,
        CLOTH,
        SKIN,
        STRAW,
        BRASS,
        PAPER,
        HAIR
    }

    private record Lantern(double x, double y, double z, double radius, double[] colour) {}

    private final long seed;
    private final Lantern[] lanterns;
    private final double sway;
    private final double lean;
    private final double[] clothA;
    private final double[] clothB;
    private final double[] skin;
    private final double[] eye;

    /** @param seed another boat and crew */
    public LanternRegatta(long seed) {
        this.seed = seed;
        SplittableRandom random = new SplittableRandom(seed * 13 + 3);
        sway = (random.nextDouble() - 0.5) * 0.5;
        lean = (random.nextDouble() - 0.5) * 0.35;
        double[][] cloth = {
            {0.42, 0.03, 0.035}, {0.03, 0.06, 0.26}, {0.02, 0.17, 0.12}, {0.38, 0.22, 0.02}, {0.16, 0.03, 0.20}
        };
        clothA = cloth[random.nextInt(cloth.length)];
        clothB = new double[] {0.62, 0.58, 0.50};
        double[][] skins = {{0.52, 0.31, 0.21}, {0.33, 0.18, 0.11}, {0.14, 0.075, 0.045}, {0.60, 0.38, 0.28}};
        skin = skins[random.nextInt(skins.length)];
        eye = new double[] {-0.6 + 1.2 * random.nextDouble(), 1.25 + 0.3 * random.nextDouble(), -6.2};
        double[][] papers = {
            {1.0, 0.42, 0.10}, {1.0, 0.16, 0.07}, {1.0, 0.60, 0.24}, {0.45, 0.75, 0.28}, {0.9, 0.30, 0.42}
        };
        lanterns = new Lantern[14];
        lanterns[0] = new Lantern(0.62, 1.16, 0.10, 0.17, papers[random.nextInt(3)]);
        lanterns[1] = new Lantern(-0.78, 1.02, 0.25, 0.15, papers[random.nextInt(5)]);
        for (int i = 2; i < lanterns.length; i++) {
            double z = 5 + 40 * random.nextDouble() * random.nextDouble();
            lanterns[i] = new Lantern(
                    (random.nextDouble() - 0.5) * 0.62 * (z + 7),
                    0.5 + 0.9 * random.nextDouble(),
                    z,
                    0.13 + 0.06 * random.nextDouble(),
                    papers[random.nextInt(5)]);
        }
    }

    /** @param missedMetres by how far the focus lies behind the rower */
    public SceneTruth render(int width, int height, double missedMetres) {
        View view = new View(eye, new double[] {0.02, 0.86, 0}, 0.128);
        Region frame = new Region(0, 0, width, height);
        Planes rgb = new Planes(frame, 3);
        Planes depth = new Planes(frame, 1);
        view.render(rgb, depth, (direction, out) -> background(direction, out, view));
        Planes crew = new Planes(frame, 4);
        Planes crewDepth = new Planes(frame, 1);
        Solid solid = this::crew;
        java.util.stream.IntStream.range(0, height).parallel().forEach(y -> {
            double[] colour = new double[3];
            for (int x = 0; x < width; x++) {
                for (int k = 0; k < 2; k++) {
                    double[] d = view.ray(x + 0.25 + 0.5 * k, y + 0.75 - 0.5 * k, width, height);
                    double t = solid.meet(eye, d, 4.4, 8.4, 0.0012);
                    if (t < 0) {
                        continue;
                    }
                    shade(eye[0] + t * d[0], eye[1] + t * d[1], eye[2] + t * d[2], d, solid, colour);
                    int i = y * width + x;
                    for (int c = 0; c < 3; c++) {
                        crew.channel(c)[i] += (float) (colour[c] / 2);
                    }
                    crew.channel(3)[i] += 0.5f;
                    crewDepth.channel(0)[i] = (float) view.depth(d, t);
                }
            }
        });
        double focus = -eye[2] + missedMetres;
        Optic optic = new Optic(focus, height / 42.0);
        Planes through = optic.throughDepth(rgb, depth);
        Layer result = new Layer(width, height);
        for (int c = 0; c < 3; c++) {
            System.arraycopy(through.channel(c), 0, result.planes.channel(c), 0, width * height);
        }
        Layer sharp = new Layer(width, height);
        for (int c = 0; c < 4; c++) {
            System.arraycopy(crew.channel(c), 0, sharp.planes.channel(c), 0, width * height);
        }
        hair(sharp, view);
        double crewBlur = Math.max(0.35, optic.radiusPx(-eye[2]));
        Planes blurred = DiscBlur.blur(sharp.planes, crewBlur);
        for (int c = 0; c < 4; c++) {
            System.arraycopy(blurred.channel(c), 0, sharp.planes.channel(c), 0, width * height);
        }
        result.over(sharp);
        for (Lantern lantern : lanterns) {
            halo(result, view.project(lantern.x, lantern.y, lantern.z, width, height), lantern);
        }
        Planes srgb = new Planes(frame, 3);
        Planes blur = new Planes(frame, 1);
        for (int c = 0; c < 3; c++) {
            System.arraycopy(result.planes.channel(c), 0, srgb.channel(c), 0, width * height);
        }
        for (int i = 0; i < width * height; i++) {
            boolean on = crew.channel(3)[i] > 0.5;
            if (on) {
                depth.channel(0)[i] = crewDepth.channel(0)[i];
            }
            blur.channel(0)[i] = (float) (on ? crewBlur : optic.radiusPx(depth.channel(0)[i]));
        }
        return new SceneTruth(srgb, depth, blur, focus);
    }

    private double crew(double x, double y, double z) {
        double least = Double.MAX_VALUE;
        for (Stuff stuff : Stuff.values()) {
            least = Math.min(least, part(stuff, x, y, z));
        }
        return least;
    }

    private double part(Stuff stuff, double x, double y, double z) {
        double bx = x - 0.05;
        double m = Math.abs(z + 0.02);
        double hx = x - 0.02 - lean * 0.35;
        return switch (stuff) {
            case WOOD -> {
                double hull = Solid.ellipsoid(bx, y - 0.62, z, 2.3, 0.55, 0.52);
                double inside = Solid.ellipsoid(bx, y - 0.70, z, 2.2, 0.52, 0.45);
                double shell = Math.max(Math.max(hull, -inside), y - 0.56);
                double oar = Solid.capsule(x, y, z, -0.15, 0.72, -0.18, 0.95, 0.50, -0.95, 0.024);
                double post = Solid.capsule(x, y, z, 0.62, 0.4, 0.10, 0.62, 1.42, 0.10, 0.016);
                yield Math.min(Math.min(shell, oar), post) - 0.0015 * Texture.noise(x * 9, y * 60, z * 60, seed);
            }
            case CLOTH -> {
                double tx = x - lean * 0.35 * (y - 0.5);
                double torso = Solid.ellipsoid(tx, y - 0.74, z, 0.185, 0.30, 0.15);
                torso = Solid.join(torso, Solid.ellipsoid(tx, y - 0.93, z, 0.215, 0.10, 0.13), 0.08);
                double sleeves = Math.min(
                        Solid.capsule(x, y, z, 0.19, 0.95, -0.03, 0.24, 0.74, -0.14, 0.066),
                        Solid.capsule(x, y, z, -0.19, 0.95, -0.03, -0.27, 0.76, -0.12, 0.066));
                double folds = 0.008 * Texture.fractal(x * 9, y * 22, z * 9, 3, seed + 5);
                yield Solid.join(torso, sleeves, 0.05) + folds - 0.004;
            }
            case SKIN -> {
                double head = Solid.ellipsoid(hx, y - 1.185, z + 0.01, 0.088, 0.122, 0.105);
                head = Solid.join(
                        head, Solid.ellipsoid(hx + 0.02 * sway, y - 1.12, z + 0.055, 0.062, 0.07, 0.062), 0.04);
                head = Solid.join(
                        head,
                        Solid.capsule(hx, y, z, 0.02 * sway, 1.20, -0.105, 0.025 * sway, 1.165, -0.125, 0.018),
                        0.02);
                double neck = Solid.capsule(x, y, z, lean * 0.17, 0.98, 0.02, 0.02 + lean * 0.35, 1.12, 0.02, 0.058);
                double arms = Math.min(
                        Solid.capsule(x, y, z, 0.24, 0.75, -0.13, 0.10, 0.70, -0.34, 0.043),
                        Solid.capsule(x, y, z, -0.27, 0.76, -0.11, -0.10, 0.71, -0.24, 0.043));
                double ears = Solid.ellipsoid(Math.abs(hx) - 0.09, y - 1.17, z - 0.005, 0.014, 0.032, 0.022);
                yield Math.min(Math.min(Solid.join(head, neck, 0.03), arms), ears);
            }
            case HAIR ->
                Solid.ellipsoid(hx, y - 1.215, z - 0.028, 0.099, 0.108, 0.108)
                        + 0.006 * Texture.fractal(hx * 60, y * 14, z * 60, 2, seed + 12);
            case STRAW -> {
                double cy = y - 1.292 - 0.05 * hx * sway;
                double r = Math.hypot(hx, z);
                double brim = Math.max(r - 0.20, Math.abs(cy) - 0.006);
                double crown = Math.max(r - 0.108, Math.abs(cy - 0.045) - 0.045);
                yield Math.min(brim, crown)
                        - 0.002 * Texture.noise(Math.atan2(z, hx) * 30, r * 220, cy * 200, seed + 8);
            }
            case BRASS -> {
                double ax = x + 0.78;
                double ay = y - 0.78;
                double az = z - 0.35;
                double along = 0.55 * ax + 0.62 * ay - 0.55 * az;
                double off = Math.sqrt(Math.max(0, ax * ax + ay * ay + az * az - along * along));
                double flare = 0.028 + 0.155 * Math.pow(Math.max(0, (along + 0.1) / 0.42), 3);
                double bell = Math.max(Math.abs(off - flare) - 0.004, Math.max(-0.35 - along, along - 0.34));
                double ring = Math.hypot(Math.hypot(ax + 0.14, ay + 0.20) - 0.13, az + 0.04) - 0.022;
                yield Math.min(0.7 * bell, ring);
            }
            case PAPER -> {
                double least = 9;
                for (int i = 0; i < 2; i++) {
                    Lantern l = lanterns[i];
                    double ribs = 0.006 * Math.abs(Math.sin((y - l.y) / l.radius * 11));
                    least = Math.min(
                            least,
                            Solid.ellipsoid(x - l.x, y - l.y, z - l.z, l.radius, l.radius * 0.86, l.radius) + ribs);
                }
                yield least;
            }
        };
    }

    private void shade(double x, double y, double z, double[] ray, Solid solid, double[] out) {
        Stuff stuff = Stuff.WOOD;
        double least = Double.MAX_VALUE;
        for (Stuff candidate : Stuff.values()) {
            double d = part(candidate, x, y, z);
            if (d < least) {
                least = d;
                stuff = candidate;
            }
        }
        double[] n = solid.normal(x, y, z, 0.0015);
        if (stuff == Stuff.PAPER) {
            Lantern l = Math.abs(x - lanterns[0].x) < 0.3 ? lanterns[0] : lanterns[1];
            double up = (y - l.y) / l.radius;
            double rib = 0.75 + 0.25 * Math.abs(Math.sin(up * 11));
            double fibre = 0.8 + 0.4 * Texture.fractal(x * 70, y * 70, z * 70, 3, seed + 70);
            double light = (0.55 + 0.9 * Math.exp(-3.5 * (up + 0.25) * (up + 0.25)))
                    * rib
                    * fibre
                    * Math.max(0.35, -Solid.dot(n, ray));
            double cap = Math.abs(up) > 0.80 ? 0.08 : 1;
            for (int k = 0; k < 3; k++) {
                out[k] = 1.9 * light * Math.pow(l.colour[k], 0.8) * cap;
            }
            return;
        }
        double[] albedo = albedo(stuff, x, y, z);
        double[] shine = {0.04, 0.04, 0.04};
        double gloss = 30;
        double strength = 0.15;
        if (stuff == Stuff.BRASS) {
            shine = new double[] {0.85, 0.55, 0.20};
            gloss = 140;
            strength = 2.2;
        } else if (stuff == Stuff.WOOD) {
            gloss = 60;
            strength = 0.5;
        } else if (stuff == Stuff.SKIN) {
            gloss = 18;
            strength = 0.5;
        }
        double occlusion = Math.min(1, 0.35 + 6 * solid.distance(x + 0.09 * n[0], y + 0.09 * n[1], z + 0.09 * n[2]));
        double sky = 0.5 + 0.5 * Solid.dot(n, SKY_LIGHT);
        for (int k = 0; k < 3; k++) {
            out[k] = albedo[k] * occlusion * sky * (k == 0 ? 0.17 : k == 1 ? 0.20 : 0.27);
        }
        for (int i = 0; i < 4; i++) {
            Lantern l = lanterns[i];
            double[] to = {l.x - x, l.y - y, l.z - z - (i < 2 ? 0.35 : 0)};
            double distance2 = Math.max(0.02, Solid.dot(to, to));
            double[] dir = Solid.unit(to[0], to[1], to[2]);
            double lit = Math.max(0, (Solid.dot(n, dir) + 0.15) / 1.15) * 0.26 / distance2 * occlusion;
            double[] half = Solid.unit(dir[0] - ray[0], dir[1] - ray[1], dir[2] - ray[2]);
            double spec = strength * Math.pow(Math.max(0, Solid.dot(n, half)), gloss) * 0.25 / distance2;
            for (int k = 0; k < 3; k++) {
                out[k] += l.colour[k] * (albedo[k] * lit + shine[k] * spec);
            }
        }
        if (stuff == Stuff.BRASS) {
            double facing = 2 * Solid.dot(ray, n);
            double[] r = {ray[0] - facing * n[0], ray[1] - facing * n[1], ray[2] - facing * n[2]};
            double[] seen = new double[4];
            sky(r, seen);
            double scratch = 0.8 + 0.4 * Texture.noise(x * 40, y * 40, z * 40, seed + 90);
            for (int k = 0; k < 3; k++) {
                out[k] += shine[k] * scratch * (r[1] > 0 ? seen[k] : 0.03);
            }
        }
    }

    private double[] albedo(Stuff stuff, double x, double y, double z) {
        switch (stuff) {
            case WOOD -> {
                double grain = Texture.fractal(
                        x * 2.5, y * 46 + 3 * Texture.noise(x * 3, y * 5, z * 5, seed), z * 46, 4, seed + 20);
                double plank = Math.abs(Math.sin(y * 38)) < 0.12 ? 0.35 : 1;
                return new double[] {
                    (0.10 + 0.34 * grain) * plank, (0.045 + 0.17 * grain) * plank, (0.018 + 0.07 * grain) * plank
                };
            }
            case CLOTH -> {
                double around = Math.atan2(x, -z);
                boolean stripe = Math.floorMod((int) Math.floor(around * 7.5 + 0.15 * y), 2) == 0;
                double weave = (0.75 + 0.25 * Math.sin(around * 330)) * (0.75 + 0.25 * Math.sin(y * 1500));
                double[] base = stripe ? clothA : clothB;
                return new double[] {base[0] * weave, base[1] * weave, base[2] * weave};
            }
            case SKIN -> {
                double pores = 0.82 + 0.36 * Texture.fractal(x * 160, y * 160, z * 160, 3, seed + 30);
                double flush = 0.9 + 0.2 * Texture.fractal(x * 14, y * 14, z * 14, 2, seed + 31);
                double hx = x - 0.02 - lean * 0.35;
                double ex = Math.abs(hx - 0.012 * sway) - 0.036;
                double brow =
                        Texture.step(0.012, 0.004, Math.abs(y - 1.214)) * Texture.step(0.026, 0.016, Math.abs(ex));
                double socket = Texture.step(0.0011, 0.0002, ex * ex + 2.4 * (y - 1.192) * (y - 1.192));
                double mouth = Texture.step(0.0045, 0.001, Math.abs(y - 1.112))
                        * Texture.step(0.034, 0.024, Math.abs(hx - 0.012 * sway));
                double shade =
                        z < -0.04 && y > 1.05 ? 1 - Math.max(Math.max(0.75 * brow, 0.85 * socket), 0.6 * mouth) : 1;
                return new double[] {
                    skin[0] * pores * shade, skin[1] * pores * flush * shade, skin[2] * pores * flush * shade
                };
            }
            case STRAW -> {
                double r = Math.hypot(x - 0.02 - lean * 0.35, z);
                boolean band = y > 1.300 && y < 1.325 && r < 0.115 && r > 0.1;
                double weave = 0.7 + 0.3 * Math.sin(Math.atan2(z, x) * 90) * Math.sin(r * 900 + y * 700);
                return band ? clothA : new double[] {0.60 * weave, 0.46 * weave, 0.22 * weave};
            }
            case HAIR -> {
                double strand = 0.5 + Texture.noise(x * 300, y * 30, z * 300, seed + 33);
                return new double[] {0.055 * strand, 0.034 * strand, 0.020 * strand};
            }
            default -> {
                return new double[] {0.06, 0.04, 0.015};
            }
        }
    }

    /** Loose strands at the nape and temples, one to two pixels wide. */
    private void hair(Layer sharp, View view) {
        SplittableRandom random = new SplittableRandom(seed + 99);
        for (int i = 0; i < 900; i++) {
            double angle = Math.PI * (0.05 + 0.9 * random.nextDouble()) * (random.nextBoolean() ? 1 : -1);
            double x = 0.02 + lean * 0.35 + 0.100 * Math.sin(angle);
            double z = 0.05 + 0.03 * Math.cos(angle);
            if (Math.abs(Math.sin(angle)) < 0.80) {
                continue; // behind the head
            }
            double y = 1.25 - 0.10 * random.nextDouble();
            double[] from = view.project(x, y, z, sharp.width, sharp.height);
            double[] to = view.project(
                    x + 0.03 * (random.nextDouble() - 0.5),
                    y - 0.03 - 0.06 * random.nextDouble(),
                    z,
                    sharp.width,
                    sharp.height);
            double tone = 0.010 + 0.05 * random.nextDouble() * random.nextDouble();
            sharp.stroke(from[0], from[1], to[0], to[1], 1.3, new double[] {tone * 1.5, tone, tone * 0.6}, 0.85);
        }
    }

    private void background(double[] d, double[] out, View view) {
        double t = d[1] < -0.002 ? -eye[1] / d[1] : 1e9;
        double near = 1e9;
        Lantern met = null;
        for (int i = 2; i < lanterns.length; i++) {
            Lantern l = lanterns[i];
            double[] to = {l.x - eye[0], l.y - eye[1], l.z - eye[2]};
            double along = Solid.dot(to, d);
            double off = Math.sqrt(Math.max(0, Solid.dot(to, to) - along * along));
            if (off < l.radius && along < near && along < t) {
                near = along;
                met = l;
            }
        }
        if (met != null) {
            double up = (eye[1] + near * d[1] - met.y) / met.radius;
            double light = 1.6
                    * (0.5 + 0.9 * Math.exp(-3 * (up + 0.2) * (up + 0.2)))
                    * (0.8 + 0.2 * Math.abs(Math.sin(up * 9)));
            for (int k = 0; k < 3; k++) {
                out[k] = light * Math.pow(met.colour[k], 0.8);
            }
            out[3] = view.depth(d, near);
            return;
        }
        if (t > 120) {
            sky(d, out);
            out[3] = 120;
            return;
        }
        double x = eye[0] + t * d[0];
        double z = eye[2] + t * d[2];
        double calm = 1 / (1 + 0.02 * t);
        double nx = 0.09 * calm * (Texture.fractal(x * 2.2, 1, z * 5.5, 4, seed + 50) - 0.5);
        double nz = 0.16 * calm * (Texture.fractal(x * 1.6, 2, z * 4.2, 4, seed + 51) - 0.5);
        double[] n = Solid.unit(nx, 1, nz);
        double facing = 2 * Solid.dot(d, n);
        double[] r = Solid.unit(d[0] - facing * n[0], Math.abs(d[1] - facing * n[1]) + 0.003, d[2] - facing * n[2]);
        double fresnel = 0.03 + 0.97 * Math.pow(1 - Math.max(0, -Solid.dot(d, n)), 5);
        sky(r, out);
        for (Lantern l : lanterns) {
            double[] to = Solid.unit(l.x - x, l.y, l.z - z);
            double across = Math.atan2(to[0], to[2]) - Math.atan2(r[0], r[2]);
            double along = Math.asin(to[1]) - Math.asin(Math.min(1, r[1]));
            double size = l.radius / Math.max(1, Math.hypot(l.x - x, l.z - z));
            double light = 5
                    * Math.exp(-across * across / (size * size + 0.0004) - along * along / (size * size + 0.004))
                    * size
                    / (size + 0.03);
            for (int k = 0; k < 3; k++) {
                out[k] += l.colour[k] * light;
            }
        }
        for (int k = 0; k < 3; k++) {
            out[k] = out[k] * Math.min(1, fresnel + 0.12) + (k == 0 ? 0.003 : k == 1 ? 0.006 : 0.008);
        }
        out[3] = view.depth(d, t);
    }

    private void sky(double[] d, double[] out) {
        double up = Math.max(0, d[1]);
        double glow = Math.exp(-up * 7);
        double cloud = 0.7 + 0.6 * Texture.fractal(d[0] * 3, d[1] * 14, d[2] * 3, 4, seed + 60);
        out[0] = (0.035 + 0.26 * glow) * cloud;
        out[1] = (0.055 + 0.12 * glow) * cloud;
        out[2] = (0.130 + 0.07 * glow) * cloud;
        double shore = 0.035 + 0.05 * Texture.fractal(d[0] * 8, 5, d[2] * 2, 5, seed + 61);
        double wood = Texture.step(shore + 0.004, shore - 0.004, d[1]);
        double leaf = Texture.fractal(d[0] * 70, d[1] * 90, 3, 3, seed + 62);
        out[0] = out[0] * (1 - wood) + wood * 0.010 * leaf;
        out[1] = out[1] * (1 - wood) + wood * 0.014 * leaf;
        out[2] = out[2] * (1 - wood) + wood * 0.015 * leaf;
    }

    private static void halo(Layer result, double[] at, Lantern lantern) {
        double radius = lantern.radius * result.height / 2.0 / 0.128 / at[2];
        int reach = (int) (radius * 5);
        for (int y = (int) at[1] - reach; y <= at[1] + reach; y++) {
            for (int x = (int) at[0] - reach; x <= at[0] + reach; x++) {
                double d = Math.hypot(x - at[0], y - at[1]) / radius;
                double light = 0.030 * Math.exp(-d * 0.9) * Texture.step(5, 3, d);
                result.add(x, y, lantern.colour[0] * light, lantern.colour[1] * light, lantern.colour[2] * light);
            }
        }
    }
}
