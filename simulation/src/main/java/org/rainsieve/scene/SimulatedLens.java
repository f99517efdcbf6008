package org.rainsieve.scene;

import java.util.List;
import java.util.Locale;
import java.util.stream.IntStream;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.optics.LensCorrection;

/**
 * A made-up lens: how it bends, fringes and shades the picture, by the models that lensfun documents. Distortion
 * <em>ptlens</em>: r_d = r_u·(a·r_u³ + b·r_u² + c·r_u + 1 − a − b − c), r = 1 at half the shorter side; lateral colour
 * <em>linear</em>: red and blue further out by a factor; shading <em>pa</em>: 1 + k1·r² + k2·r⁴ + k3·r⁶, r = 1 at the
 * corner.
 *
 * @param name as cameras report it
 * @param cropFactor of the sensor for which the numbers hold
 */
public record SimulatedLens(
        String make,
        String name,
        String mount,
        double focalLengthMm,
        double aperture,
        double cropFactor,
        double a,
        double b,
        double c,
        double red,
        double blue,
        double k1,
        double k2,
        double k3) {

    public static final SimulatedLens ONDREL_380 = new SimulatedLens(
            "Ondrel",
            "Ondrel 380 mm f/5",
            "Ondrel",
            380,
            5,
            1,
            0,
            0.0035,
            -0.0012,
            1.00006,
            0.99996,
            -0.28,
            0.05,
            -0.02);
    public static final SimulatedLens ONDREL_24 = new SimulatedLens(
            "Ondrel",
            "Ondrel 24 mm f/2",
            "Ondrel",
            24,
            2,
            1,
            0.0021,
            -0.0115,
            0.0034,
            1.00021,
            0.99983,
            -0.74,
            0.31,
            -0.09);
    public static final SimulatedLens KESVIK_41 = new SimulatedLens(
            "Kesvik",
            "Kesvik 41 mm f/1.6",
            "Kesvik",
            41,
            1.6,
            1.5,
            0,
            -0.0072,
            0,
            1.00012,
            0.99991,
            -0.52,
            0.16,
            -0.04);

    /** The pocket camera's own lens, of which nothing is told and which does nothing. */
    public static final SimulatedLens PILBO = new SimulatedLens("Pilbo", "", "", 5.2, 2, 5.6, 0, 0, 0, 1, 1, 0, 0, 0);

    /** Where a straight picture lies under the frame that is taken. */
    public record Aim(double x, double y, double turnRadians) {}

    /** Distorted radius to undistorted, by Newton's method. */
    double straight(double distorted) {
        double u = distorted;
        for (int i = 0; i < 6; i++) {
            double d = 1 - a - b - c;
            double value = u * (u * (u * (u * a + b) + c) + d) - distorted;
            double slope = u * (u * (u * 4 * a + 3 * b) + 2 * c) + d;
            u -= value / slope;
        }
        return u;
    }

    /** Light that reaches a place, r = 1 at the corner. */
    double shading(double r) {
        double q = r * r;
        return 1 + q * (k1 + q * (k2 + q * k3));
    }

    /**
     * The picture that this lens throws on a sensor.
     *
     * @param drawn straight linear picture, larger than the frame by a margin
     * @param aim where in it the frame's first corner lies before turning
     */
    public Planes photograph(Planes drawn, int width, int height, Aim aim) {
        Planes out = new Planes(new Region(0, 0, width, height), 3);
        double unit = Math.min(width, height) / 2.0;
        double corner = Math.hypot(width, height) / 2;
        double cos = Math.cos(aim.turnRadians());
        double sin = Math.sin(aim.turnRadians());
        IntStream.range(0, height).parallel().forEach(y -> {
            for (int x = 0; x < width; x++) {
                double dx = x + 0.5 - width / 2.0;
                double dy = y + 0.5 - height / 2.0;
                double r = Math.hypot(dx, dy);
                double light = shading(r / corner);
                for (int channel = 0; channel < 3; channel++) {
                    double seen = r / (channel == 0 ? red : channel == 2 ? blue : 1);
                    double scale = r < 1e-9 ? 1 : straight(seen / unit) * unit / r;
                    double sx = dx * scale * cos - dy * scale * sin + width / 2.0 + aim.x() - 0.5;
                    double sy = dx * scale * sin + dy * scale * cos + height / 2.0 + aim.y() - 0.5;
                    out.channel(channel)[y * width + x] = (float) (light * Math.max(0, sample(drawn, channel, sx, sy)));
                }
            }
        });
        return out;
    }

    /** Catmull-Rom interpolation, the edge repeated. */
    private static double sample(Planes from, int channel, double x, double y) {
        int w = from.region().width();
        int h = from.region().height();
        int x0 = (int) Math.floor(x);
        int y0 = (int) Math.floor(y);
        double fx = x - x0;
        double fy = y - y0;
        float[] plane = from.channel(channel);
        double sum = 0;
        for (int j = -1; j <= 2; j++) {
            int row = Math.min(Math.max(y0 + j, 0), h - 1) * w;
            double across = 0;
            for (int i = -1; i <= 2; i++) {
                across += weight(fx, i) * plane[row + Math.min(Math.max(x0 + i, 0), w - 1)];
            }
            sum += weight(fy, j) * across;
        }
        return sum;
    }

    private static double weight(double f, int place) {
        double t = Math.abs(f - place);
        return t < 1 ? 1 + t * t * (1.5 * t - 2.5) : 2 + t * (-4 + t * (2.5 - 0.5 * t));
    }

    /** What it does, as the optics take it back; the same numbers that {@link #profiles} tells. */
    public LensCorrection correction() {
        return new LensCorrection(
                name,
                "ptlens",
                List.of(a, b, c),
                List.of(red, 0.0, 0.0),
                List.of(blue, 0.0, 0.0),
                List.of(k1, k2, k3),
                cropFactor,
                1.5,
                0,
                0);
    }

    /** All lenses of the demo as a lensfun database file (format of lensfun 0.3). */
    public static String profiles() {
        StringBuilder xml =
                new StringBuilder("<!DOCTYPE lensdatabase SYSTEM \"lensfun-database.dtd\">\n<lensdatabase>\n");
        for (SimulatedLens lens : new SimulatedLens[] {ONDREL_380, ONDREL_24, KESVIK_41}) {
            if (xml.indexOf("<name>" + lens.mount + "<") < 0) {
                xml.append("  <mount>\n    <name>").append(lens.mount).append("</name>\n  </mount>\n");
            }
        }
        xml.append(camera(SimulatedCamera.ONDREL_24, ONDREL_24));
        xml.append(camera(SimulatedCamera.KESVIK_M, KESVIK_41));
        for (SimulatedLens lens : new SimulatedLens[] {ONDREL_380, ONDREL_24, KESVIK_41}) {
            xml.append(String.format(
                    Locale.ROOT,
                    "  <lens>%n    <maker>%s</maker>%n    <model>%s</model>%n    <mount>%s</mount>%n"
                            + "    <cropfactor>%s</cropfactor>%n    <calibration>%n"
                            + "      <distortion model=\"ptlens\" focal=\"%s\" a=\"%s\" b=\"%s\" c=\"%s\"/>%n"
                            + "      <tca model=\"linear\" focal=\"%s\" kr=\"%s\" kb=\"%s\"/>%n"
                            + "      <vignetting model=\"pa\" focal=\"%s\" aperture=\"%s\" distance=\"1000\" k1=\"%s\" k2=\"%s\" k3=\"%s\"/>%n"
                            + "    </calibration>%n  </lens>%n",
                    lens.make,
                    lens.name,
                    lens.mount,
                    lens.cropFactor,
                    lens.focalLengthMm,
                    lens.a,
                    lens.b,
                    lens.c,
                    lens.focalLengthMm,
                    lens.red,
                    lens.blue,
                    lens.focalLengthMm,
                    lens.aperture,
                    lens.k1,
                    lens.k2,
                    lens.k3));
        }
        return xml.append("</lensdatabase>\n").toString();
    }

    private static String camera(SimulatedCamera camera, SimulatedLens lens) {
        return String.format(
                Locale.ROOT,
                "  <camera>%n    <maker>%s</maker>%n    <model>%s</model>%n    <mount>%s</mount>%n"
                        + "    <cropfactor>%s</cropfactor>%n  </camera>%n",
                camera.make(),
                camera.model(),
                lens.mount,
                lens.cropFactor);
    }
}
