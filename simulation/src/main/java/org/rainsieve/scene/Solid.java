package org.rainsieve.scene;

/** Shapes given by distance: negative inside, and how rays meet them (sphere tracing, Hart 1996). */
interface Solid {
    double distance(double x, double y, double z);

    static double ellipsoid(double x, double y, double z, double rx, double ry, double rz) {
        double k0 = Math.sqrt(x * x / (rx * rx) + y * y / (ry * ry) + z * z / (rz * rz));
        double k1 = Math.sqrt(x * x / (rx * rx * rx * rx) + y * y / (ry * ry * ry * ry) + z * z / (rz * rz * rz * rz));
        return k1 < 1e-9 ? -Math.min(rx, Math.min(ry, rz)) : k0 * (k0 - 1) / k1;
    }

    static double capsule(
            double x, double y, double z, double ax, double ay, double az, double bx, double by, double bz, double r) {
        double dx = bx - ax;
        double dy = by - ay;
        double dz = bz - az;
        double t = ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / (dx * dx + dy * dy + dz * dz);
        t = Math.min(1, Math.max(0, t));
        double px = x - ax - t * dx;
        double py = y - ay - t * dy;
        double pz = z - az - t * dz;
        return Math.sqrt(px * px + py * py + pz * pz) - r * (1 - 0.3 * t);
    }

    /** A union with a rounded seam. */
    static double join(double a, double b, double k) {
        double h = Math.max(0, k - Math.abs(a - b)) / k;
        return Math.min(a, b) - h * h * k / 4;
    }

    /** Distance along the ray to the surface, or −1. The direction must have length 1. */
    default double meet(double[] from, double[] direction, double near, double far, double exactness) {
        double t = near;
        for (int i = 0; i < 90 && t < far; i++) {
            double d = distance(from[0] + t * direction[0], from[1] + t * direction[1], from[2] + t * direction[2]);
            if (d < exactness) {
                return t;
            }
            t += 0.8 * d;
        }
        return -1;
    }

    /** Outward normal at a point, from four differences. */
    default double[] normal(double x, double y, double z, double e) {
        double a = distance(x + e, y - e, z - e);
        double b = distance(x - e, y - e, z + e);
        double c = distance(x - e, y + e, z - e);
        double d = distance(x + e, y + e, z + e);
        return Solid.unit(a - b - c + d, -a - b + c + d, -a + b - c + d);
    }

    /** How much of a lamp's light reaches a point of the surface, 0 to 1, soft where the solid nearly hides it. */
    default double shadow(double x, double y, double z, double[] n, double[] light) {
        double lit = 1;
        double t = 0.03;
        for (int i = 0; i < 14; i++) {
            double d = distance(
                    x + 0.01 * n[0] + t * light[0], y + 0.01 * n[1] + t * light[1], z + 0.01 * n[2] + t * light[2]);
            lit = Math.min(lit, 8 * d / t);
            t += Math.max(0.02, d);
        }
        return Math.min(1, Math.max(0, lit));
    }

    static double[] unit(double x, double y, double z) {
        double length = Math.max(1e-12, Math.sqrt(x * x + y * y + z * z));
        return new double[] {x / length, y / length, z / length};
    }

    static double dot(double[] a, double[] b) {
        return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    }
}
