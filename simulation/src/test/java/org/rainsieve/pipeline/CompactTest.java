package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.TestTools;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.DngReader;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.source.OpenedFrame;

/** The compact form of returns: much smaller, with an error far below the noise that is left, and read right by others. */
class CompactTest {
    @TempDir
    Path folder;

    private Path written(byte[] dng, ResolvedSettings settings, boolean compact) throws IOException, RefusedException {
        Path file = folder.resolve(compact + ".dng");
        ReturnWriter.Order order = ReturnWriter.Order.of("o.dng", "00", settings);
        ReturnWriter.write(
                DngReader.read(dng),
                compact ? order.asCompact() : order,
                file,
                new WorkingMemory(64L << 20),
                Cancel.NEVER,
                share -> {});
        return file;
    }

    private static Planes pixels(Path file) throws IOException, RefusedException {
        try (LinearDngFile opened = LinearDngFile.open(file)) {
            Planes planes = new Planes(opened.bounds(), 3);
            opened.fill(planes);
            return planes;
        }
    }

    /** Photographs at ISO 800 to 12,800 or so; grain kept and colour noise kept in %; how much smaller it must be at least. */
    @ParameterizedTest
    @CsvSource({
        "osprey.png,0.002,30,0,0.35",
        "night.png,0.008,30,10,0.35",
        "building.png,0.02,30,30,0.35",
        "osprey.png,0.008,100,100,0.35",
        "building.png,0.002,0,0,0.2"
    })
    void smallerAndAsGood(String name, double a, double grain, double colour, double saved)
            throws IOException, RefusedException {
        double b = a * a * 5;
        Planes truth =
                TestTools.photograph(name, SimulatedCamera.ONDREL_24.colour().gains());
        Mosaic mosaic =
                new SimulatedSensor(CfaPattern.RGGB, SimulatedCamera.ONDREL_24.black(), 16383).expose(truth, a, b, 5);
        byte[] dng = TestTools.dng(mosaic, SimulatedCamera.ONDREL_24, 3200, false);
        ResolvedSettings settings = ResolvedSettings.of(
                3200, NoiseModel.uniform(a, b), new DenoiseSettings(true, "Quick", grain, colour), mosaic.pattern());
        ResolvedSettings none = ResolvedSettings.of(
                3200, NoiseModel.uniform(a, b), new DenoiseSettings(true, "Quick", 0, 0), mosaic.pattern());
        Path plain = written(dng, settings, false);
        Path compact = written(dng, settings, true);
        double ratio = pictureBytes(compact) / pictureBytes(plain);
        assertThat(ratio).as("size").isLessThan(1 - saved);
        Planes before = pixels(plain);
        Planes after = pixels(compact);
        Files.delete(plain);
        Planes clean = pixels(written(dng, none, false));
        for (int c = 0; c < 3; c++) {
            double error = 0;
            double left = 0;
            double mean = 0;
            int n = before.channel(c).length;
            for (int i = 0; i < n; i++) {
                error += Math.pow(after.channel(c)[i] - before.channel(c)[i], 2) / n;
                mean += (after.channel(c)[i] - before.channel(c)[i]) / n;
                left += Math.pow(before.channel(c)[i] - clean.channel(c)[i], 2) / n;
            }
            if (grain > 0) {
                assertThat(Math.sqrt(error / left))
                        .as("rounding against noise left")
                        .isLessThan(0.25);
            }
            assertThat(Math.abs(mean)).as("no shift").isLessThan(Math.sqrt(error) * 0.05 + 1e-6);
        }
        // Others: LibRaw, and our own reader of other people's files, see the same values.
        TestTools.Tiff16 libraw = TestTools.libraw(folder, compact);
        OpenedFrame opened = DngReader.read(Files.readAllBytes(compact));
        Picture picture = (Picture) opened.capture();
        for (int i = 0; i < before.channel(0).length; i += 17) {
            for (int c = 0; c < 3; c++) {
                int sample = LinearDngWriter.sample(after.channel(c)[i]) & 0xffff;
                assertThat(libraw.samples()[3 * i + c]).isEqualTo(Math.max(0, sample - LinearDngWriter.BLACK));
                assertThat(picture.sample(c, i % 640, i / 640)).isEqualTo(sample);
            }
        }
    }

    /** Without previews and directories, whose size does not depend on the form. */
    private static double pictureBytes(Path file) throws IOException, RefusedException {
        try (LinearDngFile opened = LinearDngFile.open(file)) {
            double sum = 0;
            for (double bytes : opened.image().numbers(org.rainsieve.tiff.Tag.TILE_BYTE_COUNTS)) {
                sum += bytes;
            }
            return sum + 2.0 * opened.image().numbers(org.rainsieve.tiff.Tag.LINEARIZATION_TABLE).length;
        }
    }
}
