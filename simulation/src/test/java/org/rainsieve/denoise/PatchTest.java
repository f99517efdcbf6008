package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.util.Arrays;
import java.util.SplittableRandom;
import java.util.concurrent.CompletableFuture;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SensorNoise;
import org.rainsieve.scene.SimulatedSensor;

class PatchTest {
    private static final double[] GAINS = {2, 1, 1.6};

    /**
     * Grey picture Lena, 512 × 512, noise sd 25 of 255: within 0.15 dB of what BM3D's authors publish, 32.08 dB (value from
     * memory). The picture comes with the tests of a library and is not part of this project.
     */
    @Test
    void asGoodAsPublished() throws IOException {
        BufferedImage image = ImageIO.read(getClass().getResource("/tiff/jpeg-lossless-24bit-rgb.tif"));
        int size = image.getWidth();
        SplittableRandom random = new SplittableRandom(1);
        float[] clean = new float[size * size];
        float[] noisy = new float[size * size];
        for (int i = 0; i < noisy.length; i++) {
            int rgb = image.getRGB(i % size, i / size);
            clean[i] = 0.299f * (rgb >> 16 & 255) + 0.587f * (rgb >> 8 & 255) + 0.114f * (rgb & 255);
            noisy[i] = (float) (clean[i] / 25 + Chance.normal(random));
        }
        Region all = new Region(0, 0, size, size);
        float[][] white = new float[1][BlockTransform.AREA];
        Arrays.fill(white[0], 1);
        Planes plane = new Planes(all, 1);
        System.arraycopy(noisy, 0, plane.channel(0), 0, noisy.length);
        // As published: the thresholds of alikeness are 2,500 and 400 at this noise.
        Planes first = new PatchFilter(all, new PatchFilter.Search(3, 1, 1, 12, 16, 16, 4))
                .hardThresholded(plane, plane, white);
        float[] out = new PatchFilter(all, new PatchFilter.Search(3, 1, 1, 12, 32, 32, 0.64f))
                .wienerFiltered(plane, first, white, 0)
                .channel(0);
        double error = 0;
        for (int i = 0; i < out.length; i++) {
            error += Math.pow(Math.min(255, Math.max(0, 25 * out[i])) - clean[i], 2);
        }
        assertThat(10 * Math.log10(255.0 * 255 * out.length / error)).isGreaterThan(32.08 - 0.15);
    }

    /** Better than Quick on each photograph and pattern, most where things repeat. */
    @ParameterizedTest
    @CsvSource({
        "building.png, 2, 0.002, 2e-5, 1.55",
        "building.png, 2, 0.008, 2e-4, 2",
        "osprey.png, 2, 0.008, 2e-4, 0.85",
        "night.png, 2, 0.02, 1e-3, 0.55",
        "building.png, 6, 0.008, 2e-4, 1.85",
        "osprey.png, 6, 0.02, 1e-3, 0.45"
    })
    void betterThanQuick(String name, int period, double a, double b, double byDb) {
        CfaPattern pattern = period == 6 ? CfaPattern.SIX : CfaPattern.RGGB;
        assertThat(TestTools.denoisedDb(name, pattern, "Patch", a, b)
                        - TestTools.denoisedDb(name, pattern, "Quick", a, b))
                .isGreaterThan(byDb);
    }

    /** Inside the margin the estimate does not depend on where a tile was cut, nor on how many are worked on at once. */
    @ParameterizedTest
    @ValueSource(ints = {2, 6})
    void tilesFitTogether(int period) {
        CfaPattern pattern = period == 6 ? CfaPattern.SIX : CfaPattern.GRBG;
        Mosaic mosaic =
                new SimulatedSensor(pattern, 3072, 16383).expose(TestTools.photograph("building.png"), 0.008, 2e-4, 3);
        NoiseModel noise = NoiseModel.uniform(0.008, 2e-4);
        Patch patch = new Patch();
        int margin = patch.margin(pattern);
        Region core = new Region(170, 170, 60, 40);
        var one = CompletableFuture.supplyAsync(() -> estimate(patch, mosaic, pattern, noise, core.grow(margin)));
        Planes other = estimate(
                patch, mosaic, pattern, noise, new Region(core.x() - margin - 22, core.y() - margin - 10, 1100, 1000));
        Planes again = estimate(patch, mosaic, pattern, noise, core.grow(margin));
        double worst = 0;
        for (int y = core.y(); y < core.bottom(); y++) {
            for (int x = core.x(); x < core.right(); x++) {
                worst = Math.max(worst, Math.abs(again.at(0, x, y) - other.at(0, x, y)));
            }
        }
        // Sums in another order differ in the last bits of floats.
        assertThat(worst * 65535).isLessThan(1);
        assertThat(one.join().channel(0)).isEqualTo(again.channel(0));
    }

    private static Planes estimate(Patch patch, Mosaic mosaic, CfaPattern pattern, NoiseModel noise, Region region) {
        Planes noisy = new Planes(region, 1);
        mosaic.fill(noisy);
        return patch.estimate(noisy, pattern, SensorNoise.uncut(noise), GAINS);
    }
}
