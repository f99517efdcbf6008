package org.rainsieve.learn;

import java.awt.image.BufferedImage;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.Arrays;
import java.util.SplittableRandom;
import javax.imageio.ImageIO;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.enlarge.Enlarging;
import org.rainsieve.enlarge.NoiseLeft;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.scene.CameraJpeg;

/**
 * Training examples of enlarging by two: a picture reduced by one of several kernels, so that the network relies on none,
 * with some grain left in or compressed as a JPEG. The truth is the picture before, with the grain as plain enlarging makes
 * it larger: grain is not to be drawn into texture.
 *
 * <p>Planes in: four positions for each of R, G, B of the picture as natural edges enlarge it, in {@link Enlarging#SCALE};
 * R, G, B of the picture itself; the sd of the grain left in it; how strongly it was compressed.
 */
final class EnlargeSource implements Examples {
    /** Planes that tell how the small picture is: its colours, its grain, its compression. */
    static final int TOLD = 5;

    /** What becomes of the picture before it is enlarged again. */
    enum Kind {
        CLEAN,
        GRAIN,
        COMPRESSED
    }

    /** Large pixels around a patch whose values count in it. */
    static final int EDGE = 20;

    private static final int CHANNEL_BITS = 8;
    private static final double USUAL_ERROR = 0.008;

    private final CleanPatches patches;
    private final int size;
    private final Kind only;

    /**
     * @param patches of {@code size} and two edges
     * @param only what all examples are, or null for some of each
     */
    EnlargeSource(CleanPatches patches, int size, Kind only) {
        this.patches = patches;
        this.size = size;
        this.only = only;
    }

    @Override
    public Judged next(SplittableRandom random, float[] input, float[] target) {
        CleanPatches.Clean clean = patches.next(random, true);
        Kind kind = only != null ? only : kind(random);
        int n = size + 2 * EDGE;
        int half = n / 2;
        float[][] small = reduced(clean.rgb(), n, random);
        float[][] grainy = small;
        float[] sd = new float[half * half];
        float compressed = 0;
        if (kind == Kind.COMPRESSED) {
            float quality = 0.5f + 0.48f * random.nextFloat();
            grainy = compressed(small, half, clean.exposure(), quality);
            compressed = 1 - quality;
        } else if (kind == Kind.GRAIN) {
            grainy = grain(small, half, sd, random);
        }
        float[][] base = natural(grainy, half);
        float[][] calm = kind == Kind.GRAIN ? natural(small, half) : base;
        pack(clean.rgb(), n, grainy, base, calm, sd, compressed, input, target);
        return new Judged(Enlarging.SCALE, clean.exposure(), (float) USUAL_ERROR);
    }

    private static Kind kind(SplittableRandom random) {
        double share = random.nextDouble();
        return share < 0.4 ? Kind.CLEAN : share < 0.75 ? Kind.GRAIN : Kind.COMPRESSED;
    }

    private void pack(
            float[] clean,
            int n,
            float[][] small,
            float[][] base,
            float[][] calm,
            float[] sd,
            float compressed,
            float[] input,
            float[] target) {
        int across = size / 2;
        int cells = across * across;
        for (int p = 0; p < 12; p++) {
            int c = p / 4;
            for (int cell = 0; cell < cells; cell++) {
                int x = EDGE + cell % across * 2 + (p & 1);
                int y = EDGE + cell / across * 2 + (p >> 1 & 1);
                int at = y * n + x;
                float enlarged = Enlarging.SCALE.forward(base[c][at]);
                input[p * cells + cell] = enlarged;
                target[p * cells + cell] = Enlarging.SCALE.forward(Math.min(1, clean[c * n * n + at]))
                        + (base == calm ? 0 : enlarged - Enlarging.SCALE.forward(calm[c][at]));
            }
        }
        for (int cell = 0; cell < cells; cell++) {
            int at = (EDGE / 2 + cell / across) * (n / 2) + EDGE / 2 + cell % across;
            for (int c = 0; c < 3; c++) {
                input[(12 + c) * cells + cell] = Enlarging.SCALE.forward(small[c][at]);
            }
            input[15 * cells + cell] = sd[at];
        }
        Arrays.fill(input, 16 * cells, 17 * cells, compressed);
    }

    private static float[][] natural(float[][] small, int half) {
        Planes from = new Planes(new Region(0, 0, half, half), 3);
        for (int c = 0; c < 3; c++) {
            System.arraycopy(small[c], 0, from.channel(c), 0, half * half);
        }
        Planes out = new Planes(new Region(0, 0, 2 * half, 2 * half), 3);
        Enlarging.of(EnlargeSettings.factor(2), half, half, NoiseLeft.NONE).fill(from, out);
        return new float[][] {out.channel(0), out.channel(1), out.channel(2)};
    }

    /** In light, as a lens and photosites do, or as programs reduce pictures, in sRGB. */
    private static float[][] reduced(float[] clean, int n, SplittableRandom random) {
        boolean light = random.nextDouble() < 0.7;
        float[] kernel = kernel(random);
        int half = n / 2;
        float[][] small = new float[3][half * half];
        for (int c = 0; c < 3; c++) {
            float[] plane = new float[n * n];
            for (int i = 0; i < plane.length; i++) {
                float v = Math.max(0, Math.min(1, clean[c * n * n + i]));
                plane[i] = light ? v : (float) RgbSpace.encode(v);
            }
            float[] narrow = halved(plane, n, n, kernel);
            float[] result = halved(transposed(narrow, half, n), n, half, kernel);
            small[c] = transposed(result, half, half);
            for (int i = 0; i < half * half; i++) {
                float v = Math.max(0, Math.min(1, small[c][i]));
                small[c][i] = light ? v : (float) RgbSpace.decode(v);
            }
        }
        return small;
    }

    /** Weights of the places −k … k − 1 around the middle between two large pixels. */
    private static float[] kernel(SplittableRandom random) {
        double pick = random.nextDouble();
        if (pick < 0.3) {
            return new float[] {0.5f, 0.5f};
        }
        int reach = 6;
        double sigma = 0.4 + 0.6 * random.nextDouble();
        float[] weights = new float[2 * reach];
        float sum = 0;
        for (int k = 0; k < weights.length; k++) {
            double at = k - reach + 0.5;
            weights[k] = (float)
                    (pick < 0.6
                            ? Math.exp(-at * at / (2 * sigma * sigma))
                            : pick < 0.8 ? cubic(at / 2) : lanczos(at / 2));
            sum += weights[k];
        }
        for (int k = 0; k < weights.length; k++) {
            weights[k] /= sum;
        }
        return weights;
    }

    /** Keys 1981 with a = −1/2, as the standard pictures of super-resolution are reduced. */
    private static double cubic(double x) {
        double t = Math.abs(x);
        return t < 1 ? (1.5 * t - 2.5) * t * t + 1 : t < 2 ? ((-0.5 * t + 2.5) * t - 4) * t + 2 : 0;
    }

    private static double lanczos(double x) {
        double t = Math.PI * x;
        return Math.abs(x) >= 3 ? 0 : Math.sin(t) / t * Math.sin(t / 3) / (t / 3);
    }

    private static float[] halved(float[] plane, int width, int height, float[] kernel) {
        int reach = kernel.length / 2;
        int half = width / 2;
        float[] out = new float[half * height];
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < half; x++) {
                float sum = 0;
                for (int k = 0; k < kernel.length; k++) {
                    int from = Math.max(0, Math.min(width - 1, 2 * x + 1 - reach + k));
                    sum += kernel[k] * plane[y * width + from];
                }
                out[y * half + x] = sum;
            }
        }
        return out;
    }

    private static float[] transposed(float[] plane, int width, int height) {
        float[] out = new float[plane.length];
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                out[x * height + y] = plane[y * width + x];
            }
        }
        return out;
    }

    /**
     * What Denoise left: up to two fifths of a sensor's noise, white or as demosaicing spreads it.
     *
     * @param sd becomes the grain's sd in {@link Enlarging#SCALE} at each pixel
     */
    private static float[][] grain(float[][] small, int half, float[] sd, SplittableRandom random) {
        double a = CleanPatches.logUniform(random, 2e-4, 0.03);
        double b = CleanPatches.read(a, random);
        double kept = 0.4 * random.nextDouble();
        float softness = Grain.softness(random);
        float[][] grainy = new float[3][half * half];
        for (int c = 0; c < 3; c++) {
            float[] grain = Grain.field(half, softness, random);
            for (int i = 0; i < grain.length; i++) {
                double x = Math.max(0, small[c][i]);
                double here = kept * Math.sqrt(a * x + b);
                grainy[c][i] = (float) (small[c][i] + here * grain[i]);
                sd[i] += (float) (here / (2 * Math.sqrt(x + Enlarging.SCALE.offset())) / 3);
            }
        }
        return grainy;
    }

    private static float[][] compressed(float[][] small, int half, float exposure, float quality) {
        float[][] shown = new float[3][half * half];
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < half * half; i++) {
                shown[c][i] = (float) RgbSpace.encode(Math.max(0, Math.min(1, small[c][i] / exposure)));
            }
        }
        try {
            BufferedImage image =
                    ImageIO.read(new ByteArrayInputStream(CameraJpeg.compressed(shown, half, half, quality)));
            int[] pixels = image.getRGB(0, 0, half, half, null, 0, half);
            float[][] out = new float[3][half * half];
            for (int i = 0; i < pixels.length; i++) {
                for (int c = 0; c < 3; c++) {
                    int value = pixels[i] >> CHANNEL_BITS * (2 - c) & 255;
                    out[c][i] = exposure * (float) RgbSpace.decode(value / 255.0);
                }
            }
            return out;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
