package org.rainsieve.scene;

import java.util.stream.IntStream;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** A pinhole camera that asks for the light and the depth of every pixel. */
final class View {
    /** What one ray brings back: linear red, green, blue and the depth along the view, in metres. */
    interface Light {
        void seen(double[] direction, double[] rgbAndDepth);
    }

    final double[] eye;
    private final double[] forward;
    private final double[] right;
    private final double[] up;
    private final double tangent;

    /** @param tangent half the frame's height seen at distance 1 */
    View(double[] eye, double[] target, double tangent) {
        this.eye = eye;
        this.tangent = tangent;
        forward = Solid.unit(target[0] - eye[0], target[1] - eye[1], target[2] - eye[2]);
        right = Solid.unit(forward[2], 0, -forward[0]);
        up = new double[] {
            right[2] * forward[1] - right[1] * forward[2],
            right[0] * forward[2] - right[2] * forward[0],
            right[1] * forward[0] - right[0] * forward[1]
        };
        if (up[1] < 0) {
            for (int k = 0; k < 3; k++) {
                up[k] = -up[k];
            }
        }
    }

    double[] ray(double x, double y, int width, int height) {
        double u = (x - width / 2.0) / (height / 2.0) * tangent;
        double v = (height / 2.0 - y) / (height / 2.0) * tangent;
        return Solid.unit(
                forward[0] + u * right[0] + v * up[0],
                forward[1] + u * right[1] + v * up[1],
                forward[2] + u * right[2] + v * up[2]);
    }

    double depth(double[] direction, double along) {
        return along * Solid.dot(direction, forward);
    }

    /** Where a point falls on the frame: x, y and depth. */
    double[] project(double x, double y, double z, int width, int height) {
        double[] d = {x - eye[0], y - eye[1], z - eye[2]};
        double depth = Solid.dot(d, forward);
        double scale = height / 2.0 / tangent / depth;
        return new double[] {width / 2.0 + Solid.dot(d, right) * scale, height / 2.0 - Solid.dot(d, up) * scale, depth};
    }

    /** Renders with two rays a pixel, on a diagonal: colours into three channels, depth into the other picture. */
    void render(Planes rgb, Planes depth, Light light) {
        Region r = rgb.region();
        int w = r.width();
        int h = r.height();
        IntStream.range(0, h).parallel().forEach(y -> {
            double[] seen = new double[4];
            for (int x = 0; x < w; x++) {
                double near = Double.MAX_VALUE;
                int i = y * w + x;
                for (int k = 0; k < 2; k++) {
                    light.seen(ray(x + 0.25 + 0.5 * k, y + 0.75 - 0.5 * k, w, h), seen);
                    for (int c = 0; c < 3; c++) {
                        rgb.channel(c)[i] += (float) (seen[c] / 2);
                    }
                    near = Math.min(near, seen[3]);
                }
                depth.channel(0)[i] = (float) near;
            }
        });
    }
}
