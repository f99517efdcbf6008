package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.TestTools;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.tiff.Tag;

/**
 * What the NoiseProfile of a return says, against its noise where the light is known to be even: in the middle of all blocks of a sky
 * within 25 % of the sd. (The means of <em>Quick</em> and <em>Patch</em> with no grain kept lie 30 to 35 % above: blobs in a few.)
 */
class ReturnNoiseTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final int BLOCK = 16;

    @TempDir
    static Path folder;

    @ParameterizedTest
    @CsvSource({"Quick, 0", "Quick, 20", "Patch, 0", "Learned, 0", "Learned, 40"})
    void theProfileTellsTheNoiseThatIsLeft(String method, double grain) throws IOException, RefusedException {
        Planes truth = TestTools.photograph("osprey.png");
        // On the left half a sky, from dark to bright.
        int width = truth.region().width();
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < truth.channel(c).length; i++) {
                if (i % width < width / 2) {
                    truth.channel(c)[i] =
                            (0.01f + 0.4f * (i / width) / truth.region().height()) * (c == 1 ? 1 : 0.6f);
                }
            }
        }
        NoiseModel law = NoiseModel.uniform(4e-3, 6e-5);
        byte[] dng = TestTools.dng(CAMERA.sensor().expose(truth, 4e-3, 6e-5, 8), CAMERA, 6400, true);
        Path file = folder.resolve("return.dng");
        Files.deleteIfExists(file);
        TestTools.writeReturn(
                dng,
                "a.dng",
                ResolvedSettings.of(6400, law, new DenoiseSettings(true, method, grain, grain), CAMERA.pattern()),
                file);
        try (LinearDngFile returned = LinearDngFile.open(file)) {
            double[] profile = returned.image().numbers(Tag.NOISE_PROFILE);
            Planes out = new Planes(returned.bounds(), 3);
            returned.fill(out);
            for (int c = 0; c < 3; c++) {
                List<Double> ratios = new ArrayList<>();
                for (int y = 16; y + 32 <= truth.region().height(); y += BLOCK) {
                    for (int x = 16; x + 32 <= width / 2; x += BLOCK) {
                        double told = profile[2 * c] * truth.at(c, x + 8, y + 8) + profile[2 * c + 1];
                        ratios.add(Math.sqrt(told / aboutPlane(out, c, x, y)));
                    }
                }
                Collections.sort(ratios);
                assertThat(ratios).hasSizeGreaterThan(400);
                assertThat(ratios.get(ratios.size() / 2)).as("colour %d", c).isCloseTo(1, within(0.25));
            }
        }
    }

    private static double aboutPlane(Planes planes, int c, int x0, int y0) {
        double sum = 0;
        double sx = 0;
        double sy = 0;
        double squares = 0;
        double middle = (BLOCK - 1) / 2.0;
        for (int y = 0; y < BLOCK; y++) {
            for (int x = 0; x < BLOCK; x++) {
                double v = planes.at(c, x0 + x, y0 + y);
                sum += v;
                sx += v * (x - middle);
                sy += v * (y - middle);
                squares += v * v;
            }
        }
        double n = BLOCK * BLOCK;
        double spread = n * (n - 1) / 12;
        return (squares - sum * sum / n - (sx * sx + sy * sy) / spread) / (n - 3);
    }
}
