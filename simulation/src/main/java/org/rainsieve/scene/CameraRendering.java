package org.rainsieve.scene;

import java.awt.image.BufferedImage;
import java.util.stream.IntStream;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.demosaic.Demosaic;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * What a camera makes of its own mosaic before it compresses it: demosaiced, noise smoothed with a sense of edges, a
 * contrasty tone curve, halos of sharpening. All of it is baked in, as in real ones.
 *
 * @param smoothing difference in brightness up to which neighbours are mixed; 0: none
 * @param sharpening share of the difference from a 3×3 mean that is added
 * @param contrast with the camera's own curve, or in plain sRGB
 */
public record CameraRendering(double smoothing, float sharpening, boolean contrast) {
    /** What the mosaic has to have around the picture. */
    public static final int MARGIN = 16;

    private static final int REACH = 2;

    /**
     * @param mosaic the frame and {@link #MARGIN} around it
     * @param toSrgb from the camera's colours to linear sRGB
     * @return planes of display values of R, G, B, which may leave 0 to 1
     */
    public float[][] render(Planes mosaic, Region frame, CfaPattern pattern, double[] gains, Matrix3 toSrgb) {
        int w = frame.width();
        int h = frame.height();
        Demosaic demosaic = Demosaic.of(pattern, gains, null);
        Planes rgb = new Planes(frame, 3);
        demosaic.interpolate(mosaic, demosaic.decide(mosaic), rgb);
        float[][] ycc = new float[3][w * h];
        IntStream.range(0, w * h).parallel().forEach(i -> {
            double[] lit = toSrgb.times(new double[] {
                Math.min(1, rgb.channel(0)[i] * gains[0]) / gains[0],
                rgb.channel(1)[i],
                Math.min(1, rgb.channel(2)[i] * gains[2]) / gains[2]
            });
            double r = encoded(lit[0]);
            double g = encoded(lit[1]);
            double b = encoded(lit[2]);
            // ITU-R BT.601 luma and colour differences.
            ycc[0][i] = (float) (0.299 * r + 0.587 * g + 0.114 * b);
            ycc[1][i] = (float) (b - ycc[0][i]);
            ycc[2][i] = (float) (r - ycc[0][i]);
        });
        if (smoothing > 0) {
            ycc[0] = smoothed(ycc[0], ycc[0], w, h, smoothing, 1);
            for (int pass = 0; pass < 2; pass++) {
                ycc[1] = smoothed(ycc[1], ycc[0], w, h, 3 * smoothing, 1 + pass);
                ycc[2] = smoothed(ycc[2], ycc[0], w, h, 3 * smoothing, 1 + pass);
            }
        }
        return sharpened(ycc, w, h);
    }

    private double encoded(double linear) {
        return contrast ? curve(linear) : RgbSpace.encode(Math.max(0, Math.min(1, linear)));
    }

    /** The camera's own rendering: sRGB with lifted middle tones and a shoulder. */
    private static double curve(double linear) {
        double v = Math.max(0, linear);
        double shoulder = v * (1 + v * 0.3) / (1 + 0.55 * v) * 1.19;
        double s = RgbSpace.encode(Math.min(1, shoulder));
        return s + 0.10 * Math.sin(2 * Math.PI * (s - 0.5)) * 0.5;
    }

    /** A weighted mean over 5×5 places, less weight the more the guide differs (Tomasi, Manduchi 1998). */
    private static float[] smoothed(float[] in, float[] guide, int w, int h, double difference, int apart) {
        float[] out = new float[in.length];
        float inverse = (float) (1 / (2 * difference * difference));
        IntStream.range(0, h).parallel().forEach(y -> {
            for (int x = 0; x < w; x++) {
                int i = y * w + x;
                float sum = 0;
                float weights = 0;
                for (int dy = -REACH; dy <= REACH; dy++) {
                    int row = Math.min(Math.max(y + dy * apart, 0), h - 1) * w;
                    for (int dx = -REACH; dx <= REACH; dx++) {
                        int j = row + Math.min(Math.max(x + dx * apart, 0), w - 1);
                        float d = guide[j] - guide[i];
                        float weight = 1 / (1 + d * d * inverse * 4);
                        sum += weight * in[j];
                        weights += weight;
                    }
                }
                out[i] = sum / weights;
            }
        });
        return out;
    }

    private float[][] sharpened(float[][] ycc, int w, int h) {
        float[][] rgb = new float[3][w * h];
        IntStream.range(0, w * h).parallel().forEach(i -> {
            int x = i % w;
            int y = i / w;
            float around = 0;
            for (int k = 0; k < 9; k++) {
                int j = Math.min(Math.max(y + k / 3 - 1, 0), h - 1) * w + Math.min(Math.max(x + k % 3 - 1, 0), w - 1);
                around += ycc[0][j] / 9;
            }
            float luma = ycc[0][i] + sharpening * (ycc[0][i] - around);
            float r = luma + ycc[2][i];
            float b = luma + ycc[1][i];
            rgb[0][i] = r;
            rgb[1][i] = (luma - 0.299f * r - 0.114f * b) / 0.587f;
            rgb[2][i] = b;
        });
        return rgb;
    }

    /** Display values in eight bits. */
    static BufferedImage image(float[][] rgb, int width, int height) {
        BufferedImage image = new BufferedImage(width, height, BufferedImage.TYPE_INT_RGB);
        int[] pixels = new int[width * height];
        for (int i = 0; i < pixels.length; i++) {
            pixels[i] = eight(rgb[0][i]) << 16 | eight(rgb[1][i]) << 8 | eight(rgb[2][i]);
        }
        image.setRGB(0, 0, width, height, pixels, 0, width);
        return image;
    }

    private static int eight(float value) {
        return Math.round(Math.max(0, Math.min(1, value)) * 255);
    }
}
