package org.rainsieve.learn;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.SplittableRandom;
import javax.imageio.ImageIO;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.denoise.PictureLevels;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseReading;
import org.rainsieve.noise.PictureNoise;
import org.rainsieve.scene.CameraJpeg;
import org.rainsieve.scene.CameraRendering;

/**
 * Training examples of pictures in full colour: pieces of simulated pictures that a camera or another program has
 * developed from a noisy mosaic, smoothed, sharpened and compressed more or less. The truth is what the same camera
 * would have made of the same light without noise, smoothing and compression. What the network is told of the noise is
 * read from the noisy picture as the application does.
 *
 * <p>Planes in: four positions for each of R, G, B in {@link PictureLevels#SCALE}, then {@link PictureLevels#COUNT}.
 */
final class RenderedSource implements Examples {
    static final int FRAME = 480;
    private static final int EDGE = CameraRendering.MARGIN;
    /** Pieces are taken from several frames in turn, so that a step sees different ones. */
    private static final int FRAMES_AT_ONCE = 16;

    private static final int PIECES = 8;

    /** One simulated picture: as it came, as it should be, and what is told of its noise. */
    record Frame(int size, float[][] noisy, float[][] truth, float[] levels) {}

    private final CleanPatches patches;
    private final int size;
    private final List<Frame> frames = new ArrayList<>();
    private int given;

    RenderedSource(CleanPatches patches, int size) {
        this.patches = patches;
        this.size = size;
    }

    @Override
    public Judged next(SplittableRandom random, float[] input, float[] target) {
        if (frames.size() < FRAMES_AT_ONCE) {
            frames.add(frame(random));
        } else if (given++ % PIECES == 0) {
            frames.set(random.nextInt(FRAMES_AT_ONCE), frame(random));
        }
        Frame frame = frames.get(random.nextInt(frames.size()));
        int x0 = random.nextInt(frame.size - size + 1);
        int y0 = random.nextInt(frame.size - size + 1);
        pack(frame, x0, y0, size, input, target);
        float bright = (frame.levels[0] + frame.levels[1] + frame.levels[2]) / 3;
        return new Judged(PictureLevels.SCALE, 1, (float) (0.07 * Math.sqrt(Math.max(1e-3, bright))));
    }

    static void pack(Frame frame, int x0, int y0, int size, float[] input, float[] target) {
        int half = size / 2;
        int cells = half * half;
        for (int p = 0; p < 12; p++) {
            for (int cell = 0; cell < cells; cell++) {
                int x = x0 + cell % half * 2 + (p & 1);
                int y = y0 + cell / half * 2 + (p >> 1 & 1);
                input[p * cells + cell] = frame.noisy[p / 4][y * frame.size + x];
                target[p * cells + cell] = frame.truth[p / 4][y * frame.size + x];
            }
        }
        for (int k = 0; k < PictureLevels.COUNT; k++) {
            Arrays.fill(input, (12 + k) * cells, (13 + k) * cells, frame.levels[k]);
        }
    }

    private Frame frame(SplittableRandom random) {
        while (true) {
            float[] clean = patches.next(random, false).rgb();
            float[] gain = CleanPatches.gains(random);
            double a = CleanPatches.shot(random);
            double b = CleanPatches.read(a, random);
            boolean developed = random.nextDouble() < 0.8;
            double smoothing = developed && random.nextDouble() < 0.8 ? 0.4 * random.nextDouble() : 0;
            float sharpening = developed ? 1.2f * random.nextFloat() : 0;
            boolean contrast = developed && random.nextBoolean();
            float quality = developed && random.nextDouble() < 0.85 ? 0.6f + 0.4f * random.nextFloat() : 0;
            Frame made = simulate(
                    clean, FRAME, gain, a, b, new CameraRendering(smoothing, sharpening, contrast), quality, random);
            if (made != null) {
                return made;
            }
        }
    }

    /**
     * @param clean planar linear RGB of size²
     * @param quality of the compression; 0: none
     * @return null where the noise cannot be read
     */
    static Frame simulate(
            float[] clean,
            int size,
            float[] gain,
            double a,
            double b,
            CameraRendering rendering,
            float quality,
            SplittableRandom random) {
        // The camera sees colours less apart, and its matrix takes them apart again, with their noise.
        double p = 0.35 * random.nextDouble();
        double q = 0.2 * random.nextDouble();
        Matrix3 sees = Matrix3.of(1 - p - q, p, q, q / 2, 1 - (p + q) / 2, p / 2, q / 2, p, 1 - p - q / 2);
        double[] gains = {gain[0], gain[1], gain[2]};
        Matrix3 toSrgb = sees.inverse().times(Matrix3.diagonal(gains));
        Region whole = new Region(0, 0, size, size);
        Planes still = new Planes(whole, 1);
        Planes noisy = new Planes(whole, 1);
        for (int i = 0; i < size * size; i++) {
            int c = CfaPattern.RGGB.colourAt(i % size, i / size);
            double[] seen = sees.times(clean[i], clean[size * size + i], clean[2 * size * size + i]);
            double x = Math.max(0, seen[c] / gains[c]);
            still.channel(0)[i] = (float) Math.min(1, x);
            noisy.channel(0)[i] =
                    (float) Math.min(1, Chance.photons(x / a, random) * a + Math.sqrt(b) * Chance.normal(random));
        }
        Region inner = whole.grow(-EDGE);
        int n = inner.width();
        float[][] truth = new CameraRendering(0, rendering.sharpening(), rendering.contrast())
                .render(still, inner, CfaPattern.RGGB, gains, toSrgb);
        float[][] seen = rendering.render(noisy, inner, CfaPattern.RGGB, gains, toSrgb);
        if (quality > 0) {
            compress(seen, n, quality);
        }
        Picture picture = picture(seen, n);
        NoiseReading reading = PictureNoise.read(picture);
        if (reading == null) {
            return null;
        }
        Planes linear = new Planes(picture.bounds(), 3);
        picture.fill(linear);
        float[][] in = new float[3][n * n];
        float[][] out = new float[3][n * n];
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < n * n; i++) {
                in[c][i] = PictureLevels.SCALE.forward(linear.channel(c)[i]);
                out[c][i] = PictureLevels.SCALE.forward((float) RgbSpace.decode(Math.max(0, Math.min(1, truth[c][i]))));
            }
        }
        return new Frame(n, in, out, PictureLevels.of(picture, reading.law()));
    }

    private static void compress(float[][] rgb, int n, float quality) {
        try {
            var image = ImageIO.read(new ByteArrayInputStream(CameraJpeg.compressed(rgb, n, n, quality)));
            int[] pixels = image.getRGB(0, 0, n, n, null, 0, n);
            for (int i = 0; i < pixels.length; i++) {
                for (int c = 0; c < 3; c++) {
                    rgb[c][i] = (pixels[i] >> (16 - 8 * c) & 255) / 255f;
                }
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static Picture picture(float[][] rgb, int n) {
        short[][] samples = new short[3][n * n];
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < n * n; i++) {
                samples[c][i] = (short) Math.round(65535 * RgbSpace.decode(Math.max(0, Math.min(1, rgb[c][i]))));
            }
        }
        return new Picture(n, n, samples, 0, 65535, true);
    }
}
