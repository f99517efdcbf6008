package org.rainsieve.dng;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.rainsieve.TestTools;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;

class DngReaderTest {
    @TempDir
    Path folder;

    static List<Object[]> forms() {
        List<Object[]> forms = new ArrayList<>();
        CfaPattern[] patterns = {CfaPattern.RGGB, CfaPattern.BGGR, CfaPattern.GRBG, CfaPattern.GBRG};
        int next = 0;
        for (ByteOrder order : new ByteOrder[] {ByteOrder.LITTLE_ENDIAN, ByteOrder.BIG_ENDIAN}) {
            for (int tile : new int[] {0, 64}) {
                for (int bits : new int[] {16, 14, 12}) {
                    forms.add(new Object[] {patterns[next++ % 4], new CfaDngWriter.Form(order, bits, false, tile)});
                }
                forms.add(new Object[] {patterns[next++ % 4], new CfaDngWriter.Form(order, 16, true, tile)});
            }
        }
        forms.add(new Object[] {CfaPattern.GBRG, new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 64, 12)});
        forms.add(new Object[] {CfaPattern.RGGB, new CfaDngWriter.Form(ByteOrder.BIG_ENDIAN, 14, false, 0, 8)});
        forms.add(new Object[] {CfaPattern.SIX, new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 64, 12)});
        forms.add(
                new Object[] {CfaPattern.SIX.shifted(2, 5), new CfaDngWriter.Form(ByteOrder.BIG_ENDIAN, 14, false, 0)});
        return forms;
    }

    private static Mosaic mosaic(CfaPattern pattern, int bits) {
        int white = (1 << Math.min(bits, 14)) - 1;
        return new SimulatedSensor(pattern, 512 >> 14 - Math.min(bits, 14), white)
                .expose(new PlainScene(210, 142, 1).srgb(), 1e-4, 1e-6, 3);
    }

    /** Every order, byte order, layout and packing: the mosaic as written, and as LibRaw decodes the same file. */
    @ParameterizedTest
    @MethodSource("forms")
    void readsEveryForm(CfaPattern pattern, CfaDngWriter.Form form) throws IOException, RefusedException {
        Mosaic written = mosaic(pattern, form.bits());
        int black = 512 >> 14 - Math.min(form.bits(), 14);
        byte[] dng =
                CfaDngWriter.write(written, black, form, SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), true));
        OpenedFrame frame = DngReader.read(dng);
        assertThat(frame.mosaic().pattern()).isEqualTo(pattern);
        Path file = folder.resolve("t.dng");
        Files.write(file, dng);
        TestTools.run(folder, "unprocessed_raw", "-T", "t.dng");
        TestTools.Tiff16 libraw = TestTools.tiff16(folder.resolve("t.dng.tiff"));
        // LibRaw 0.20.2 reads only the first of several uncompressed tiles, so it is no reference for those.
        boolean reference = form.compressed() || form.tileSize() == 0;
        for (int y = 0; y < written.height(); y++) {
            for (int x = 0; x < written.width(); x++) {
                assertThat(frame.mosaic().sample(x, y)).isEqualTo(written.sample(x, y));
                if (reference) {
                    assertThat(libraw.samples()[(y + form.maskedPx()) * libraw.width() + x + form.maskedPx()])
                            .isEqualTo(written.sample(x, y));
                }
            }
        }
        assertThat(frame.shot().camera()).isEqualTo("Ondrel 24");
        assertThat(frame.shot().iso()).isEqualTo(1600);
        assertThat(frame.shot().takenAt()).isEqualTo("2026-10-03T21:14:05.25+01:00");
        assertThat(frame.noiseProfile()).hasSize(6);
        assertThat(frame.main().text(Tag.UNIQUE_CAMERA_MODEL)).isEqualTo("Ondrel 24");
    }

    @Test
    void linksAreNotFollowed() throws IOException {
        Path secret = Files.writeString(folder.resolve("secret"), "x");
        Path link = Files.createSymbolicLink(folder.resolve("link.dng"), secret);
        org.assertj.core.api.Assertions.assertThatThrownBy(() -> org.rainsieve.opening.RawOpener.open(link))
                .isInstanceOf(RefusedException.class)
                .hasMessage("This is not an ordinary file.");
    }

    /** Truncated anywhere, bytes flipped anywhere, counts and offsets made huge: read or refused, never worse. */
    @Test
    void damagedFilesAreReadOrRefused() {
        byte[] whole = CfaDngWriter.write(
                mosaic(CfaPattern.RGGB, 14),
                512,
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 64),
                SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), true));
        SplittableRandom random = new SplittableRandom(20261125);
        Assertions.assertTimeoutPreemptively(Duration.ofSeconds(60), () -> {
            int refused = 0;
            for (int i = 0; i < 300; i++) {
                byte[] damaged = whole.clone();
                if (i % 3 == 0) {
                    damaged = java.util.Arrays.copyOf(whole, random.nextInt(whole.length));
                } else {
                    int reach = i % 3 == 1 ? 1600 : whole.length;
                    for (int k = 0; k < 1 + random.nextInt(6); k++) {
                        damaged[random.nextInt(Math.min(reach, damaged.length))] =
                                (byte) (random.nextBoolean() ? 0xff : random.nextInt(256));
                    }
                }
                try {
                    org.rainsieve.opening.RawOpener.open(Files.write(folder.resolve("damaged.dng"), damaged));
                } catch (RefusedException e) {
                    refused++;
                    assertThat(e.getMessage()).endsWith(".").hasSizeGreaterThan(15);
                }
            }
            assertThat(refused).isGreaterThan(100);
        });
    }
}
