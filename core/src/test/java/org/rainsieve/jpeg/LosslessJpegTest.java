package org.rainsieve.jpeg;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.awt.image.Raster;
import java.io.IOException;
import java.util.SplittableRandom;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.frame.RefusedException;

class LosslessJpegTest {
    /** Pictures and second decoder: TwelveMonkeys ImageIO 3.12.0 (BSD-3-Clause). */
    @ParameterizedTest
    @ValueSource(strings = {"8_ls.jpg", "16_ls.jpg", "24_ls.jpg", "testimg_gray.jpg"})
    void decodesAsTheReferenceDecoder(String name) throws IOException, RefusedException {
        String path = "/jpeg-lossless/" + name;
        byte[] data = getClass().getResourceAsStream(path).readAllBytes();
        LosslessJpegDecoder.Image image = LosslessJpegDecoder.decode(data, 0, data.length, 100_000_000);
        ImageReader reader =
                ImageIO.getImageReadersByFormatName("jpeg-lossless").next();
        reader.setInput(ImageIO.createImageInputStream(getClass().getResourceAsStream(path)));
        Raster raster = reader.readRaster(0, null);
        assertThat(raster.getWidth()).isEqualTo(image.width());
        int[] pixel = new int[raster.getNumBands()];
        assertThat(image.components()).isEqualTo(pixel.length);
        for (int y = 0; y < image.height(); y++) {
            for (int x = 0; x < image.width(); x++) {
                raster.getPixel(x, y, pixel);
                for (int c = 0; c < pixel.length; c++) {
                    int sample = image.samples()[(y * image.width() + x) * pixel.length + c] & 0xffff;
                    assertThat(sample).as("%d, %d, %d", x, y, c).isEqualTo(pixel[c]);
                }
            }
        }
    }

    /** Files of the Independent JPEG Group's lossless library with restarts (see the NOTICE beside them); T.81, H.1.2.1. */
    @ParameterizedTest
    @CsvSource({"1, 1", "2, 1", "3, 1", "4, 1", "5, 1", "6, 1", "7, 1", "rgb, 3"})
    void decodesRestartsOfAnotherLibrary(String name, int components) throws IOException, RefusedException {
        byte[] data = getClass()
                .getResourceAsStream("/restarts/restart-" + name + ".jpg")
                .readAllBytes();
        LosslessJpegDecoder.Image image = LosslessJpegDecoder.decode(data, 0, data.length, 10_000);
        assertThat(new int[] {image.width(), image.height(), image.components()})
                .containsExactly(37, 29, components);
        for (int i = 0; i < image.samples().length; i++) {
            int x = i / components % 37;
            int y = i / components / 37;
            int k = i % components;
            int value = x * x * 31 + y * y * 57 + x * y * 13 + k * 9001 + (x * 7919 + y * 104729) % 251;
            assertThat(image.samples()[i] & 0xffff).as("%d, %d, %d", x, y, k).isEqualTo(value & 0xffff);
        }
    }

    @ParameterizedTest
    @CsvSource({"smooth, 3", "smooth, 1", "noise, 3", "noise, 2", "extremes, 3", "constant, 1"})
    void returnsWhatWasEncoded(String kind, int components) throws RefusedException {
        int width = 97;
        int height = 61;
        SplittableRandom random = new SplittableRandom(9);
        short[] samples = new short[width * height * components];
        for (int i = 0; i < samples.length; i++) {
            samples[i] = (short)
                    switch (kind) {
                        case "smooth" -> 20000 + i / 7 + random.nextInt(40);
                        case "noise" -> random.nextInt(65536);
                        // Differences of exactly 32768 have a category of their own (T.81, H.1.2.2).
                        case "extremes" -> random.nextInt(3) * 32768;
                        default -> 4711;
                    };
        }
        byte[] jpeg = new LosslessJpegEncoder().encode(samples, width, height, components);
        LosslessJpegDecoder.Image image = LosslessJpegDecoder.decode(jpeg, 0, jpeg.length, samples.length);
        assertThat(image.samples()).isEqualTo(samples);
        assertThat(jpeg.length).isLessThan(samples.length * 2 + 1200);
    }

    @Test
    void refusesAHeaderThatPromisesTooMuch() {
        byte[] jpeg = new LosslessJpegEncoder().encode(new short[300], 10, 10, 3);
        assertThatThrownBy(() -> LosslessJpegDecoder.decode(jpeg, 0, jpeg.length, 299))
                .isInstanceOf(RefusedException.class);
    }
}
