package org.rainsieve.scene;

/** Procedural textures over hashed lattices: the same place and seed give the same value. */
final class Texture {
    private Texture() {}

    /** A well-mixed number in [0, 1) of a lattice point. */
    static double hash(int x, int y, int z, long seed) {
        long h = seed * 0x9E3779B97F4A7C15L
                + x * 0xC2B2AE3D27D4EB4FL
                + y * 0x165667B19E3779F9L
                + z * 0x27D4EB2F165667C5L;
        h = (h ^ (h >>> 29)) * 0xBF58476D1CE4E5B9L;
        h = (h ^ (h >>> 32)) * 0x94D049BB133111EBL;
        return ((h ^ (h >>> 31)) >>> 11) * 0x1.0p-53;
    }

    /** Smooth value noise, 0 to 1, features of size 1. */
    static double noise(double x, double y, double z, long seed) {
        int x0 = (int) Math.floor(x);
        int y0 = (int) Math.floor(y);
        int z0 = (int) Math.floor(z);
        double u = smooth(x - x0);
        double v = smooth(y - y0);
        double w = smooth(z - z0);
        double sum = 0;
        for (int k = 0; k < 8; k++) {
            int dx = k & 1;
            int dy = k >> 1 & 1;
            int dz = k >> 2;
            sum += hash(x0 + dx, y0 + dy, z0 + dz, seed)
                    * (dx == 1 ? u : 1 - u)
                    * (dy == 1 ? v : 1 - v)
                    * (dz == 1 ? w : 1 - w);
        }
        return sum;
    }

    private static double smooth(double t) {
        return t * t * (3 - 2 * t);
    }

    /** Noise of several octaves, each half as large and half as strong; about 0 to 1. */
    static double fractal(double x, double y, double z, int octaves, long seed) {
        double sum = 0;
        double weight = 0.5;
        double total = 0;
        for (int o = 0; o < octaves; o++) {
            sum += weight * noise(x, y, z, seed + o);
            total += weight;
            weight /= 2;
            x *= 2.03;
            y *= 2.03;
            z *= 2.03;
        }
        return sum / total;
    }

    /** Distance to the nearest of randomly placed points, one in each unit cell. */
    static double cells(double x, double y, double z, long seed) {
        int x0 = (int) Math.floor(x);
        int y0 = (int) Math.floor(y);
        int z0 = (int) Math.floor(z);
        double least = 9;
        for (int dz = -1; dz <= 1; dz++) {
            for (int dy = -1; dy <= 1; dy++) {
                for (int dx = -1; dx <= 1; dx++) {
                    double px = x0 + dx + hash(x0 + dx, y0 + dy, z0 + dz, seed) - x;
                    double py = y0 + dy + hash(x0 + dx, y0 + dy, z0 + dz, seed + 1) - y;
                    double pz = z0 + dz + hash(x0 + dx, y0 + dy, z0 + dz, seed + 2) - z;
                    least = Math.min(least, px * px + py * py + pz * pz);
                }
            }
        }
        return Math.sqrt(least);
    }

    static double step(double from, double to, double x) {
        double t = Math.min(1, Math.max(0, (x - from) / (to - from)));
        return smooth(t);
    }
}
