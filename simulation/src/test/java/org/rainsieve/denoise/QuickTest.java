package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.TestTools;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.quality.Psnr;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

class QuickTest {
    @TempDir
    Path folder;

    /**
     * Against LibRaw 0.20.2 (AHD) without and with its wavelet, which balances white itself, at the best of four
     * thresholds, on CC0 photographs at the noise levels of the benchmarks.
     */
    @ParameterizedTest
    @CsvSource({
        "osprey.png, 0.002, 2e-5",
        "osprey.png, 0.008, 2e-4",
        "osprey.png, 0.02, 1e-3",
        "building.png, 0.002, 2e-5",
        "building.png, 0.008, 2e-4",
        "building.png, 0.02, 1e-3",
        "night.png, 0.002, 2e-5",
        "night.png, 0.008, 2e-4",
        "night.png, 0.02, 1e-3"
    })
    void beatsLibRawsWavelet(String name, double a, double b) throws IOException {
        Planes truth = TestTools.photograph(name);
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, 3072, 16383).expose(truth, a, b, 11);
        Region inside = mosaic.bounds().grow(-16);
        double[] gains = {2, 1, 1.6};
        double quick = Psnr.cpsnrDb(developed(mosaic, a, b, gains, true), truth, inside, TestTools.SHOWN);
        double plain = Psnr.cpsnrDb(developed(mosaic, a, b, gains, false), truth, inside, TestTools.SHOWN);
        assertThat(quick).isGreaterThan(plain);

        TiffDirectory tags = SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), false);
        tags.put(TiffField.ofRationals(Tag.AS_SHOT_NEUTRAL, TiffType.RATIONAL, 1_000_000, 0.5, 1, 0.625));
        Path file = folder.resolve("t.dng");
        Files.write(
                file,
                CfaDngWriter.write(
                        mosaic, 3072, new CfaDngWriter.Form(java.nio.ByteOrder.LITTLE_ENDIAN, 16, false, 0), tags));
        // Balanced by LibRaw: its green then reaches 65,535 at clipping, and only exposure is left to restore.
        double best = 0;
        for (String threshold : new String[] {"0", "100", "300", "1000", "3000"}) {
            TestTools.run(folder, "dcraw_emu", "-4", "-T", "-W", "-w", "-o", "0", "-c", "0", "-n", threshold, "t.dng");
            TestTools.Tiff16 tiff = TestTools.tiff16(folder.resolve("t.dng.tiff"));
            Planes planes = new Planes(truth.region(), 3);
            for (int i = 0; i < tiff.samples().length; i++) {
                planes.channel(i % 3)[i / 3] = (float) (tiff.samples()[i] / 65535.0 / gains[i % 3]);
            }
            best = Math.max(best, Psnr.cpsnrDb(planes, truth, inside, TestTools.SHOWN));
        }
        assertThat(best).as("LibRaw's own result is believable").isGreaterThan(plain - 3);
        assertThat(quick).isGreaterThanOrEqualTo(best);
    }

    /** The 6×6 form against plain demosaic and, on the same picture at the same noise, the 2×2 form. */
    @ParameterizedTest
    @CsvSource({"osprey.png, 0.0002, 2e-6", "building.png, 0.008, 2e-4", "night.png, 0.02, 1e-3"})
    void sixBySixKeepsUpWithTwoByTwo(String name, double a, double b) {
        Planes truth = TestTools.photograph(name);
        Region inside = truth.region().grow(-16);
        double[] gains = {2, 1, 1.6};
        double[] quick = new double[2];
        double plain = 0;
        CfaPattern[] patterns = {CfaPattern.RGGB, CfaPattern.SIX};
        for (int k = 0; k < 2; k++) {
            Mosaic mosaic = new SimulatedSensor(patterns[k], 3072, 16383).expose(truth, a, b, 11);
            quick[k] = Psnr.cpsnrDb(developed(mosaic, a, b, gains, true), truth, inside, TestTools.SHOWN);
            plain = Psnr.cpsnrDb(developed(mosaic, a, b, gains, false), truth, inside, TestTools.SHOWN);
        }
        assertThat(quick[1]).isGreaterThan(plain + 0.5).isGreaterThan(quick[0] - 0.5);
    }

    private static Planes developed(Mosaic mosaic, double a, double b, double[] gains, boolean on) {
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        "t",
                        mosaic,
                        NoiseModel.uniform(a, b),
                        gains,
                        new DenoiseSettings(on, "Quick", 0, 0),
                        new WorkingMemory(64L << 20),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }
}
