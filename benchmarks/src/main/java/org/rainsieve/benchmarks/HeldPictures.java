package org.rainsieve.benchmarks;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.quality.Reduction;

/** The middles of a folder's pictures in linear light, as truths of benchmarks. */
final class HeldPictures {
    private static final int SIDE_PX = 600;

    private HeldPictures() {}

    /** @param reducedBy whole number, as photographs need that are soft or compressed at their own size */
    static List<Planes> middles(Path folder, int reducedBy) throws IOException {
        return middles(folder, reducedBy, SIDE_PX);
    }

    /** @param sidePx of the middles at most, reduced */
    static List<Planes> middles(Path folder, int reducedBy, int sidePx) throws IOException {
        List<Planes> truths = new ArrayList<>();
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.filter(f -> f.toString().matches("(?i).*[.](jpe?g|png)"))
                    .sorted()
                    .toList()) {
                truths.add(middle(ImageIO.read(file.toFile()), reducedBy, sidePx));
            }
        }
        return truths;
    }

    private static Planes middle(BufferedImage image, int reducedBy, int sidePx) {
        int w = Math.min(sidePx * reducedBy, image.getWidth()) / (12 * reducedBy) * 12 * reducedBy;
        int h = Math.min(sidePx * reducedBy, image.getHeight()) / (12 * reducedBy) * 12 * reducedBy;
        return Reduction.byBoxes(
                linear(image, (image.getWidth() - w) / 2, (image.getHeight() - h) / 2, w, h), reducedBy);
    }

    static Planes linear(BufferedImage image, int x0, int y0, int w, int h) {
        Planes out = new Planes(new Region(0, 0, w, h), 3);
        for (int i = 0; i < w * h; i++) {
            int rgb = image.getRGB(x0 + i % w, y0 + i / w);
            for (int c = 0; c < 3; c++) {
                out.channel(c)[i] = (float) RgbSpace.decode((rgb >> (16 - 8 * c) & 255) / 255.0);
            }
        }
        return out;
    }
}
