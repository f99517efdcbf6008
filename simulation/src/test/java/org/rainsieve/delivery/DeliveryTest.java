package org.rainsieve.delivery;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.awt.color.ColorSpace;
import java.awt.color.ICC_ColorSpace;
import java.awt.color.ICC_Profile;
import java.awt.image.BufferedImage;
import java.awt.image.Raster;
import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.function.Consumer;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;
import org.rainsieve.TestTools;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.colour.Lab;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.icc.IccWriter;
import org.rainsieve.icc.OutputProfile;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/** Delivered files, read by the JDK's decoders and colour engine (Little CMS), ExifTool 12.57 and libtiff. */
class DeliveryTest {
    private static final int WIDTH = 900;
    private static final int HEIGHT = 600;
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final PlainScene SCENE = new PlainScene(WIDTH, HEIGHT, 3);

    @TempDir
    static Path folder;

    @BeforeAll
    static void write() throws IOException, RefusedException {
        Planes seen = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        CAMERA.see(seen);
        NoiseModel law = CAMERA.noiseAt(400);
        byte[] dng = TestTools.dng(
                CAMERA.sensor().expose(seen, law.a().get(0), law.b().get(0), 5), CAMERA, 400, true);
        ResolvedSettings settings =
                ResolvedSettings.of(400, law, new DenoiseSettings(true, "Quick", 0, 0), CAMERA.pattern());
        TestTools.writeReturn(dng, "frame.dng", settings, folder.resolve("whole.dng"));
        TestTools.writeReturn(
                dng,
                "frame.dng",
                settings.with(null, null, new CropSettings(true, 0.1, 0.2, 0.5, 0.5, 0, "free"), null),
                folder.resolve("cut.dng"));
    }

    private static DeliverySettings tiff(DeliverySpace space, boolean deflate) {
        return new DeliverySettings(DeliverySettings.Form.TIFF, space, 300, deflate, 90, 0, 0);
    }

    private static DeliverySettings jpeg(int quality, int kilobytes, int longEdge) {
        return new DeliverySettings(
                DeliverySettings.Form.JPEG, DeliverySpace.SRGB, 240, false, quality, kilobytes, longEdge);
    }

    private static Path delivered(String of, String name, DeliverySettings settings, long largest)
            throws IOException, RefusedException {
        Path file = folder.resolve(name);
        Delivery.write(
                folder.resolve(of),
                CAMERA.colour(),
                settings,
                OutputProfile.of(settings.space()),
                List.of(),
                file,
                largest);
        return file;
    }

    /** A chart comes through each space: its numbers, read by its own profile, are the colours of the scene. */
    @ParameterizedTest
    @EnumSource(DeliverySpace.class)
    void coloursComeThroughEverySpace(DeliverySpace space) throws Exception {
        Path file = delivered("whole.dng", space + ".tif", tiff(space, true), Long.MAX_VALUE);
        String said = TestTools.run(
                folder, "exiftool", "-s3", "-ProfileDescription", "-XResolution", "-ResolutionUnit", file.toString());
        assertThat(said.lines()).containsExactly(space.title(), "300", "inches");
        assertThat(TestTools.run(folder, "tiffinfo", file.toString())).doesNotContain("Warning", "rror");
        ICC_Profile profile = ICC_Profile.getInstance(IccWriter.profile(space));
        ICC_ColorSpace reader = new ICC_ColorSpace(profile);
        Raster raster = ImageIO.read(file.toFile()).getRaster();
        double sum = 0;
        int fields = 0;
        for (int f = 0; f < PlainScene.COLUMNS * PlainScene.ROWS; f++) {
            Region field = SCENE.chartField(f).grow(-6);
            float[] mean = new float[3];
            for (int y = field.y(); y < field.bottom(); y++) {
                for (int x = field.x(); x < field.right(); x++) {
                    for (int c = 0; c < 3; c++) {
                        mean[c] += raster.getSample(x, y, c) / 65535f / field.area();
                    }
                }
            }
            float[] xyz = reader.toCIEXYZ(mean);
            sum += PlainScene.chartLab(f).ciede2000(Lab.ofXyzD50(new double[] {xyz[0], xyz[1], xyz[2]}));
            fields++;
        }
        assertThat(reader.getType()).isEqualTo(ColorSpace.TYPE_RGB);
        assertThat(sum / fields).isLessThan(1.0);
    }

    /** Deflate, none and BigTIFF hold the same samples; libtiff and ExifTool take BigTIFF for what it is. */
    @Test
    void everyTiffHoldsTheSame() throws Exception {
        Path packed = delivered("cut.dng", "packed.tif", tiff(DeliverySpace.SRGB, true), Long.MAX_VALUE);
        Path plain = delivered("cut.dng", "plain.tif", tiff(DeliverySpace.SRGB, false), Long.MAX_VALUE);
        Path big = delivered("cut.dng", "big.tif", tiff(DeliverySpace.SRGB, false), 1000);
        assertThat(Files.size(packed)).isLessThan(Files.size(plain));
        Raster one = ImageIO.read(packed.toFile()).getRaster();
        Raster two = ImageIO.read(plain.toFile()).getRaster();
        assertThat(one.getWidth()).isEqualTo(WIDTH / 2);
        assertThat(one.getHeight()).isEqualTo(HEIGHT / 2);
        int[] p = one.getPixels(0, 0, one.getWidth(), one.getHeight(), (int[]) null);
        assertThat(two.getPixels(0, 0, two.getWidth(), two.getHeight(), (int[]) null))
                .isEqualTo(p);
        // libtiff rewrites the BigTIFF as a classic one, which is then compared.
        Path again = folder.resolve("again.tif");
        TestTools.run(folder, "tiffcp", big.toString(), again.toString());
        Raster three = ImageIO.read(again.toFile()).getRaster();
        assertThat(three.getPixels(0, 0, three.getWidth(), three.getHeight(), (int[]) null))
                .isEqualTo(p);
        assertThat(Files.readAllBytes(big)[2]).isEqualTo((byte) 43);
        assertThat(TestTools.run(folder, "exiftool", "-s3", "-ProfileDescription", "-Model", big.toString())
                        .lines())
                .containsExactly("sRGB", CAMERA.model());
    }

    /** JPEGs keep below a size, take a long edge, and carry profile, resolution, camera and time. */
    @ParameterizedTest
    @CsvSource({"90, 0, 0, 900, 600", "95, 60, 0, 900, 600", "80, 0, 300, 300, 200"})
    void jpegsAreAsAsked(int quality, int kilobytes, int longEdge, int width, int height) throws Exception {
        Path file =
                delivered("whole.dng", "j" + quality + "-" + longEdge + ".jpg", jpeg(quality, kilobytes, longEdge), 0);
        BufferedImage image = ImageIO.read(file.toFile());
        assertThat(image.getWidth()).isEqualTo(width);
        assertThat(image.getHeight()).isEqualTo(height);
        if (kilobytes > 0) {
            assertThat(Files.size(file)).isBetween(600L * kilobytes, 1000L * kilobytes);
        }
        String said = TestTools.run(
                folder,
                "exiftool",
                "-s3",
                "-ProfileDescription",
                "-JFIF:XResolution",
                "-Model",
                "-DateTimeOriginal",
                "-ISO",
                file.toString());
        assertThat(said.lines())
                .hasSize(5)
                .startsWith("sRGB", "240", CAMERA.model())
                .endsWith("400");
        assertThat(TestTools.run(folder, "exiftool", "-warning", file.toString()))
                .isEmpty();
        // The same place in linear light: a mean over a smooth field.
        Region field = SCENE.chartField(4).grow(-6);
        double scale = (double) width / WIDTH;
        double sum = 0;
        int n = 0;
        for (int y = (int) (field.y() * scale) + 2; y < field.bottom() * scale - 2; y++) {
            for (int x = (int) (field.x() * scale) + 2; x < field.right() * scale - 2; x++) {
                sum += DeliverySpace.SRGB.linear((image.getRGB(x, y) >> 8 & 255) / 255.0);
                n++;
            }
        }
        double truth = SCENE.srgb().at(1, field.x() + 5, field.y() + 5);
        assertThat(sum / n).isCloseTo(truth, within(0.02 * truth + 0.002));
    }

    @Test
    void whatCannotBeDeliveredIsSaid() throws Exception {
        assertThatThrownBy(() -> delivered("whole.dng", "small.jpg", jpeg(90, 20, 0), 0))
                .hasMessageContaining("Even at quality 20");
        assertThat(folder.resolve("small.jpg")).doesNotExist();
        assertThatThrownBy(() -> jpeg(0, 0, 0)).hasMessageContaining("1 to 100 %");
        assertThatThrownBy(() -> jpeg(90, 5, 0)).hasMessageContaining("20 kB");
        try (LinearDngFile dng = LinearDngFile.open(folder.resolve("cut.dng"))) {
            assertThat(dng.image().numbers(Tag.DEFAULT_USER_CROP)).hasSize(4);
        }
    }

    private static Path returned(String name, CropSettings crop, Consumer<TiffDirectory> more)
            throws IOException, RefusedException {
        Planes seen = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        CAMERA.see(seen);
        NoiseModel law = CAMERA.noiseAt(400);
        TiffDirectory tags = CAMERA.tags(TestTools.shot(400), true);
        more.accept(tags);
        byte[] dng = CfaDngWriter.write(
                CAMERA.sensor().expose(seen, law.a().get(0), law.b().get(0), 5),
                CAMERA.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                tags);
        ResolvedSettings settings =
                ResolvedSettings.of(400, law, new DenoiseSettings(true, "Quick", 0, 0), CAMERA.pattern());
        TestTools.writeReturn(dng, "frame.dng", settings.with(null, null, crop, null), folder.resolve(name));
        return folder.resolve(name);
    }

    /**
     * A camera's own crop counts from the corner, the one that is noted from what that leaves (DNG 1.4, DefaultCropOrigin and
     * DefaultUserCrop): copies and the preview show just what both leave.
     */
    @Test
    void cropsCountFromTheFilesOwnCrop() throws Exception {
        Consumer<TiffDirectory> own = tags -> {
            tags.put(TiffField.ofRationals(Tag.DEFAULT_CROP_ORIGIN, TiffType.RATIONAL, 1, 10, 20));
            tags.put(TiffField.ofRationals(Tag.DEFAULT_CROP_SIZE, TiffType.RATIONAL, 1, 621, 461));
        };
        int[] whole = pixels(delivered("whole.dng", "whole-srgb.tif", tiff(DeliverySpace.SRGB, false), Long.MAX_VALUE));
        returned("own-crop.dng", null, own);
        compare(
                whole,
                delivered("own-crop.dng", "own.tif", tiff(DeliverySpace.SRGB, false), Long.MAX_VALUE),
                10,
                20,
                621,
                461);
        // Shares of the whole, as the bench has them: 320 x 288 at (90, 96).
        Path noted = returned("noted.dng", new CropSettings(true, 0.1, 0.16, 320.0 / 900, 0.48, 0, "free"), own);
        compare(
                whole,
                delivered("noted.dng", "noted.tif", tiff(DeliverySpace.SRGB, false), Long.MAX_VALUE),
                90,
                96,
                320,
                288);
        try (LinearDngFile dng = LinearDngFile.open(noted)) {
            TiffDirectory preview = dng.main().subDirectories().get(1);
            assertThat(preview.real(Tag.IMAGE_WIDTH, 0) / preview.real(Tag.IMAGE_LENGTH, 1))
                    .isCloseTo(320 / 288.0, within(0.01));
        }
    }

    private static int[] pixels(Path tiff) throws IOException {
        Raster raster = ImageIO.read(tiff.toFile()).getRaster();
        return raster.getPixels(0, 0, raster.getWidth(), raster.getHeight(), (int[]) null);
    }

    private static void compare(int[] whole, Path tiff, int left, int top, int width, int height) throws IOException {
        Raster raster = ImageIO.read(tiff.toFile()).getRaster();
        assertThat(new int[] {raster.getWidth(), raster.getHeight()}).containsExactly(width, height);
        int[] part = pixels(tiff);
        for (int i = 0; i < part.length; i++) {
            int x = left + i / 3 % width;
            int y = top + i / 3 / width;
            if (part[i] != whole[(y * WIDTH + x) * 3 + i % 3]) {
                assertThat(part[i]).as("pixel %d, %d", x, y).isEqualTo(whole[(y * WIDTH + x) * 3 + i % 3]);
            }
        }
    }

    /** A maker's negative baseline exposure, with the profile's share, darkens what is below a quarter by just that; white stays white. */
    @Test
    void whiteStaysWhiteUnderANegativeBaselineExposure() throws Exception {
        int[] plain = pixels(delivered("whole.dng", "plain-srgb.tif", tiff(DeliverySpace.SRGB, false), Long.MAX_VALUE));
        Path darker = returned("darker.dng", null, tags -> {
            tags.put(TiffField.ofRationals(Tag.BASELINE_EXPOSURE, TiffType.SRATIONAL, 100, -0.32));
            tags.put(TiffField.ofRationals(Tag.BASELINE_EXPOSURE_OFFSET, TiffType.SRATIONAL, 100, 0.1));
        });
        Path file = folder.resolve("darker.tif");
        try (LinearDngFile dng = LinearDngFile.open(darker)) {
            Delivery.write(darker, ShotTags.colour(dng.main()), tiff(DeliverySpace.SRGB, false), file);
        }
        int[] dark = pixels(file);
        int whites = 0;
        int greys = 0;
        for (int i = 0; i < dark.length; i++) {
            double before = DeliverySpace.SRGB.linear(plain[i] / 65535.0);
            double after = DeliverySpace.SRGB.linear(dark[i] / 65535.0);
            if (plain[i] == 65535 && plain[i - i % 3] == 65535 && plain[i - i % 3 + 1] == 65535) {
                whites++;
                assertThat(dark[i]).isGreaterThan(65_400);
            } else if (before > 0.05 && before < 0.24) {
                greys++;
                assertThat(after / before).isCloseTo(Math.pow(2, -0.22), within(2e-3));
            }
        }
        assertThat(Math.min(whites, greys)).isGreaterThan(100);
    }
}
