package org.rainsieve.dng;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.TestTools;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;

class LinearDngWriterTest {
    private static final int WIDTH = 300;
    private static final int HEIGHT = 270;

    @TempDir
    Path folder;

    private LinearDngWriter writer(Path file) throws IOException {
        TiffDirectory tags = SimulatedCamera.ONDREL_24.tags(TestTools.shot(400), false);
        return new LinearDngWriter(
                file,
                WIDTH,
                HEIGHT,
                tags,
                tags,
                LinearDngWriter.Placement.AS_TAKEN,
                "Rain Sieve",
                "original.dng",
                "<x/>",
                10,
                9,
                null);
    }

    private static final LinearDngWriter.Preview PREVIEW =
            new LinearDngWriter.Preview(10, 9, new byte[270], 1, 1, new byte[] {1, 2});
    private static final LinearDngWriter.Measured MEASURED =
            new LinearDngWriter.Measured(new double[] {1, 2, 3, 4, 5, 6}, 0.25);

    private static short sample(int x, int y, int c) {
        return (short) (x * 211 + y * 97 + c * 20011);
    }

    private static short[] rows(int from, int count) {
        short[] samples = new short[count * WIDTH * 3];
        for (int i = 0; i < samples.length; i++) {
            samples[i] = sample(i / 3 % WIDTH, from + i / 3 / WIDTH, i % 3);
        }
        return samples;
    }

    /** Every sample of a picture whose sides are no multiples of the tile comes back, whatever region is asked for. */
    @Test
    void everySampleComesBack() throws IOException, RefusedException {
        Path file = folder.resolve("a.dng");
        try (LinearDngWriter writer = writer(file)) {
            writer.writeBand(rows(0, 256), 256);
            writer.writeBand(rows(256, 14), 14);
            writer.finish(PREVIEW, MEASURED);
        }
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            assertThat(dng.tiles()).isEqualTo(4);
            assertThat(dng.image().real(Tag.NOISE_REDUCTION_APPLIED, 0)).isEqualTo(0.75);
            assertThat(dng.image().numbers(Tag.NOISE_PROFILE)).containsExactly(1, 2, 3, 4, 5, 6);
            for (Region region :
                    new Region[] {dng.bounds(), new Region(250, 250, 12, 12), new Region(299, 269, 1, 1)}) {
                Planes planes = new Planes(region, 3);
                dng.fill(planes);
                for (int y = region.y(); y < region.bottom(); y++) {
                    for (int x = region.x(); x < region.right(); x++) {
                        for (int c = 0; c < 3; c++) {
                            assertThat(LinearDngWriter.sample(planes.at(c, x, y)))
                                    .isEqualTo(sample(x, y, c));
                        }
                    }
                }
            }
        }
    }

    @Test
    void valuesAreRoundedAndLimited() {
        assertThat(LinearDngWriter.sample(0) & 0xffff).isEqualTo(2048);
        assertThat(LinearDngWriter.sample(1) & 0xffff).isEqualTo(65535);
        assertThat(LinearDngWriter.sample(1.4f) & 0xffff).isEqualTo(65535);
        assertThat(LinearDngWriter.sample(-0.02f) & 0xffff).isEqualTo(778);
        assertThat(LinearDngWriter.sample(-1f) & 0xffff).isZero();
    }

    @Test
    void neverOverwritesAndNeverEndsEarly() throws IOException {
        Path there = Files.writeString(folder.resolve("there.dng"), "somebody else's");
        assertThatThrownBy(() -> writer(there)).isInstanceOf(FileAlreadyExistsException.class);
        assertThat(there).hasContent("somebody else's");
        try (LinearDngWriter writer = writer(folder.resolve("b.dng"))) {
            assertThatThrownBy(() -> writer.writeBand(rows(0, 100), 100)).isInstanceOf(IllegalArgumentException.class);
            writer.writeBand(rows(0, 256), 256);
            assertThatThrownBy(() -> writer.finish(PREVIEW, MEASURED)).isInstanceOf(IllegalStateException.class);
        }
        // What was not finished has no directories, so nobody takes it for a picture.
        assertThatThrownBy(() -> LinearDngFile.open(folder.resolve("b.dng"))).isInstanceOf(RefusedException.class);
    }
}
