package org.rainsieve.scene;

import java.util.SplittableRandom;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;

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
    private final double[] hairColour;
    private final double tangent;
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
        double[][] hairs = {{0.055, 0.034, 0.020}, {0.15, 0.085, 0.036}, {0.24, 0.16, 0.075}, {0.13, 0.045, 0.018}};
        hairColour = hairs[random.nextInt(hairs.length)];
        eye = new double[] {-0.6 + 1.2 * random.nextDouble(), 1.25 + 0.3 * random.nextDouble(), -6.2};
        double[][] papers = {
            {1.0, 0.42, 0.10}, {1.0, 0.16, 0.07}, {1.0, 0.60, 0.24}, {0.45, 0.75, 0.28}, {0.9, 0.30, 0.42}
        };
        tangent = 0.086 + 0.034 * random.nextDouble();
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
        View view = new View(eye, new double[] {0.02, 0.90, 0}, tangent);
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
        Layer sharp = new Layer(crew);
        hair(sharp, view);
        double crewBlur = Math.max(0.35, optic.radiusPx(-eye[2]));
        result.over(new Layer(DiscBlur.blur(sharp.planes, crewBlur)));
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
                // Hair reaches beyond the solid that it grows on.
                float met = crewDepth.channel(0)[i];
                depth.channel(0)[i] = met > 0 ? met : (float) -eye[2];
            }
            blur.channel(0)[i] = (float) (on ? crewBlur : optic.radiusPx(depth.channel(0)[i]));
        }
        return new SceneTruth(srgb, depth, blur, focus);
    }

    private double crew(double x, double y, double z) {
        double least = Math.min(part(Stuff.WOOD, x, y, z), part(Stuff.PAPER, x, y, z));
        // The rower and the horn are only looked at from nearby.
        double rower = Math.hypot(Math.hypot(outside(x, -0.34, 0.34), outside(y, 0.45, 1.42)), outside(z, -0.26, 0.40));
        if (rower > 0.06) {
            least = Math.min(least, rower);
        } else {
            least = Math.min(least, Math.min(part(Stuff.CLOTH, x, y, z), part(Stuff.SKIN, x, y, z)));
            least = Math.min(least, Math.min(part(Stuff.HAIR, x, y, z), part(Stuff.STRAW, x, y, z)));
        }
        double horn = Math.sqrt(Math.pow(x + 0.78, 2) + Math.pow(y - 0.78, 2) + Math.pow(z - 0.35, 2)) - 0.48;
        return Math.min(least, horn > 0.06 ? horn : part(Stuff.BRASS, x, y, z));
    }

    private static double outside(double v, double from, double to) {
        return Math.max(0, Math.max(from - v, v - to));
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
                double oar = Solid.capsule(x, y, z, 0.0, 0.76, 0.30, 1.6, 0.52, 0.10, 0.026);
                double post = Solid.capsule(x, y, z, 0.62, 0.4, 0.10, 0.62, 1.42, 0.10, 0.016);
                double wood = Math.min(Math.min(shell, oar), post);
                yield wood > 0.02 ? wood : wood - 0.0015 * Texture.noise(x * 9, y * 60, z * 60, seed);
            }
            case CLOTH -> {
                double tx = x - lean * 0.35 * (y - 0.5);
                double torso = Solid.ellipsoid(tx, y - 0.74, z, 0.185, 0.30, 0.15);
                torso = Solid.join(torso, Solid.ellipsoid(tx, y - 0.93, z, 0.215, 0.10, 0.13), 0.08);
                double sleeves = Math.min(
                        Solid.capsule(x, y, z, 0.19, 0.95, 0.0, 0.27, 0.76, 0.04, 0.068),
                        Solid.capsule(x, y, z, -0.19, 0.95, 0.0, -0.27, 0.77, 0.03, 0.068));
                double cloth = Solid.join(torso, sleeves, 0.05);
                if (cloth > 0.03) {
                    yield cloth;
                }
                // Folds that run down from the shoulders and gather at the waist.
                double fold = Texture.fractal(x * 16, y * 5 + 2 * Math.abs(x), z * 16, 3, seed + 5);
                yield cloth + 0.034 * fold + 0.006 * Texture.fractal(x * 40, y * 22, z * 40, 2, seed + 6) - 0.020;
            }
            case SKIN -> {
                double head = Solid.ellipsoid(hx, y - 1.185, z + 0.01, 0.088, 0.122, 0.105);
                head = Solid.join(
                        head, Solid.ellipsoid(hx + 0.02 * sway, y - 1.12, z - 0.055, 0.062, 0.07, 0.062), 0.04);
                double neck = Solid.capsule(x, y, z, lean * 0.17, 0.98, 0.02, 0.02 + lean * 0.35, 1.12, 0.02, 0.058);
                double arms = Math.min(
                        Solid.capsule(x, y, z, 0.27, 0.77, 0.04, 0.14, 0.75, 0.30, 0.040),
                        Solid.capsule(x, y, z, -0.27, 0.78, 0.03, -0.10, 0.76, 0.32, 0.040));
                double ears = Solid.ellipsoid(Math.abs(hx) - 0.09, y - 1.17, z - 0.005, 0.014, 0.032, 0.022);
                yield Math.min(Math.min(Solid.join(head, neck, 0.03), arms), ears);
            }
            case HAIR -> {
                double hair = Solid.ellipsoid(hx, y - 1.195, z + 0.006, 0.101, 0.112, 0.114);
                double knot = Solid.ellipsoid(hx - 0.012 * sway, y - 1.115, z + 0.105, 0.047, 0.043, 0.036);
                hair = Solid.join(hair, sway > 0 ? knot : hair, 0.02);
                yield hair > 0.02 ? hair : hair + 0.006 * Texture.fractal(hx * 60, y * 14, z * 60, 2, seed + 12);
            }
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
                double across = seed % 2 == 0 ? y * 22 + 0.6 * x : around * 5.5 + 0.15 * y;
                boolean stripe = Math.floorMod((int) Math.floor(across), 2) == 0;
                double weave = (0.75 + 0.25 * Math.sin(around * 330)) * (0.75 + 0.25 * Math.sin(y * 1500));
                double[] base = stripe ? clothA : clothB;
                return new double[] {base[0] * weave, base[1] * weave, base[2] * weave};
            }
            case SKIN -> {
                double pores = 0.82 + 0.36 * Texture.fractal(x * 160, y * 160, z * 160, 3, seed + 30);
                double flush = 0.9 + 0.2 * Texture.fractal(x * 14, y * 14, z * 14, 2, seed + 31);
                return new double[] {skin[0] * pores, skin[1] * pores * flush, skin[2] * pores * flush};
            }
            case STRAW -> {
                double r = Math.hypot(x - 0.02 - lean * 0.35, z);
                boolean band = y > 1.300 && y < 1.325 && r < 0.115 && r > 0.1;
                double weave = 0.7 + 0.3 * Math.sin(Math.atan2(z, x) * 90) * Math.sin(r * 900 + y * 700);
                return band ? clothA : new double[] {0.60 * weave, 0.46 * weave, 0.22 * weave};
            }
            case HAIR -> {
                double strand = 0.5 + Texture.noise(x * 300, y * 30, z * 300, seed + 33);
                return new double[] {hairColour[0] * strand, hairColour[1] * strand, hairColour[2] * strand};
            }
            default -> {
                return new double[] {0.06, 0.04, 0.015};
            }
        }
    }

    /** Strands down the back of the head and loose ones at the nape, one to two pixels wide, in the light that falls there. */
    private void hair(Layer sharp, View view) {
        SplittableRandom random = new SplittableRandom(seed + 99);
        int w = sharp.width;
        int h = sharp.height;
        float[][] under = {
            sharp.planes.channel(0).clone(),
            sharp.planes.channel(1).clone(),
            sharp.planes.channel(2).clone()
        };
        double[] tone = new double[3];
        for (int i = 0; i < 5200; i++) {
            double angle = Math.PI * (random.nextDouble() - 0.5);
            double high = -0.8 + 1.6 * random.nextDouble();
            double jitter = Math.exp(0.35 * Chance.normal(random));
            double length = 0.015 + 0.035 * random.nextDouble();
            double across = 0.012 * Chance.normal(random);
            double round = Math.sqrt(1 - high * high);
            double x = 0.02 + lean * 0.35 + 0.101 * Math.sin(angle) * round;
            double y = 1.195 + 0.110 * high;
            double z = -0.006 - 0.114 * Math.cos(angle) * round;
            double[] from = view.project(x, y, z, w, h);
            int px = (int) from[0];
            int py = (int) from[1];
            boolean onHead = part(Stuff.HAIR, x, y, z) < part(Stuff.SKIN, x, y, z);
            if (px < 0 || py < 0 || px >= w || py >= h || y > 1.262 || !onHead) {
                continue;
            }
            // Hair narrows towards the nape; a few strands leave it.
            double[] to = view.project(
                    x - (high < 0 ? 0.35 * length * Math.signum(x - 0.02 - lean * 0.35) : 0) + across,
                    y - length,
                    z - 0.004,
                    w,
                    h);
            for (int c = 0; c < 3; c++) {
                tone[c] = under[c][py * w + px] * jitter;
            }
            double coverage = sharp.planes.channel(3)[py * w + px];
            if (coverage > 0.9) {
                sharp.stroke(from[0], from[1], to[0], to[1], 0.8 + 0.9 * h / 1000, tone, 0.75);
            }
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

    private void halo(Layer result, double[] at, Lantern lantern) {
        double radius = lantern.radius * result.height / 2.0 / tangent / at[2];
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
