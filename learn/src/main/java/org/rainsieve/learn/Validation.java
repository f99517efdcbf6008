package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import ai.djl.ndarray.types.Shape;
import java.math.BigDecimal;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.stream.Collectors;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.denoise.PictureLevels;
import org.rainsieve.noise.RootScale;
import org.rainsieve.scene.CameraRendering;

/**
 * Scores a network on fixed crops of pictures it never saw: colour PSNR of the sRGB-encoded picture after restoring the
 * exposure, at the three noise levels of the benchmarks, or at three of little noise; then the same of the crops with
 * deep colours; mosaics also three stops under on a sensor that cuts noise at black.
 */
final class Validation implements Scores {
    private static final int SIZE = 384;
    private static final double[][] NOISE = {{0.002, 2e-5}, {0.008, 2e-4}, {0.02, 1e-3}};
    private static final double[][] LITTLE_NOISE = {{0.0005, 3e-6}, {0.002, 2e-5}, {0.004, 6e-5}};
    /** How far colours are taken from their grey, and what they are exposed with. */
    private record Kind(float colours, float exposure, boolean cutAtBlack) {}

    /** As they are; so that many leave a channel next to nothing; three stops under on a sensor that cuts noise at black. */
    private static final List<Kind> KINDS =
            List.of(new Kind(1, 0.5f, false), new Kind(2, 0.5f, false), new Kind(1, 0.125f, true));

    private static final float[] GAIN = {2f, 1f, 1.6f};

    private final Form form;
    private final double[][] noise;
    private final List<Photographs.Picture> pictures;

    Validation(Form form, List<Photographs.Picture> pictures) {
        this.form = form;
        this.noise = form == Form.LITTLE ? LITTLE_NOISE : NOISE;
        this.pictures = pictures;
    }

    @Override
    public String levels() {
        return Arrays.stream(noise)
                .map(law -> BigDecimal.valueOf(law[0]).toPlainString())
                .collect(Collectors.joining(
                        ", ", "a ", ", then the same with deep colours, then three stops under, cut at black"));
    }

    /** In the mean of all crops: each level, then each with deep colours. */
    @Override
    public double[] score(Map<String, NDArray> weights, Network.Fixed fixed) {
        int kinds = form == Form.PICTURE ? KINDS.size() - 1 : KINDS.size();
        double[] mean = new double[kinds * noise.length];
        for (int k = 0; k < kinds; k++) {
            System.arraycopy(score(weights, fixed, KINDS.get(k)), 0, mean, k * noise.length, noise.length);
        }
        return mean;
    }

    private double[] score(Map<String, NDArray> weights, Network.Fixed fixed, Kind kind) {
        double[] sums = new double[noise.length];
        int cells = SIZE * SIZE / 4;
        int crops = 0;
        int size = form == Form.PICTURE ? SIZE + 2 * CameraRendering.MARGIN : SIZE;
        for (Photographs.Picture picture : pictures) {
            for (int part = 0; part < 2; part++) {
                crops++;
                int x0 = (picture.width() - size) * (part + 1) / 3;
                int y0 = (picture.height() - size) * (part + 1) / 3;
                float[] clean = new float[3 * size * size];
                for (int i = 0; i < size * size; i++) {
                    for (int c = 0; c < 3; c++) {
                        clean[c * size * size + i] = kind.exposure * picture.at(x0 + i % size, y0 + i / size, c);
                    }
                }
                CleanPatches.part(clean, kind.colours);
                for (int level = 0; level < noise.length; level++) {
                    double a = noise[level][0];
                    double b = noise[level][1];
                    float[] input = new float[form.inputs * cells];
                    float[] target = new float[form.outputs * cells];
                    expose(clean, a, b, kind.cutAtBlack, new SplittableRandom(crops * 31L + level), input, target);
                    float[] out;
                    try (NDManager manager = NDManager.newBaseManager()) {
                        NDArray x = manager.create(input, new Shape(1, form.inputs, SIZE / 2, SIZE / 2));
                        try (NDArray answer = Network.apply(form, weights, x, fixed)) {
                            out = answer.toFloatArray();
                        }
                    }
                    RootScale scale = form == Form.PICTURE ? PictureLevels.SCALE : RootScale.of(a, b, GAIN[0]);
                    double error = 0;
                    for (int i = 0; i < out.length; i++) {
                        double difference = encode(scale.inverse(out[i]) / kind.exposure)
                                - encode(scale.inverse(target[i]) / kind.exposure);
                        error += difference * difference;
                    }
                    sums[level] += 10 * Math.log10(out.length / error);
                }
            }
        }
        for (int level = 0; level < noise.length; level++) {
            sums[level] /= crops;
        }
        return sums;
    }

    /** A rendered picture is one stop under like the mosaics, smoothed and sharpened as cameras do. */
    private void expose(
            float[] clean,
            double a,
            double b,
            boolean cutAtBlack,
            SplittableRandom random,
            float[] input,
            float[] target) {
        if (form != Form.PICTURE) {
            SimulatedNoise noise = cutAtBlack ? SimulatedNoise.cutAtBlack(a, b) : SimulatedNoise.plain(a, b);
            SimulatedPatch.expose(form, clean, SIZE, noise, GAIN, random, input, target);
            return;
        }
        CameraRendering rendering = new CameraRendering(Math.min(0.4, Math.sqrt(a) * 1.5), 0.9f, false);
        RenderedSource.Frame frame =
                RenderedSource.simulate(clean, SIZE + 2 * CameraRendering.MARGIN, GAIN, a, b, rendering, 0.92f, random);
        RenderedSource.pack(frame, 0, 0, SIZE, input, target);
    }

    private static double encode(double v) {
        return RgbSpace.encode(Math.min(1, Math.max(0, v)));
    }
}
