package org.rainsieve.learn;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.rainsieve.colour.RgbSpace;

/**
 * Clean photographs in linear light, reduced by two so that the noise and the compression of their own files are
 * averaged away. The split into training and validation is by picture, never by patch.
 */
final class Photographs {
    /** A picture of linear RGB in 16 bits, interleaved, 65535 = white. */
    record Picture(String name, int width, int height, short[] rgb) {
        float at(int x, int y, int channel) {
            return (rgb[(y * width + x) * 3 + channel] & 0xffff) / 65535f;
        }
    }

    private static final float[] LINEAR = new float[256];

    static {
        for (int i = 0; i < 256; i++) {
            LINEAR[i] = (float) RgbSpace.decode(i / 255.0);
        }
    }

    private Photographs() {}

    /** All pictures below a folder whose file name (without ending) is in the list. */
    static List<Picture> load(Path folder, List<String> names) {
        List<Picture> found = new ArrayList<>();
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.sorted().toList()) {
                String base = file.getFileName().toString().replaceFirst("\\.[^.]+$", "");
                if (names.contains(base) && Files.isRegularFile(file)) {
                    found.add(halved(base, ImageIO.read(file.toFile())));
                }
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return found;
    }

    private static Picture halved(String name, BufferedImage image) {
        int width = image.getWidth() / 2;
        int height = image.getHeight() / 2;
        short[] rgb = new short[width * height * 3];
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                for (int c = 0; c < 3; c++) {
                    float sum = 0;
                    for (int k = 0; k < 4; k++) {
                        int value = image.getRGB(2 * x + (k & 1), 2 * y + (k >> 1));
                        sum += LINEAR[(value >> (16 - 8 * c)) & 255];
                    }
                    rgb[(y * width + x) * 3 + c] = (short) Math.round(sum / 4 * 65535);
                }
            }
        }
        return new Picture(name, width, height, rgb);
    }
}
