package org.rainsieve.scene;

import java.util.Arrays;
import java.util.Comparator;
import java.util.SplittableRandom;
import java.util.stream.IntStream;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;

/**
 * A barn owl on a wet post beside the road, in the light of one lamp: a pale face, spotted breast and mottled wings, all
 * covered with feathers drawn one by one as strokes a pixel or two wide. Lengths in owls.
 */
public final class OwlOnPost {
    private static final double DISTANCE = 12;
    private static final double HALF_HEIGHT = 0.062;
    private static final double[] KEY_LIGHT = {1.32, 0.98, 0.62};
    private static final double[] RIM_LIGHT = {0.30, 0.36, 0.46};
    private static final double[] AMBIENT = {0.040, 0.046, 0.060};

    private static final double HEAD_Y = 0.86;

    private enum Part {
        FACE,
        EYE,
        BEAK,
        RIM,
        BREAST,
        BACK,
        FOOT,
        POST
    }

    private final long seed;
    private final double turn;
    private final double look;
    private final double[] key;
    private final double[] rim;
    private final double[] eye;
    private final RainyNight.Lamp[] lamps;

    /** @param seed another turn of body and head, another background */
    public OwlOnPost(long seed) {
        this.seed = seed;
        SplittableRandom random = new SplittableRandom(seed * 131 + 17);
        turn = -0.9 + 1.1 * random.nextDouble();
        look = 0.12 + 0.35 * (random.nextDouble() - 0.5);
        key = Solid.unit(0.75, 0.55, -0.55);
        rim = Solid.unit(-0.8, 0.25, 0.35);
        eye = new double[] {-0.3 + 0.6 * random.nextDouble(), 0.45, -DISTANCE};
        double[][] colours = {{46, 28, 9}, {50, 40, 26}, {34, 5, 3}, {6, 24, 15}};
        lamps = new RainyNight.Lamp[6];
        for (int i = 0; i < lamps.length; i++) {
            double z = 30 + 50 * random.nextDouble();
            lamps[i] = new RainyNight.Lamp(
                    (random.nextDouble() - 0.5) * 0.28 * (z + DISTANCE),
                    0.4 + (random.nextDouble() - 0.55) * 0.10 * (z + DISTANCE),
                    z,
                    colours[random.nextInt(colours.length)],
                    0.10 + 0.12 * random.nextDouble());
        }
    }

    /** @param missedOwls by how far the focus lies behind the owl */
    public SceneTruth render(int width, int height, double missedOwls) {
        View view = new View(eye, new double[] {0, 0.42, 0}, HALF_HEIGHT);
        Region frame = new Region(0, 0, width, height);
        Optic optic = new Optic(DISTANCE + missedOwls, height / 24.0);
        Layer owl = new Layer(width, height);
        Planes depth = new Planes(frame, 1);
        byte[] parts = new byte[width * height];
        Solid solid = (x, y, z) -> Math.min(bird(x, y, z), post(x, y, z));
        trace(view, solid, owl, depth, parts);
        feathers(view, solid, owl, depth, parts);

        Layer result = new Layer(width, height);
        background(view, result);
        Planes soft = DiscBlur.blur(result.planes, optic.radiusPx(DISTANCE + 30));
        for (int c = 0; c < 3; c++) {
            System.arraycopy(soft.channel(c), 0, result.planes.channel(c), 0, width * height);
        }
        for (RainyNight.Lamp lamp : lamps) {
            RainyNight.bokeh(result, view.project(lamp.x(), lamp.y(), lamp.z(), width, height), lamp, optic);
        }
        double owlBlur = Math.max(0.35, optic.radiusPx(DISTANCE));
        result.over(new Layer(DiscBlur.blur(owl.planes, owlBlur)));
        RainyNight.rain(result, optic, seed);

        Planes srgb = new Planes(frame, 3);
        Planes blur = new Planes(frame, 1);
        for (int i = 0; i < width * height; i++) {
            boolean on = owl.planes.channel(3)[i] > 0.5;
            if (!on) {
                depth.channel(0)[i] = (float) (DISTANCE + 30);
            } else if (depth.channel(0)[i] == 0) {
                depth.channel(0)[i] = (float) DISTANCE;
            }
            blur.channel(0)[i] = (float) (on ? owlBlur : optic.radiusPx(DISTANCE + 30));
        }
        for (int c = 0; c < 3; c++) {
            System.arraycopy(result.planes.channel(c), 0, srgb.channel(c), 0, width * height);
        }
        return new SceneTruth(srgb, depth, blur, DISTANCE + missedOwls);
    }

    /** Turns about the upright by an angle. */
    private static double[] turned(double x, double z, double angle) {
        double c = Math.cos(angle);
        double s = Math.sin(angle);
        return new double[] {x * c + z * s, -x * s + z * c};
    }

    private double bird(double wx, double y, double wz) {
        double around = Solid.ellipsoid(wx, y - 0.5, wz, 0.34, 0.62, 0.34);
        if (around > 0.05) {
            return around;
        }
        double[] t = turned(wx, wz, turn);
        double x = t[0];
        double z = t[1];
        double m = Math.abs(x);
        double body = Solid.ellipsoid(x, y - 0.47, z, 0.185, 0.34, 0.185);
        double wing =
                Solid.ellipsoid(m - 0.165 + 0.10 * Math.max(0, 0.40 - y), y - 0.42, z - 0.055, 0.062, 0.37, 0.165);
        body = Solid.join(body, wing, 0.018);
        body = Solid.join(body, Solid.ellipsoid(x, y - 0.10, z - 0.15, 0.09, 0.24, 0.06), 0.06);
        body = Solid.join(body, Solid.ellipsoid(m - 0.075, y - 0.12, z + 0.02, 0.07, 0.14, 0.08), 0.05);
        double[] h = head(wx, y, wz);
        double head = Solid.ellipsoid(h[0], h[1], h[2], 0.178, 0.158, 0.150);
        // The face is a shallow dish with a ridge down to the beak.
        double heart = heart(h[0], h[1]);
        if (h[2] < 0) {
            head += 0.022 * Texture.step(0.0, 0.06, heart)
                    - 0.020
                            * Math.exp(-h[0] * h[0] / 0.0005)
                            * Texture.step(0.06, -0.02, h[1])
                            * Texture.step(0, 0.05, heart);
        }
        body = Solid.join(body, head, 0.10);
        body = Math.min(body, Solid.ellipsoid(Math.abs(h[0]) - 0.060, h[1] - 0.012, h[2] + 0.112, 0.025, 0.027, 0.025));
        double beak = Solid.ellipsoid(h[0], h[1] + 0.062, h[2] + 0.146, 0.013, 0.036, 0.026);
        double feet = Double.MAX_VALUE;
        for (int toe = 0; toe < 3; toe++) {
            double away = -0.035 + 0.035 * toe;
            feet = Math.min(feet, Solid.capsule(m, y, z, 0.075, 0.015, -0.02, 0.075 + away, 0.004, -0.115, 0.018));
        }
        return Math.min(Solid.join(body, beak, 0.01), feet);
    }

    /** A place in the head's own directions: to its right, up, and away from its face. */
    private double[] head(double x, double y, double z) {
        double[] t = turned(x, z, turn + look);
        double tilt = 0.10 * Math.sin(seed * 2.1);
        double px = t[0] * Math.cos(tilt) + (y - HEAD_Y) * Math.sin(tilt);
        double py = -t[0] * Math.sin(tilt) + (y - HEAD_Y) * Math.cos(tilt);
        return new double[] {px, py, t[1]};
    }

    /** Distance inwards from the heart-shaped rim of the face; negative outside. */
    private static double heart(double x, double y) {
        double lobes = Math.hypot((Math.abs(x) - 0.066) / 0.074, (y - 0.028) / 0.095);
        double chin = Math.hypot(x / 0.098, (y + 0.025) / 0.108);
        return (1 - Math.min(lobes, chin)) * 0.085;
    }

    private double post(double x, double y, double z) {
        if (y > 0.05) {
            return y;
        }
        double[] t = turned(x, z, 0.4 + seed);
        double edge = 0.012 * Texture.fractal(t[0] * 9, y * 1.5, t[1] * 9, 3, seed + 5);
        double side = Math.max(Math.abs(t[0]), Math.abs(t[1])) - 0.15 + edge;
        double top = y + 0.012 + 0.02 * Texture.fractal(t[0] * 14, 1, t[1] * 14, 3, seed + 6);
        return 0.7 * Math.max(side, top);
    }

    private void trace(View view, Solid solid, Layer owl, Planes depth, byte[] parts) {
        int w = owl.width;
        int h = owl.height;
        IntStream.range(0, h).parallel().forEach(y -> {
            double[] colour = new double[3];
            for (int x = 0; x < w; x++) {
                int i = y * w + x;
                for (int k = 0; k < 2; k++) {
                    double[] d = view.ray(x + 0.25 + 0.5 * k, y + 0.75 - 0.5 * k, w, h);
                    double t = solid.meet(eye, d, DISTANCE - 0.8, DISTANCE + 0.8, 0.001);
                    if (t < 0) {
                        continue;
                    }
                    Part part = shade(eye[0] + t * d[0], eye[1] + t * d[1], eye[2] + t * d[2], d, solid, colour);
                    for (int c = 0; c < 3; c++) {
                        owl.planes.channel(c)[i] += (float) (colour[c] / 2);
                    }
                    owl.planes.channel(3)[i] += 0.5f;
                    depth.channel(0)[i] = (float) view.depth(d, t);
                    parts[i] = (byte) (part.ordinal() + 1);
                }
            }
        });
    }

    private Part shade(double x, double y, double z, double[] ray, Solid solid, double[] out) {
        double[] n = solid.normal(x, y, z, 0.002);
        double[] albedo = new double[3];
        Part part = stuff(x, y, z, n, albedo);
        double open = Math.min(1, 0.35 + 7 * solid.distance(x + 0.09 * n[0], y + 0.09 * n[1], z + 0.09 * n[2]));
        double lit = solid.shadow(x, y, z, n, key);
        // Feathers scatter light around the edge of the shade.
        double wrap = part == Part.EYE || part == Part.BEAK ? 0 : 0.22;
        double direct = Math.max(0, (Solid.dot(n, key) + wrap) / (1 + wrap)) * lit;
        double edge = Math.max(0, Solid.dot(n, rim));
        double gloss = part == Part.EYE ? 6 : part == Part.BEAK ? 0.5 : part == Part.POST ? 0.25 : 0;
        double[] half = Solid.unit(key[0] - ray[0], key[1] - ray[1], key[2] - ray[2]);
        double shine = gloss * Math.pow(Math.max(0, Solid.dot(n, half)), part == Part.EYE ? 260 : 30);
        for (int c = 0; c < 3; c++) {
            out[c] = albedo[c] * open * (KEY_LIGHT[c] * direct + RIM_LIGHT[c] * edge + AMBIENT[c]) * 0.66
                    + shine * KEY_LIGHT[c] * lit;
        }
        return part;
    }

    private Part stuff(double x, double y, double z, double[] n, double[] albedo) {
        if (post(x, y, z) < bird(x, y, z)) {
            double[] t = turned(x, z, 0.4 + seed);
            double grain = Texture.fractal(t[0] * 60, y * 3, t[1] * 60, 4, seed + 50);
            double moss = Texture.step(0.50, 0.66, Texture.fractal(x * 8, y * 6, z * 8, 4, seed + 51));
            double crack = Texture.step(0.30, 0.24, Texture.noise(t[0] * 26, y * 0.8, t[1] * 26, seed + 52));
            double wood = (0.05 + 0.20 * grain) * (1 - 0.75 * crack);
            set(albedo, wood * (1 - 0.5 * moss), wood * (0.86 - 0.1 * moss), wood * (0.70 - 0.42 * moss));
            return Part.POST;
        }
        double[] h = head(x, y, z);
        double spread = Texture.fractal(x * 40, y * 40, z * 40, 3, seed + 60);
        if (y < 0.03) {
            set(albedo, 0.30 + 0.1 * spread, 0.25, 0.19);
            return Part.FOOT;
        }
        if (y > 0.64 && h[2] < -0.01) {
            double inside = heart(h[0], h[1]);
            double eyeAt = Math.hypot(Math.abs(h[0]) - 0.060, h[1] - 0.012);
            if (eyeAt < 0.0225) {
                set(albedo, 0.006, 0.005, 0.005);
                return Part.EYE;
            }
            if (Math.abs(h[0]) < 0.012 && h[1] < -0.035 && h[1] > -0.10 && h[2] < -0.12) {
                set(albedo, 0.55, 0.44, 0.36);
                return Part.BEAK;
            }
            if (inside > 0) {
                double tear =
                        Math.exp(-Math.pow((Math.abs(h[0]) - 0.034) / 0.013, 2) - Math.pow((h[1] + 0.012) / 0.028, 2));
                double round = Math.exp(-Math.pow((eyeAt - 0.024) / 0.006, 2));
                double white = 0.80 - 0.06 * spread;
                double stain = Math.min(0.85, 0.75 * tear + 0.35 * round);
                set(albedo, white * (1 - 0.55 * stain), white * (0.965 - 0.70 * stain), white * (0.90 - 0.74 * stain));
                return Part.FACE;
            }
            if (inside > -0.013) {
                double bar = Texture.noise(h[0] * 240, h[1] * 240, 0, seed + 61);
                set(albedo, 0.36 * (0.5 + bar), 0.215 * (0.5 + bar), 0.09 * (0.5 + bar));
                return Part.RIM;
            }
        }
        double[] t = turned(x, z, turn);
        double facing = turned(n[0], n[2], turn)[1];
        double front =
                Texture.step(-0.05, -0.45, facing + 0.10 * (spread - 0.5) + 0.9 * Math.max(0, Math.abs(t[0]) - 0.13))
                        * Texture.step(0.76, 0.70, y)
                        * Texture.step(0.150, 0.125, Math.abs(t[0]) + 0.02 * (spread - 0.5));
        double warp = 0.022 * (Texture.fractal(x * 30, y * 22, z * 30, 3, seed + 67) - 0.5);
        double spot = Texture.step(0.30, 0.16, Texture.cells((t[0] + warp) * 38, (y - warp) * 30, t[1] * 38, seed + 62))
                * Texture.step(0.40, 0.75, Texture.noise(t[0] * 30, y * 24, t[1] * 30, seed + 63))
                * Texture.step(0.10, 0.30, 1 - y);
        double buff = Texture.fractal(t[0] * 7, y * 5, t[1] * 7, 4, seed + 64);
        double grey =
                Texture.step(0.46, 0.62, Texture.fractal(t[0] * 11, y * 9, t[1] * 11, 4, seed + 65) + 0.10 * (y - 0.4));
        double cell = Texture.cells((t[0] + warp) * 36, (y + warp) * 25, t[1] * 36, seed + 66);
        double dark = Texture.step(0.42, 0.22, cell);
        double light = Texture.step(0.20, 0.08, cell);
        double bars = 0.5
                * Texture.step(0.34, 0.22, y)
                * Texture.step(0.5, 0.8, Math.sin(y * 80 + 300 * warp + 3 * t[1]) * 0.5 + 0.5);
        double[] back = new double[3];
        double[] gold = {0.46, 0.285, 0.125};
        double[] ash = {0.24, 0.225, 0.215};
        double[] pale = {0.66, 0.62, 0.54};
        double[] white = {0.78, 0.735, 0.64};
        for (int c = 0; c < 3; c++) {
            double base = (0.6 + 0.8 * spread) * gold[c] * (0.75 + 0.5 * buff) * (1 - 0.75 * grey)
                    + (0.6 + 0.8 * spread) * ash[c] * 0.75 * grey;
            base *= (1 - bars) * (1 - 0.72 * dark);
            back[c] = base * (1 - light) + pale[c] * light;
            double breast = white[c] * (0.86 + 0.2 * buff) * (1 - 0.8 * spot);
            albedo[c] = back[c] * (1 - front) + breast * front;
        }
        return front > 0.5 ? Part.BREAST : Part.BACK;
    }

    private static void set(double[] albedo, double r, double g, double b) {
        albedo[0] = r;
        albedo[1] = g;
        albedo[2] = b;
    }

    /** Strokes of the colour underneath, along the lie of the feathers; lower ones first, so that upper ones cover them. */
    private void feathers(View view, Solid solid, Layer owl, Planes depth, byte[] parts) {
        int w = owl.width;
        int h = owl.height;
        double unit = h / 1328.0;
        SplittableRandom random = new SplittableRandom(seed * 7 + 1);
        float[][] under = {
            owl.planes.channel(0).clone(),
            owl.planes.channel(1).clone(),
            owl.planes.channel(2).clone()
        };
        int count = (int) (190_000 * unit * unit * w / (h * 1.5));
        int[] places = new int[count];
        for (int k = 0; k < count; k++) {
            places[k] = random.nextInt(h) * w + random.nextInt(w);
        }
        Integer[] order = Arrays.stream(places)
                .filter(i -> parts[i] != 0 && Part.values()[parts[i] - 1] != Part.POST)
                .boxed()
                .sorted(Comparator.comparingInt((Integer i) -> -i / w))
                .toArray(Integer[]::new);
        double[] colour = new double[3];
        for (int i : order) {
            Part part = Part.values()[parts[i] - 1];
            double jitter = Math.exp(0.24 * Chance.normal(random));
            double angle = 0.22 * Chance.normal(random);
            double length = (0.7 + 0.6 * random.nextDouble()) * unit;
            if (part == Part.EYE || part == Part.BEAK || part == Part.FOOT) {
                continue;
            }
            int px = i % w;
            int py = i / w;
            double[] d = view.ray(px + 0.5, py + 0.5, w, h);
            double along = depth.channel(0)[i] / view.depth(d, 1);
            double[] at = {eye[0] + along * d[0], eye[1] + along * d[1], eye[2] + along * d[2]};
            double[] lie = lie(part, at, solid);
            double[] tip = view.project(at[0] + 0.02 * lie[0], at[1] + 0.02 * lie[1], at[2] + 0.02 * lie[2], w, h);
            double direction = Math.atan2(tip[1] - py - 0.5, tip[0] - px - 0.5) + angle;
            length *= part == Part.FACE ? 10 : part == Part.RIM ? 8 : part == Part.BREAST ? 15 : 17;
            double shape = Math.min(1, Math.hypot(tip[0] - px, tip[1] - py) / (12 * unit) + 0.35);
            float coverage = owl.planes.channel(3)[i];
            for (int c = 0; c < 3; c++) {
                colour[c] = under[c][i] * jitter / Math.max(0.5, coverage);
            }
            owl.stroke(
                    px + 0.5,
                    py + 0.5,
                    px + 0.5 + length * shape * Math.cos(direction),
                    py + 0.5 + length * shape * Math.sin(direction),
                    (0.9 + 0.8 * random.nextDouble()) * unit + 0.35,
                    colour,
                    0.8);
        }
    }

    /** Where feathers point: outward from the eyes on the face, down the body elsewhere. */
    private double[] lie(Part part, double[] at, Solid solid) {
        double[] n = solid.normal(at[0], at[1], at[2], 0.004);
        double dx = 0;
        double dy = -1;
        double dz = 0;
        double[] h = head(at[0], at[1], at[2]);
        if (part == Part.FACE) {
            double[] out = turned(Math.signum(h[0]) * (Math.abs(h[0]) - 0.050), 0, -(turn + look));
            dx = out[0];
            dz = out[1];
            dy = h[1] - 0.005;
        } else if (at[1] > 0.72) {
            dx = at[0];
            dz = at[2] + 0.25;
            dy = -0.12;
        }
        double inward = dx * n[0] + dy * n[1] + dz * n[2];
        return Solid.unit(dx - inward * n[0], dy - inward * n[1], dz - inward * n[2]);
    }

    /** A hedge at night far behind, hardly lit, with a little of the village's glow above. */
    private void background(View view, Layer out) {
        int w = out.width;
        int h = out.height;
        IntStream.range(0, h).parallel().forEach(y -> {
            for (int x = 0; x < w; x++) {
                double[] d = view.ray(x + 0.5, y + 0.5, w, h);
                double leaves = Texture.fractal(d[0] * 60, d[1] * 60, 3, 5, seed + 80);
                double top = 0.028 + 0.03 * Texture.fractal(d[0] * 14, 1, 5, 3, seed + 81);
                double hedge = Texture.step(top + 0.012, top - 0.012, d[1]);
                double glow = Math.exp(-Math.abs(d[1] - top) * 22) * (0.6 + 0.5 * Math.sin(d[0] * 18 + seed));
                double light = Texture.step(0.45, 0.75, leaves) * 0.055 + 0.008;
                int i = y * w + x;
                out.planes.channel(0)[i] = (float) ((0.016 + 0.050 * glow) * (1 - hedge) + hedge * light * 0.80);
                out.planes.channel(1)[i] = (float) ((0.019 + 0.036 * glow) * (1 - hedge) + hedge * light * 0.85);
                out.planes.channel(2)[i] = (float) ((0.028 + 0.026 * glow) * (1 - hedge) + hedge * light * 0.42);
            }
        });
    }
}
