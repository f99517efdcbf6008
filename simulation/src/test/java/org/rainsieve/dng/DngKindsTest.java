package org.rainsieve.dng;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.awt.image.BufferedImage;
import java.awt.image.Raster;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opcode.OpcodeList;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.Thumbnail;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffReader;
import org.rainsieve.tiff.TiffType;

/** Kinds of DNG that cameras and other programs write and we do not: each as written, and as LibRaw has it. */
class DngKindsTest {
    private static final int WIDTH = 186;
    private static final int HEIGHT = 130;
    private static final int WHITE = 16383;

    @TempDir
    Path folder;

    private static TiffDirectory tags(int samples, int bits, int compression, int predictor) {
        TiffDirectory main = SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), false);
        main.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, WIDTH));
        main.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, HEIGHT));
        main.put(
                samples == 1
                        ? TiffField.ofShorts(Tag.BITS_PER_SAMPLE, bits)
                        : TiffField.ofShorts(Tag.BITS_PER_SAMPLE, bits, bits, bits));
        main.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, samples));
        main.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
        main.put(TiffField.ofShorts(Tag.PHOTOMETRIC, samples == 1 ? Tag.PHOTOMETRIC_CFA : Tag.PHOTOMETRIC_LINEAR_RAW));
        main.put(TiffField.ofShorts(Tag.COMPRESSION, compression));
        if (predictor > 1) {
            main.put(TiffField.ofShorts(Tag.PREDICTOR, predictor));
        }
        if (samples == 1) {
            main.put(TiffField.ofShorts(Tag.CFA_REPEAT_DIM, 2, 2));
            main.put(TiffField.ofBytes(Tag.CFA_PATTERN, TiffType.BYTE, new byte[] {0, 1, 1, 2}));
        }
        return main;
    }

    private static Mosaic mosaic() {
        return new SimulatedSensor(CfaPattern.RGGB, 0, WHITE)
                .expose(new PlainScene(WIDTH, HEIGHT, 4).srgb(), 1e-4, 1e-6, 3);
    }

    /** Floating-point mosaics of 16, 24 and 32 bits, plain and deflated, with both predictors' widths, in both byte orders. */
    @ParameterizedTest
    @CsvSource({
        "16,1,1,false",
        "32,1,1,true",
        "16,8,3,false",
        "24,8,3,true",
        "32,8,3,false",
        "32,8,34894,false",
        "16,8,34895,true",
        "32,8,1,false"
    })
    void floatingPoint(int bits, int compression, int predictor, boolean big) throws IOException, RefusedException {
        Mosaic written = mosaic();
        float[] values = new float[WIDTH * HEIGHT];
        for (int i = 0; i < values.length; i++) {
            // Eleven significant bits, so that half precision holds them.
            values[i] = (written.sample(i % WIDTH, i / WIDTH) >> 3) / 2048f;
        }
        ByteOrder order = big ? ByteOrder.BIG_ENDIAN : ByteOrder.LITTLE_ENDIAN;
        TiffDirectory main = tags(1, bits, compression, predictor);
        main.put(TiffField.ofShorts(Tag.SAMPLE_FORMAT, 3));
        main.put(TiffField.ofLongs(Tag.WHITE_LEVEL, 1));
        byte[] strip = HandmadeDng.floats(values, bits, predictor == 1 ? order : ByteOrder.BIG_ENDIAN);
        if (predictor != 1) {
            int stride = predictor == 34894 ? 2 : predictor == 34895 ? 4 : 1;
            strip = HandmadeDng.floatPredicted(strip, WIDTH * bits / 8, bits / 8, stride);
        }
        byte[] dng = HandmadeDng.of(main, order, compression == 8 ? HandmadeDng.deflated(strip) : strip);
        Mosaic read = DngReader.read(dng).mosaic();
        for (int i = 0; i < values.length; i++) {
            assertThat(read.at(i % WIDTH, i / WIDTH)).isCloseTo(values[i], within(1e-5f));
        }
        if (compression == 8 && predictor <= 3) {
            // Debian's LibRaw is built without deflate; libtiff knows both, but not differences over several pixels.
            Files.write(folder.resolve("f.dng"), dng);
            TestTools.run(folder, "tiffcp", "-c", "none", "f.dng", "plain.tif");
            byte[] plain = Files.readAllBytes(folder.resolve("plain.tif"));
            int at = (int) TiffReader.read(plain).get(0).number(Tag.STRIP_OFFSETS, 0);
            byte[] told =
                    HandmadeDng.floats(values, bits, plain[0] == 'M' ? ByteOrder.BIG_ENDIAN : ByteOrder.LITTLE_ENDIAN);
            assertThat(java.util.Arrays.equals(plain, at, at + told.length, told, 0, told.length))
                    .isTrue();
        }
    }

    /** Whole numbers, deflated with differences over one, two and four pixels: three samples of a linear DNG. */
    @ParameterizedTest
    @CsvSource({"1,0", "2,1", "34892,2", "34893,4"})
    void deflatedWholeNumbers(int predictor, int pixels) throws RefusedException {
        byte[] samples = new byte[WIDTH * HEIGHT * 6];
        Mosaic written = mosaic();
        for (int i = 0; i < WIDTH * HEIGHT; i++) {
            for (int c = 0; c < 3; c++) {
                int value = written.sample(i % WIDTH, i / WIDTH) * 4 + c;
                samples[6 * i + 2 * c] = (byte) value;
                samples[6 * i + 2 * c + 1] = (byte) (value >> 8);
            }
        }
        TiffDirectory main = tags(3, 16, Tag.COMPRESSION_DEFLATE, predictor);
        byte[] strip = pixels == 0
                ? samples
                : HandmadeDng.differences(samples, WIDTH * 6, 3 * pixels, ByteOrder.LITTLE_ENDIAN);
        Picture read =
                (Picture) DngReader.read(HandmadeDng.of(main, ByteOrder.LITTLE_ENDIAN, HandmadeDng.deflated(strip)))
                        .capture();
        for (int i = 0; i < WIDTH * HEIGHT; i++) {
            for (int c = 0; c < 3; c++) {
                float value = (written.sample(i % WIDTH, i / WIDTH) * 4 + c) / 65535f;
                assertThat(read.at(c, i % WIDTH, i / WIDTH)).isCloseTo(value, within(1.01f / 65535));
            }
        }
    }

    /** What claims to unpack to far more than its tile is cut off at the tile; what unpacks to less is refused. */
    @Test
    void deflateBombsAreCutOff() throws RefusedException {
        byte[] bomb = HandmadeDng.deflated(new byte[200 << 20]);
        TiffDirectory main = tags(1, 16, Tag.COMPRESSION_DEFLATE, 1);
        assertThat(DngReader.read(HandmadeDng.of(main, ByteOrder.LITTLE_ENDIAN, bomb))
                        .capture()
                        .width())
                .isEqualTo(WIDTH);
        assertThatThrownBy(() -> DngReader.read(HandmadeDng.of(
                        tags(1, 16, Tag.COMPRESSION_DEFLATE, 1),
                        ByteOrder.LITTLE_ENDIAN,
                        HandmadeDng.deflated(new byte[900]))))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("smaller than its tile");
    }

    /** All eight orientations: the contact sheet's picture stands as LibRaw turns the same file. */
    @ParameterizedTest
    @ValueSource(ints = {1, 2, 3, 4, 5, 6, 7, 8})
    void orientations(int orientation) throws IOException, RefusedException {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        Planes scene = new Planes(new org.rainsieve.frame.Region(0, 0, 240, 160), 3);
        // A bright corner and a bright edge: no turn and no mirror looks like another.
        for (int i = 0; i < 240 * 160; i++) {
            float value = i % 240 < 60 && i / 240 < 40 ? 0.8f : i % 240 < 24 ? 0.4f : 0.05f;
            for (int c = 0; c < 3; c++) {
                scene.channel(c)[i] = value;
            }
        }
        camera.see(scene);
        TiffDirectory tags = camera.tags(TestTools.shot(200), true);
        tags.put(TiffField.ofShorts(Tag.ORIENTATION, orientation));
        byte[] dng = CfaDngWriter.write(
                camera.sensor().expose(scene, 1e-5, 1e-8, 1),
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 0),
                tags);
        OpenedFrame frame = DngReader.read(dng);
        BufferedImage ours = ImageIO.read(new ByteArrayInputStream(Thumbnail.of(frame)));
        Path file = Files.write(folder.resolve("o.dng"), dng);
        TestTools.run(folder, "dcraw_emu", "-T", "-w", file.toString());
        BufferedImage theirs = ImageIO.read(folder.resolve("o.dng.tiff").toFile());
        assertThat(frame.shot().orientation()).isEqualTo(orientation);
        assertThat(ours.getWidth() > ours.getHeight()).isEqualTo(theirs.getWidth() > theirs.getHeight());
        for (int py = 0; py < 8; py++) {
            for (int px = 0; px < 8; px++) {
                boolean mine = bright(ours, px, py);
                assertThat(mine).as("place %d %d", px, py).isEqualTo(bright(theirs, px, py));
            }
        }
    }

    private static boolean bright(BufferedImage image, int px, int py) {
        int x = (2 * px + 1) * image.getWidth() / 16;
        int y = (2 * py + 1) * image.getHeight() / 16;
        return (image.getRGB(x, y) >> 8 & 255) > 150;
    }

    /**
     * A real sensor's mosaic (GRBG, 10 bits, many hot pixels; see NOTICE) goes all the way: read, denoised by each method,
     * written, and decoded again by LibRaw.
     */
    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Learned"})
    void realMosaicGoesThrough(String method) throws IOException, RefusedException {
        Raster raster =
                ImageIO.read(getClass().getResource("/pictures/mosaic.png")).getRaster();
        short[] samples = new short[640 * 480];
        for (int i = 0; i < samples.length; i++) {
            samples[i] = (short) raster.getSample(i % 640, i / 640, 0);
        }
        Mosaic real = new Mosaic(640, 480, samples, CfaPattern.GRBG, new float[] {25}, 1, 1, 959);
        byte[] dng = CfaDngWriter.write(
                real,
                25,
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 10, false, 0),
                SimulatedCamera.ONDREL_24.tags(TestTools.shot(800), false));
        OpenedFrame frame = DngReader.read(dng);
        Reading reading =
                Reading.full(frame.capture(), null, frame.colour().gains()).reading();
        NoiseModel law = reading.law();
        ResolvedSettings settings =
                ResolvedSettings.of(800, law, new DenoiseSettings(true, method, 0, 0), real.pattern());
        Path file = folder.resolve("r.dng");
        ReturnWriter.Written written = ReturnWriter.write(
                frame,
                ReturnWriter.Order.of("real.dng", Sha256.of(dng), settings),
                file,
                new WorkingMemory(64L << 20),
                Cancel.NEVER,
                s -> {});
        // Grass has much of its own that is as fine as noise.
        assertThat(written.noiseLeft()).isBetween(0.01, 0.9);
        TestTools.Tiff16 libraw = TestTools.libraw(folder, file);
        assertThat(libraw.width()).isEqualTo(640);
        double mean = 0;
        for (int i = 0; i < 640 * 480; i++) {
            // LibRaw takes black away and does not scale.
            mean += libraw.samples()[3 * i + 1] / (65535.0 - OpcodeList.BLACK) / (640 * 480);
        }
        double original = 0;
        for (int i = 0; i < 640 * 480; i++) {
            original += real.pattern().colourAt(i % 640, i / 640) == 1 ? real.at(i % 640, i / 640) / (640 * 240) : 0;
        }
        assertThat(mean).isCloseTo(original, within(original * 0.003));
    }
}
