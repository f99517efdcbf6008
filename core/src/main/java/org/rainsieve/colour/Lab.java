package org.rainsieve.colour;

/** CIE L*a*b* under D50 and the colour difference CIEDE2000 (CIE 142-2001; Sharma, Wu, Dalal 2005). */
public record Lab(double l, double a, double b) {

    public static Lab ofXyzD50(double[] xyz) {
        double[] white = White.D50.xyz();
        double fx = f(xyz[0] / white[0]);
        double fy = f(xyz[1] / white[1]);
        double fz = f(xyz[2] / white[2]);
        return new Lab(116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz));
    }

    private static double f(double t) {
        return t > 216.0 / 24389 ? Math.cbrt(t) : (24389.0 / 27 * t + 16) / 116;
    }

    /** Y, 1 for white, of a lightness L*, 0 to 100. */
    public static double luminance(double l) {
        double t = (l + 16) / 116;
        return l > 8 ? t * t * t : l * 27 / 24389;
    }

    public double ciede2000(Lab other) {
        double meanChroma = (Math.hypot(a, b) + Math.hypot(other.a, other.b)) / 2;
        double c7 = Math.pow(meanChroma, 7);
        double g = 0.5 * (1 - Math.sqrt(c7 / (c7 + Math.pow(25, 7))));
        double a1 = a * (1 + g);
        double a2 = other.a * (1 + g);
        double c1 = Math.hypot(a1, b);
        double c2 = Math.hypot(a2, other.b);
        double h1 = hue(a1, b);
        double h2 = hue(a2, other.b);
        double dl = other.l - l;
        double dc = c2 - c1;
        boolean grey = c1 * c2 == 0;
        double turn = h2 - h1;
        if (grey) {
            turn = 0;
        } else if (turn > 180) {
            turn -= 360;
        } else if (turn < -180) {
            turn += 360;
        }
        double dh = 2 * Math.sqrt(c1 * c2) * Math.sin(Math.toRadians(turn / 2));
        double meanL = (l + other.l) / 2;
        double meanC = (c1 + c2) / 2;
        double meanH = h1 + h2;
        if (!grey) {
            if (Math.abs(h1 - h2) > 180) {
                meanH += meanH < 360 ? 360 : -360;
            }
            meanH /= 2;
        }
        double t = 1
                - 0.17 * Math.cos(Math.toRadians(meanH - 30))
                + 0.24 * Math.cos(Math.toRadians(2 * meanH))
                + 0.32 * Math.cos(Math.toRadians(3 * meanH + 6))
                - 0.20 * Math.cos(Math.toRadians(4 * meanH - 63));
        double spread = 30 * Math.exp(-Math.pow((meanH - 275) / 25, 2));
        double m7 = Math.pow(meanC, 7);
        double rc = 2 * Math.sqrt(m7 / (m7 + Math.pow(25, 7)));
        double l50 = (meanL - 50) * (meanL - 50);
        double sl = 1 + 0.015 * l50 / Math.sqrt(20 + l50);
        double sc = 1 + 0.045 * meanC;
        double sh = 1 + 0.015 * meanC * t;
        double rt = -Math.sin(Math.toRadians(2 * spread)) * rc;
        double p = dl / sl;
        double q = dc / sc;
        double r = dh / sh;
        return Math.sqrt(p * p + q * q + r * r + rt * q * r);
    }

    private static double hue(double a, double b) {
        if (a == 0 && b == 0) {
            return 0;
        }
        double degrees = Math.toDegrees(Math.atan2(b, a));
        return degrees < 0 ? degrees + 360 : degrees;
    }
}
