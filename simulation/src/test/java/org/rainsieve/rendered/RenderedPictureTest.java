package org.rainsieve.rendered;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.awt.color.ColorSpace;
import java.awt.color.ICC_Profile;
import java.awt.image.BufferedImage;
import java.awt.image.WritableRaster;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.SplittableRandom;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import javax.imageio.stream.ImageOutputStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.colour.Lab;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.demosaic.MalvarDemosaic;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.embedded.FileKind;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.icc.IccProfile;
import org.rainsieve.jpeg.JpegTraces;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.CameraJpeg;
import org.rainsieve.scene.CameraRendering;
import org.rainsieve.scene.LanternRegatta;
import org.rainsieve.scene.OwlOnPost;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;

/** Pictures in full colour: rendered files and linear DNGs. */
class RenderedPictureTest {
    private static final int WIDTH = 480;
    private static final int HEIGHT = 320;

    @TempDir
    Path folder;

    private static BufferedImage image(Planes srgb, int type) {
        BufferedImage image = type == 16
                ? new BufferedImage(
                        new java.awt.image.ComponentColorModel(
                                ColorSpace.getInstance(ColorSpace.CS_sRGB),
                                false,
                                false,
                                java.awt.Transparency.OPAQUE,
                                java.awt.image.DataBuffer.TYPE_USHORT),
                        java.awt.image.Raster.createInterleavedRaster(
                                java.awt.image.DataBuffer.TYPE_USHORT, WIDTH, HEIGHT, 3, null),
                        false,
                        null)
                : new BufferedImage(WIDTH, HEIGHT, BufferedImage.TYPE_INT_RGB);
        WritableRaster raster = image.getRaster();
        int top = type == 16 ? 65535 : 255;
        for (int i = 0; i < WIDTH * HEIGHT; i++) {
            for (int c = 0; c < 3; c++) {
                double encoded = RgbSpace.encode(Math.max(0, Math.min(1, srgb.channel(c)[i])));
                raster.setSample(i % WIDTH, i / WIDTH, c, (int) Math.round(top * encoded));
            }
        }
        return image;
    }

    private static byte[] encoded(BufferedImage image, String format, float quality) throws IOException {
        ImageWriter writer = null;
        for (var writers = ImageIO.getImageWritersByFormatName(format); writers.hasNext(); ) {
            ImageWriter next = writers.next();
            writer = next.getClass().getModule().isNamed() ? next : writer;
        }
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (ImageOutputStream out = ImageIO.createImageOutputStream(bytes)) {
            writer.setOutput(out);
            ImageWriteParam param = writer.getDefaultWriteParam();
            if (format.equals("jpeg")) {
                param.setCompressionMode(ImageWriteParam.MODE_EXPLICIT);
                param.setCompressionQuality(quality);
            }
            writer.write(null, new IIOImage(image, null, null), param);
        }
        return bytes.toByteArray();
    }

    private static Picture opened(byte[] file) throws RefusedException {
        return (Picture) RenderedPicture.of(file, FileKind.of(file)).capture();
    }

    private static double psnr(Planes one, Planes other) {
        double sum = 0;
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < one.channel(c).length; i++) {
                double d = RgbSpace.encode(Math.max(0, Math.min(1, one.channel(c)[i])))
                        - RgbSpace.encode(Math.max(0, Math.min(1, other.channel(c)[i])));
                sum += d * d;
            }
        }
        return -10 * Math.log10(sum / one.channel(0).length / 3);
    }

    private static Planes whole(Picture picture) {
        Planes out = new Planes(picture.bounds(), 3);
        picture.fill(out);
        return out;
    }

    /** JPEG, PNG and TIFF of 8 and 16 bits give back the linear light they were made from. */
    @Test
    void everyKindIsMadeLinear() throws Exception {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        assertThat(psnr(whole(opened(encoded(image(scene, 8), "png", 1))), scene))
                .isGreaterThan(58);
        assertThat(psnr(whole(opened(encoded(image(scene, 16), "png", 1))), scene))
                .isGreaterThan(90);
        assertThat(psnr(whole(opened(encoded(image(scene, 8), "tiff", 1))), scene))
                .isGreaterThan(58);
        assertThat(psnr(whole(opened(encoded(image(scene, 16), "tiff", 1))), scene))
                .isGreaterThan(90);
        byte[] jpeg = encoded(image(scene, 8), "jpeg", 0.95f);
        assertThat(psnr(whole(opened(jpeg)), scene)).isGreaterThan(34);
        // What tells no camera is told apart by what it is, and by the program that made it.
        assertThat(RenderedPicture.of(jpeg, FileKind.JPEG).body()).isEqualTo("JPEG of no camera (rendered)");
        TiffDirectory scanned = new TiffDirectory();
        scanned.put(TiffField.ofText(Tag.SOFTWARE, "Flatbed 3"));
        assertThat(RenderedPicture.described(scanned, FileKind.TIFF).text(Tag.UNIQUE_CAMERA_MODEL))
                .isEqualTo("TIFF of no camera, Flatbed 3");
        List<String> notes = RenderedPicture.of(jpeg, FileKind.JPEG).notes();
        assertThat(notes.get(0)).startsWith("a rendered picture");
        assertThat(notes.get(1)).matches("JPEG of about quality 9[456]");
        assertThat(JpegTraces.qualityTold(notes)).isBetween(94, 96);
        assertThat(RenderedPicture.of(encoded(image(scene, 8), "jpeg", 0.3f), FileKind.JPEG)
                        .notes()
                        .get(2))
                .startsWith("edges of 8×8 blocks show");
    }

    /** Matrices and curves of profiles: those that the JDK ships, and Adobe RGB (1998) as published for D50. */
    @Test
    void profiles() throws RefusedException {
        IccProfile srgb =
                IccProfile.parse(ICC_Profile.getInstance(ColorSpace.CS_sRGB).getData());
        IccProfile linear = IccProfile.parse(
                ICC_Profile.getInstance(ColorSpace.CS_LINEAR_RGB).getData());
        for (int i = 0; i < 9; i++) {
            assertThat(srgb.toXyzD50().m()[i])
                    .isCloseTo(IccProfile.SRGB.toXyzD50().m()[i], within(1.5e-3));
        }
        for (double v = 0; v <= 1; v += 0.05) {
            assertThat(srgb.curve(1).linear(v)).isCloseTo(RgbSpace.decode(v), within(1e-3));
            assertThat(linear.curve(2).linear(v)).isCloseTo(v, within(1e-3));
        }
        // Lindbloom, RGB working space matrices, adapted to D50 after Bradford (mem.)
        double[] published = {0.6097, 0.2053, 0.1492, 0.3111, 0.6257, 0.0632, 0.0195, 0.0609, 0.7446};
        assertThat(IccProfile.ADOBE_RGB.toXyzD50().m()).containsExactly(published, within(1e-3));
        byte[] damaged =
                Arrays.copyOf(ICC_Profile.getInstance(ColorSpace.CS_sRGB).getData(), 300);
        assertThatThrownBy(() -> IccProfile.parse(damaged)).isInstanceOf(RefusedException.class);
    }

    /** Shares are of what was looked at, whatever the size of the picture: a third of it is burnt out, a third empty. */
    @Test
    void sharesOfPicturesOfAnySize() throws Exception {
        for (int width : new int[] {300, 600, 900, 1500}) {
            BufferedImage picture = new BufferedImage(width, 600, BufferedImage.TYPE_INT_RGB);
            for (int y = 0; y < 600; y++) {
                for (int x = 0; x < width; x++) {
                    picture.setRGB(x, y, y < 200 ? 0xffffff : y < 400 ? 0 : 0x777777);
                }
            }
            OpenedFrame frame = RenderedPicture.of(encoded(picture, "png", 1), FileKind.PNG);
            Reading reading =
                    Reading.full(frame.capture(), null, frame.colour().gains()).reading();
            assertThat(reading.clippedPercent()).isCloseTo(33.3, within(0.5));
            assertThat(reading.emptyPercent()).isCloseTo(33.3, within(0.5));
        }
    }

    /** A chart goes through opening, denoising and writing, and keeps its colours; exactly where denoise is off. */
    @Test
    void coloursOfTheReturn() throws Exception {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        byte[] file = encoded(image(scene, 16), "tiff", 1);
        OpenedFrame frame = RenderedPicture.of(file, FileKind.TIFF);
        Path out = folder.resolve("return.dng");
        Reading reading =
                Reading.full(frame.capture(), null, frame.colour().gains()).reading();
        ResolvedSettings settings =
                ResolvedSettings.of(100, reading.law(), new DenoiseSettings(true, "Quick", 0, 0), CfaPattern.NONE);
        ReturnWriter.write(
                frame,
                ReturnWriter.Order.of("a.tif", "00", settings),
                out,
                new WorkingMemory(1 << 26),
                Cancel.NEVER,
                s -> {});
        assertThat(TestTools.run(folder, "exiftool", "-validate", "-warning", "-a", out.toString())
                        .trim())
                .matches("Validate +: OK");
        try (LinearDngFile written = LinearDngFile.open(out)) {
            var toXyz = ShotTags.colour(written.main()).toXyzD50();
            PlainScene chart = new PlainScene(WIDTH, HEIGHT, 3);
            for (int i = 0; i < PlainScene.COLUMNS * PlainScene.ROWS; i++) {
                Region field = chart.chartField(i);
                Region inside = field.grow(-field.width() / 4);
                Planes pixels = new Planes(inside, 3);
                written.fill(pixels);
                double[] mean = new double[3];
                for (int c = 0; c < 3; c++) {
                    for (float v : pixels.channel(c)) {
                        mean[c] += v / pixels.channel(c).length;
                    }
                }
                Lab lab = Lab.ofXyzD50(toXyz.times(mean));
                assertThat(lab.ciede2000(PlainScene.chartLab(i)))
                        .as("field %d", i)
                        .isLessThan(0.5);
            }
        }
    }

    /** TIFFs as editors write them, by libtiff: each compression, with and without predictor, of 8 and 16 bits, tiled too. */
    @ParameterizedTest
    @ValueSource(strings = {"lzw", "lzw:2", "zip", "zip:2", "packbits", "none"})
    void compressedTiffs(String compression) throws Exception {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        for (int bits : new int[] {8, 16}) {
            Files.write(folder.resolve("plain.tif"), encoded(image(scene, bits), "tiff", 1));
            Picture plain = opened(Files.readAllBytes(folder.resolve("plain.tif")));
            for (String layout : new String[] {"-s", "-t"}) {
                TestTools.run(folder, "tiffcp", layout, "-c", compression, "plain.tif", "other.tif");
                Picture other = opened(Files.readAllBytes(folder.resolve("other.tif")));
                for (int i = 0; i < WIDTH * HEIGHT; i += 7) {
                    for (int c = 0; c < 3; c++) {
                        assertThat(other.sample(c, i % WIDTH, i / WIDTH))
                                .isEqualTo(plain.sample(c, i % WIDTH, i / WIDTH));
                    }
                }
            }
        }
    }

    /** Noisy JPEGs come out nearer to the clean picture: by 1.5 dB and more at the noisiest, and never farther. */
    @Test
    void denoisingJpegs() throws Exception {
        double[] quick = jpegGains("Quick");
        double[] learned = jpegGains("Learned");
        for (int level = 0; level < 3; level++) {
            // Where there is next to no noise Learned leaves it to Quick.
            assertThat(learned[level]).as("level %d", level).isGreaterThan(quick[level] + (level == 0 ? -0.1 : 0.2));
        }
    }

    /** A camera's curve takes noise out of the lights, compression out of the shadows: neither is gone by for all. */
    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Patch"})
    void denoisingJpegsOfACamera(String method) throws Exception {
        double sum = 0;
        Planes[] scenes = scenes();
        for (Planes scene : scenes) {
            Planes truth = new Planes(scene.region(), 3);
            for (int c = 0; c < 3; c++) {
                for (int i = 0; i < scene.channel(c).length; i++) {
                    truth.channel(c)[i] = (float) (scene.channel(c)[i] / TestTools.SHOWN[c]);
                }
            }
            CameraRendering camera = new CameraRendering(0.07, 0.9f, true);
            Region r = truth.region();
            float[][] display = seen(truth, 0, 0, camera);
            Planes clean = new Planes(r, 3);
            for (int c = 0; c < 3; c++) {
                for (int i = 0; i < r.area(); i++) {
                    clean.channel(c)[i] = (float) RgbSpace.decode(Math.max(0, Math.min(1, display[c][i])));
                }
            }
            Picture picture =
                    opened(CameraJpeg.compressed(seen(truth, 0.002, 2e-5, camera), r.width(), r.height(), 0.92f));
            double gain = psnr(denoised(picture, method), clean) - psnr(whole(picture), clean);
            assertThat(gain).isPositive();
            sum += gain / scenes.length;
        }
        assertThat(sum).isGreaterThan(1.5);
    }

    private static float[][] seen(Planes truth, double a, double b, CameraRendering camera) {
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, 1024, 16383).expose(truth, a, b, 11);
        Planes in = new Planes(mosaic.bounds().grow(CameraRendering.MARGIN), 1);
        mosaic.fill(in);
        Matrix3 shown = new Matrix3(
                new double[] {TestTools.SHOWN[0], 0, 0, 0, TestTools.SHOWN[1], 0, 0, 0, TestTools.SHOWN[2]});
        return camera.render(in, mosaic.bounds(), CfaPattern.RGGB, new double[] {2, 1, 1.6}, shown);
    }

    private static Planes denoised(Picture picture, String method) {
        double[] even = {1, 1, 1};
        NoiseModel read = Reading.full(picture, null, even).reading().law();
        Planes out = new Planes(picture.bounds(), 3);
        DenoiseSettings settings = new DenoiseSettings(true, method, 0, 0);
        new DenoiseStep("p", picture, read, even, settings, new WorkingMemory(1 << 26), Cancel.NEVER).fill(out);
        return out;
    }

    private static Planes[] scenes() {
        return new Planes[] {
            new OwlOnPost(2).render(WIDTH, HEIGHT, 0).srgb(),
            new LanternRegatta(2).render(WIDTH, HEIGHT, 0).srgb()
        };
    }

    /** Mean gains in dB at the three levels of noise. */
    private double[] jpegGains(String method) throws Exception {
        double[] gains = new double[3];
        Planes[] scenes = scenes();
        for (Planes scene : scenes) {
            int level = 0;
            for (double[] law : new double[][] {{5e-5, 1e-6}, {0.002, 2e-5}, {0.02, 1e-3}}) {
                Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, 1024, 16383).expose(scene, law[0], law[1], 1);
                Planes filled = new Planes(scene.region().grow(MalvarDemosaic.MARGIN), 1);
                mosaic.fill(filled);
                Planes developed = new Planes(scene.region(), 3);
                new MalvarDemosaic(CfaPattern.RGGB).interpolate(filled, developed);
                Picture picture = opened(encoded(image(developed, 8), "jpeg", 0.9f));
                double gain = psnr(denoised(picture, method), scene) - psnr(whole(picture), scene);
                assertThat(gain).as(method + " a %s", law[0]).isGreaterThan(law[0] > 0.01 ? 1.5 : 0);
                gains[level++] += gain / scenes.length;
            }
        }
        return gains;
    }

    /** A real linear DNG with lossy tiles and polynomials: as LibRaw develops it, sample for sample within rounding. */
    @Test
    void linearDng() throws Exception {
        Path file = folder.resolve("linear.dng");
        try (InputStream in = getClass().getResourceAsStream("/pictures/linear-lossy.dng")) {
            Files.copy(in, file);
        }
        OpenedFrame frame = RawOpener.open(file).frame();
        Picture picture = (Picture) frame.capture();
        assertThat(picture.rendered()).isFalse();
        assertThat(frame.notes()).singleElement().asString().startsWith("a linear DNG");
        TestTools.Tiff16 libraw = TestTools.libraw(folder, file);
        assertThat(libraw.width()).isEqualTo(picture.width());
        for (int y = 0; y < picture.height(); y++) {
            for (int x = 0; x < picture.width(); x++) {
                for (int c = 0; c < 3; c++) {
                    int theirs = libraw.samples()[(y * libraw.width() + x) * 3 + c] & 0xffff;
                    assertThat(Math.abs(picture.at(c, x, y) * 65535 - theirs)).isLessThan(3f);
                }
            }
        }
    }

    @Test
    void whatIsNotReadIsRefusedAndDamageIsToo() throws Exception {
        BufferedImage palette = new BufferedImage(64, 64, BufferedImage.TYPE_BYTE_INDEXED);
        assertThatThrownBy(() -> opened(encoded(palette, "png", 1))).hasMessageContaining("palette");
        BufferedImage alpha = new BufferedImage(64, 64, BufferedImage.TYPE_INT_ARGB);
        assertThatThrownBy(() -> opened(encoded(alpha, "png", 1))).hasMessageContaining("without transparency");
        BufferedImage tiny = new BufferedImage(8, 8, BufferedImage.TYPE_INT_RGB);
        assertThatThrownBy(() -> opened(encoded(tiny, "png", 1))).hasMessageContaining("8 x 8");
        Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        SplittableRandom random = new SplittableRandom(4);
        for (String format : new String[] {"jpeg", "png", "tiff"}) {
            byte[] whole = encoded(image(scene, 8), format, 0.9f);
            for (int i = 0; i < 30; i++) {
                byte[] damaged = Arrays.copyOf(whole, i % 2 == 0 ? random.nextInt(20, whole.length) : whole.length);
                for (int k = 0; k < 1 + i / 5; k++) {
                    damaged[random.nextInt(8, Math.min(600, damaged.length))] = (byte) random.nextInt();
                }
                try {
                    RawOpener.open(Files.write(folder.resolve("damaged"), damaged));
                } catch (RefusedException e) {
                    assertThat(e.getMessage()).endsWith(".");
                }
            }
        }
    }
}
