package org.rainsieve.scene;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import javax.imageio.ImageIO;
import javax.xml.parsers.DocumentBuilderFactory;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.DngReader;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.source.OpenedFrame;

/** The simulated sensor, its lenses and its files against the laws and tools of the outside world. */
class SensorTest {
    @TempDir
    Path folder;

    private static Planes even(int side, float level) {
        Planes flat = new Planes(new Region(0, 0, side, side), 3);
        for (int c = 0; c < 3; c++) {
            Arrays.fill(flat.channel(c), level);
        }
        return flat;
    }

    /** EMVA Standard 1288: read noise from the difference of two dark frames, within 2 %; in the covered border too. */
    @Test
    void darkFramesHaveTheReadNoise() {
        for (SimulatedCamera camera :
                new SimulatedCamera[] {SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M, SimulatedCamera.PILBO_S}) {
            NoiseModel noise = camera.noiseAt(6400);
            double b = noise.b().get(0);
            Mosaic first = camera.sensor().expose(even(700, 0), noise.a().get(0), b, 1);
            Mosaic second = camera.sensor().expose(even(700, 0), noise.a().get(0), b, 2);
            var covered = camera.sensor().covered(b, 3);
            double sum = 0;
            double border = 0;
            for (int i = 0; i < 700 * 700; i++) {
                double d = first.at(i % 700, i / 700) - second.at(i % 700, i / 700);
                sum += d * d / 2;
                double c = (covered.applyAsInt(-1 - i % 24, i / 24) - camera.black())
                        / (double) (camera.white() - camera.black());
                border += c * c;
            }
            // Rounding to whole numbers adds a twelfth of a step squared (uniform law).
            double step = 1.0 / (camera.white() - camera.black());
            double expected = Math.sqrt(b + step * step / 12);
            assertThat(Math.sqrt(sum / 490_000)).isCloseTo(expected, within(0.02 * expected));
            assertThat(Math.sqrt(border / 490_000)).isCloseTo(expected, within(0.02 * expected));
        }
    }

    /** Every value between black and white occurs on a ramp: no gaps, as digital gain would leave them. */
    @ParameterizedTest
    @ValueSource(ints = {12, 14})
    void histogramHasNoGaps(int bits) {
        int white = (1 << bits) - 1;
        int black = white / 16;
        int side = 2400;
        Planes ramp = new Planes(new Region(0, 0, side, side), 3);
        for (int i = 0; i < side * side; i++) {
            for (int c = 0; c < 3; c++) {
                ramp.channel(c)[i] = (float) i / (side * side);
            }
        }
        Mosaic mosaic = new SimulatedSensor(CfaPattern.SIX, black, white).expose(ramp, 1e-4, 1e-6, 4);
        int[] histogram = new int[white + 1];
        for (int i = 0; i < side * side; i++) {
            histogram[mosaic.sample(i % side, i / side)]++;
        }
        for (int v = black; v <= white; v++) {
            assertThat(histogram[v]).as("value %d", v).isPositive();
        }
    }

    /** Rows move together on long exposures and not otherwise; a bad column is bad in every exposure. */
    @Test
    void bandsAndBadColumns() {
        NoiseModel noise = SimulatedCamera.ONDREL_24.noiseAt(3200);
        double b = noise.b().get(0);
        var flaws = new SimulatedSensor.Flaws(3, 0, 0, 0.02, 0.5 * Math.sqrt(b));
        double[] rows = new double[600];
        double[] columns = new double[600];
        Mosaic one = SimulatedCamera.ONDREL_24
                .sensor(flaws)
                .expose(even(600, 0.1f), noise.a().get(0), b, 1);
        Mosaic two = SimulatedCamera.ONDREL_24
                .sensor(flaws)
                .expose(even(600, 0.1f), noise.a().get(0), b, 2);
        for (int i = 0; i < 600 * 600; i++) {
            rows[i / 600] += (one.at(i % 600, i / 600) - two.at(i % 600, i / 600)) / 600;
            columns[i % 600] += (one.at(i % 600, i / 600) + two.at(i % 600, i / 600) - 0.2) / 1200;
        }
        double sd = Math.sqrt(Arrays.stream(rows).map(r -> r * r).average().orElse(0));
        assertThat(sd).isCloseTo(0.5 * Math.sqrt(2 * b), within(0.1 * Math.sqrt(b)));
        long bad = Arrays.stream(columns).filter(c -> Math.abs(c) > 0.002).count();
        assertThat(bad).isBetween(2L, 14L);
    }

    /** The lens's inverse against its published formula, and what that does to a straight line at the frame's edge. */
    @Test
    void lensesBendAsTheirFormulaSays() {
        SimulatedLens lens = SimulatedLens.ONDREL_24;
        for (double u = 0.1; u < 1.9; u += 0.1) {
            double d =
                    u * (lens.a() * u * u * u + lens.b() * u * u + lens.c() * u + 1 - lens.a() - lens.b() - lens.c());
            assertThat(lens.straight(d)).isCloseTo(u, within(1e-9));
        }
        int w = 600;
        int h = 400;
        Planes drawn = new Planes(new Region(0, 0, w + 80, h + 80), 3);
        for (int c = 0; c < 3; c++) {
            for (int y = 0; y < h + 80; y++) {
                drawn.channel(c)[y * (w + 80) + 60] = 1;
            }
        }
        Planes seen = lens.photograph(drawn, w, h, new SimulatedLens.Aim(40, 40, 0));
        // A line 280 px left of the centre stands further in (or out) at the top than in the middle by the formula.
        for (int y : new int[] {6, 200, 330}) {
            double sum = 0;
            double at = 0;
            for (int x = 0; x < 60; x++) {
                sum += seen.at(1, x, y);
                at += seen.at(1, x, y) * (x + 0.5);
            }
            double r = Math.hypot(300 - at / sum, y + 0.5 - 200);
            double straight = lens.straight(r / 200) * 200;
            assertThat((300 - at / sum) * straight / r).isCloseTo(300 - 20.5, within(0.1));
        }
        assertThat(lens.shading(1)).isCloseTo(1 - 0.74 + 0.31 - 0.09, within(1e-12));
    }

    @Test
    void lensProfilesAreXmlWithAllLenses() throws Exception {
        var document = DocumentBuilderFactory.newInstance()
                .newDocumentBuilder()
                .parse(new ByteArrayInputStream(SimulatedLens.profiles()
                        .replaceFirst("<!DOCTYPE[^>]*>", "")
                        .getBytes()));
        assertThat(document.getElementsByTagName("lens").getLength()).isEqualTo(3);
        assertThat(document.getElementsByTagName("camera").getLength()).isEqualTo(2);
        assertThat(document.getElementsByTagName("distortion").getLength()).isEqualTo(3);
    }

    /** A line of the given length: light kept, its second moment along the line L²/12 (closed form), none across. */
    @Test
    void movementIsALine() {
        Planes point = new Planes(new Region(0, 0, 81, 81), 1);
        point.channel(0)[40 * 81 + 40] = 100;
        float[] line = Movement.along(point, 12, 0.6).channel(0);
        double sum = 0;
        double along = 0;
        double across = 0;
        for (int i = 0; i < line.length; i++) {
            double dx = i % 81 - 40;
            double dy = i / 81 - 40;
            sum += line[i];
            along += line[i] * Math.pow(dx * Math.cos(0.6) + dy * Math.sin(0.6), 2);
            across += line[i] * Math.pow(dy * Math.cos(0.6) - dx * Math.sin(0.6), 2);
        }
        assertThat(sum).isCloseTo(100, within(0.1));
        assertThat(along / sum).isCloseTo(144 / 12.0, within(1.0));
        assertThat(across / sum).isLessThan(0.4);
    }

    /** A file without filters: LibRaw decodes what was written, and so do we: three equal planes, and grey after denoising. */
    @Test
    void monochromeFiles() throws IOException, RefusedException {
        NoiseModel noise = SimulatedCamera.ONDREL_24.noiseAt(1600);
        Mosaic mosaic = new SimulatedSensor(SimulatedSensor.MONOCHROME, 1024, 16383)
                .expose(
                        new PlainScene(210, 142, 1).srgb(),
                        noise.a().get(0),
                        noise.b().get(0),
                        3);
        byte[] dng = CfaDngWriter.write(
                mosaic,
                1024,
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, false, 0),
                SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), false));
        Files.write(folder.resolve("m.dng"), dng);
        TestTools.run(folder, "unprocessed_raw", "-T", "m.dng");
        TestTools.Tiff16 libraw = TestTools.tiff16(folder.resolve("m.dng.tiff"));
        for (int i = 0; i < 210 * 142; i++) {
            assertThat(libraw.samples()[i]).isEqualTo(mosaic.sample(i % 210, i / 210));
        }
        OpenedFrame frame = DngReader.read(dng);
        Picture grey = (Picture) frame.capture();
        assertThat(grey.grey()).isTrue();
        for (int i = 0; i < 210 * 142; i++) {
            float written = (mosaic.sample(i % 210, i / 210) - 1024) / (16383f - 1024);
            assertThat(grey.at(0, i % 210, i / 210)).isCloseTo(written, within(2e-5f));
        }
        // What is grey stays grey to the last bit, and is denoised.
        Planes out = new Planes(grey.bounds(), 3);
        new DenoiseStep(
                        "m",
                        grey,
                        NoiseModel.uniform(noise.a().get(0), noise.b().get(0)),
                        frame.colour().gains(),
                        new DenoiseSettings(true, "Quick", 0, 0),
                        new WorkingMemory(8L << 20),
                        Cancel.NEVER)
                .fill(out);
        assertThat(out.channel(0)).isEqualTo(out.channel(1)).isEqualTo(out.channel(2));
        double before = 0;
        double after = 0;
        Region smooth = new PlainScene(210, 142, 1).smoothField().grow(-8);
        for (int y = smooth.y(); y < smooth.bottom() - 1; y++) {
            for (int x = smooth.x(); x < smooth.right() - 1; x++) {
                before += Math.pow(grey.at(0, x, y) - grey.at(0, x + 1, y), 2);
                after += Math.pow(out.at(0, x, y) - out.at(0, x + 1, y), 2);
            }
        }
        assertThat(Math.sqrt(after / before)).isLessThan(0.35);
    }

    /** Same seed, same bytes, of every body; another number is another file. */
    @Test
    void sameSeedSameBytes() {
        for (SimulatedCamera camera :
                new SimulatedCamera[] {SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M, SimulatedCamera.PILBO_S}) {
            byte[] once = PlainFrames.frame(camera, 3200, 300, 240, 5);
            assertThat(PlainFrames.frame(camera, 3200, 300, 240, 5)).isEqualTo(once);
            assertThat(PlainFrames.frame(camera, 3200, 300, 240, 6)).isNotEqualTo(once);
        }
    }

    /** The camera's own JPEG: read by ExifTool and the JDK, smoother than the raw data, the same bytes every time. */
    @Test
    void cameraJpegs() throws IOException {
        for (SimulatedCamera camera : new SimulatedCamera[] {SimulatedCamera.PILBO_S, SimulatedCamera.KESVIK_M}) {
            PlainScene scene = new PlainScene(600, 450, 2);
            Planes picture = scene.srgb();
            camera.see(picture);
            NoiseModel noise = camera.noiseAt(3200);
            Mosaic mosaic =
                    camera.sensor().expose(picture, noise.a().get(0), noise.b().get(0), 9);
            byte[] jpeg = CameraJpeg.of(mosaic, camera, 3200, camera.tags(TestTools.shot(3200), false), 0.9f);
            assertThat(CameraJpeg.of(mosaic, camera, 3200, camera.tags(TestTools.shot(3200), false), 0.9f))
                    .isEqualTo(jpeg);
            Files.write(folder.resolve("c.jpg"), jpeg);
            String tags = TestTools.run(folder, "exiftool", "-s", "-n", "c.jpg");
            assertThat(tags)
                    .containsPattern("Model +: " + camera.model())
                    .containsPattern("ISO +: 3200")
                    .containsPattern("ImageWidth +: 600")
                    .doesNotContain("Warning");
            assertThat(TestTools.run(folder, "exiftool", "-validate", "-warning", "-a", "c.jpg")
                            .trim())
                    .matches("Validate +: OK");
            var image = ImageIO.read(new ByteArrayInputStream(jpeg));
            Region smooth = scene.smoothField().grow(-8);
            double squares = 0;
            double level = 0;
            for (int y = smooth.y(); y < smooth.bottom(); y++) {
                for (int x = smooth.x(); x < smooth.right() - 1; x++) {
                    double d = (image.getRGB(x, y) >> 8 & 255) - (image.getRGB(x + 1, y) >> 8 & 255);
                    squares += d * d / 2;
                    level += picture.at(1, x, y);
                }
            }
            double n = (double) smooth.height() * (smooth.width() - 1);
            // One photosite's noise as sRGB would show it, with no smoothing and no sharpening.
            double sd = Math.sqrt(noise.variance(1, level / n));
            double shown = 255 * (RgbSpace.encode(level / n + sd) - RgbSpace.encode(level / n - sd)) / 2;
            assertThat(Math.sqrt(squares / n)).isBetween(0.5, 0.6 * shown);
        }
    }
}
