package org.rainsieve.scene;

import java.util.SplittableRandom;

/** What rainy nights have in common: lamps far behind that become discs of light, and streaks of rain in the air. */
final class RainyNight {
    record Lamp(double x, double y, double z, double[] colour, double size) {}

    private RainyNight() {}

    /** @param at where the lamp falls on the frame: x, y and depth */
    static void bokeh(Layer result, double[] at, Lamp lamp, Optic optic) {
        double radius = Math.max(1.2, optic.radiusPx(at[2]));
        double light = 18 * lamp.size / 0.3 / (radius * radius) * (result.height / 1000.0) * (result.height / 1000.0);
        for (int y = (int) (at[1] - radius - 1); y <= at[1] + radius + 1; y++) {
            for (int x = (int) (at[0] - radius - 1); x <= at[0] + radius + 1; x++) {
                double d = Math.hypot(x - at[0], y - at[1]);
                double coverage = Math.min(1, Math.max(0, radius - d + 0.5)) * (0.85 + 0.3 * Math.pow(d / radius, 6));
                double l = coverage * light;
                result.add(x, y, lamp.colour[0] * l, lamp.colour[1] * l, lamp.colour[2] * l);
            }
        }
    }

    static void rain(Layer result, Optic optic, long seed) {
        SplittableRandom random = new SplittableRandom(seed + 1234);
        double unit = result.height / 1000.0;
        for (int i = 0; i < 130; i++) {
            double depth = 5 + 25 * random.nextDouble() * random.nextDouble();
            double soft = 0.6 + optic.radiusPx(depth) * 0.35;
            double x = random.nextDouble() * result.width;
            double y = random.nextDouble() * result.height;
            double length = (30 + 260 / depth) * unit;
            double slant = 0.10;
            double light = 0.10 * random.nextDouble() / soft;
            int steps = (int) Math.max(4, length);
            for (int k = 0; k < steps; k++) {
                double t = (k + 0.5) / steps;
                double cx = x + slant * length * t;
                double cy = Math.floor(y) + k;
                int reach = (int) Math.ceil(soft);
                double fade = Math.sin(Math.PI * t);
                for (int dx = -reach; dx <= reach; dx++) {
                    double coverage = Math.max(0, 1 - Math.abs(dx + Math.floor(cx) + 0.5 - cx) / (soft + 0.5));
                    double l = light * coverage * fade;
                    result.add((int) Math.floor(cx) + dx, (int) cy, 1.0 * l, 0.86 * l, 0.68 * l);
                }
            }
        }
    }
}
