package org.rainsieve.opening;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.zip.CRC32;
import java.util.zip.Deflater;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import javax.imageio.stream.ImageOutputStream;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.TestTools;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.pipeline.Thumbnail;
import org.rainsieve.scene.CameraJpeg;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;

/**
 * Files that are damaged or made to do harm, one way each: every structure cut off, every field's type, count and place
 * made wrong, directories in loops, sizes of nothing and of everything, bombs. Each is read or refused in plain words, soon
 * and in little memory. ({@code ./sieve benchmark fuzz} goes further, by chance.)
 */
class HostileFilesTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final int MOST_SECONDS = 10;

    @TempDir
    Path folder;

    private record Case(String name, byte[] file) {}

    private static byte[] dng(ByteOrder order) {
        Planes scene = new PlainScene(160, 96, 1).srgb();
        CAMERA.see(scene);
        return CfaDngWriter.write(
                CAMERA.sensor().expose(scene, 1e-3, 1e-6, 1),
                CAMERA.black(),
                new CfaDngWriter.Form(order, 16, true, 64),
                CAMERA.tags(TestTools.shot(1600), true));
    }

    /** All fields of the first directory: cut before, in and after it, and with wrong type, count and place. */
    private static List<Case> ofEveryField(byte[] dng, ByteOrder order) {
        List<Case> cases = new ArrayList<>();
        ByteBuffer in = ByteBuffer.wrap(dng).order(order);
        int directory = in.getInt(4);
        int count = in.getShort(directory) & 0xffff;
        for (int i = 0; i < count; i++) {
            int at = directory + 2 + 12 * i;
            String name = order + " tag " + (in.getShort(at) & 0xffff);
            cases.add(new Case(name + " cut off", Arrays.copyOf(dng, at + 6)));
            cases.add(changed(name + " of no type", dng, order, b -> b.putShort(at + 2, (short) 99)));
            cases.add(changed(name + " without end", dng, order, b -> b.putInt(at + 4, -1)));
            cases.add(changed(name + " of many", dng, order, b -> b.putInt(at + 4, 1 << 24)));
            cases.add(changed(name + " elsewhere", dng, order, b -> b.putInt(at + 8, dng.length - 2)));
            cases.add(changed(name + " in its directory", dng, order, b -> b.putInt(at + 8, directory)));
            cases.add(changed(name + " of nothing", dng, order, b -> b.putInt(at + 4, 0)));
        }
        int end = directory + 2 + 12 * count;
        cases.add(changed("a loop of directories", dng, order, b -> b.putInt(end, directory)));
        cases.add(changed("a directory beyond the end", dng, order, b -> b.putInt(end, -8)));
        cases.add(changed("no directory", dng, order, b -> b.putInt(4, dng.length + 4)));
        cases.add(changed("65,535 fields", dng, order, b -> b.putShort(directory, (short) -1)));
        return cases;
    }

    private interface Change {
        void to(ByteBuffer bytes);
    }

    private static Case changed(String name, byte[] file, ByteOrder order, Change change) {
        byte[] copy = file.clone();
        change.to(ByteBuffer.wrap(copy).order(order));
        return new Case(name, copy);
    }

    /** PNG chunk by chunk (ISO/IEC 15948), so that sizes and compressed streams can lie. */
    private static byte[] png(int width, int height, byte[] profile, byte[] pixels) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        out.writeBytes(new byte[] {(byte) 0x89, 'P', 'N', 'G', '\r', '\n', 0x1a, '\n'});
        chunk(
                out,
                "IHDR",
                ByteBuffer.allocate(13)
                        .putInt(width)
                        .putInt(height)
                        .put((byte) 8)
                        .put((byte) 2)
                        .array());
        if (profile != null) {
            ByteArrayOutputStream icc = new ByteArrayOutputStream();
            icc.writeBytes("p\0\0".getBytes(StandardCharsets.US_ASCII));
            icc.writeBytes(deflated(profile));
            chunk(out, "iCCP", icc.toByteArray());
        }
        chunk(out, "IDAT", deflated(pixels));
        chunk(out, "IEND", new byte[0]);
        return out.toByteArray();
    }

    private static void chunk(ByteArrayOutputStream out, String type, byte[] content) {
        byte[] typed = (type + new String(content, StandardCharsets.ISO_8859_1)).getBytes(StandardCharsets.ISO_8859_1);
        CRC32 crc = new CRC32();
        crc.update(typed);
        out.writeBytes(ByteBuffer.allocate(4).putInt(content.length).array());
        out.writeBytes(typed);
        out.writeBytes(ByteBuffer.allocate(4).putInt((int) crc.getValue()).array());
    }

    private static byte[] deflated(byte[] bytes) {
        Deflater deflater = new Deflater(9);
        deflater.setInput(bytes);
        deflater.finish();
        byte[] out = new byte[bytes.length / 100 + 4096 + bytes.length / 8];
        int length = deflater.deflate(out);
        deflater.end();
        return Arrays.copyOf(out, length);
    }

    private static List<Case> pictures() {
        List<Case> cases = new ArrayList<>();
        byte[] nothing = new byte[64 << 20];
        cases.add(new Case("a picture of 60,000 × 60,000", png(60_000, 60_000, null, nothing)));
        cases.add(new Case("a picture of 9,900 × 10,000 that is not there", png(9900, 10_000, null, new byte[100])));
        cases.add(new Case("a picture without a size", png(0, 0, null, new byte[100])));
        cases.add(new Case("a picture with a side below zero", png(-5, 20, null, new byte[100])));
        cases.add(new Case("a bomb for a profile", png(32, 32, nothing, new byte[32 * 97])));
        for (int length : new int[] {0, 1, 20, 127, 128, 131, 200}) {
            byte[] profile = new byte[length];
            cases.add(new Case("an empty profile of " + length, png(32, 32, profile, new byte[32 * 97])));
            Arrays.fill(profile, (byte) 0xff);
            cases.add(new Case("a profile of ones, " + length, png(32, 32, profile, new byte[32 * 97])));
        }
        byte[] jpeg = CameraJpeg.compressed(new float[3][64 * 64], 64, 64, 0.8f);
        for (int at = 2; at < Math.min(jpeg.length, 700); at += 23) {
            cases.add(new Case("a JPEG cut at " + at, Arrays.copyOf(jpeg, at)));
            int place = at;
            cases.add(changed(
                    "a JPEG with ones at " + at, jpeg, ByteOrder.BIG_ENDIAN, b -> b.putShort(place, (short) -1)));
        }
        return cases;
    }

    /** A progressive JPEG of an even picture whose last pass comes again and again. */
    private static byte[] manyPasses(int times) throws IOException {
        ImageWriter writer = ImageIO.getImageWritersByFormatName("jpeg").next();
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (ImageOutputStream out = ImageIO.createImageOutputStream(bytes)) {
            ImageWriteParam param = writer.getDefaultWriteParam();
            param.setProgressiveMode(ImageWriteParam.MODE_DEFAULT);
            writer.setOutput(out);
            writer.write(
                    null, new IIOImage(new BufferedImage(5000, 4000, BufferedImage.TYPE_3BYTE_BGR), null, null), param);
        }
        writer.dispose();
        String jpeg = bytes.toString(StandardCharsets.ISO_8859_1);
        int last = jpeg.lastIndexOf("\u00ff\u00da");
        return (jpeg.substring(0, last)
                        + jpeg.substring(last, jpeg.length() - 2).repeat(times) + "\u00ff\u00d9")
                .getBytes(StandardCharsets.ISO_8859_1);
    }

    /** As a picture, and as the preview of a raw file: libjpeg takes a minute and more for it. */
    @Test
    void picturesOfHundredsOfPassesHoldNobody() throws Exception {
        byte[] jpeg = manyPasses(400);
        Path file = Files.write(folder.resolve("passes.jpg"), jpeg);
        assertThatThrownBy(() -> RawOpener.open(file))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("in 409 passes");
        assertThat(Thumbnail.ofPreview(jpeg, 1)).isNull();
        assertThat(Thumbnail.ofPreview(manyPasses(1), 1)).isNotEmpty();
        assertThat(RawOpener.open(Files.write(folder.resolve("usual.jpg"), manyPasses(1)))
                        .frame()
                        .notes())
                .isNotEmpty();
    }

    @Test
    void everyOneIsReadOrRefused() {
        List<Case> cases = new ArrayList<>();
        cases.addAll(ofEveryField(dng(ByteOrder.LITTLE_ENDIAN), ByteOrder.LITTLE_ENDIAN));
        cases.addAll(ofEveryField(dng(ByteOrder.BIG_ENDIAN), ByteOrder.BIG_ENDIAN));
        cases.addAll(pictures());
        assertThat(cases).hasSizeGreaterThan(200);
        int refused = 0;
        for (Case one : cases) {
            try {
                Assertions.assertTimeoutPreemptively(
                        Duration.ofSeconds(MOST_SECONDS),
                        () -> {
                            Path file = Files.write(folder.resolve("hostile"), one.file);
                            glance(file);
                            RawOpener.open(file);
                        },
                        one.name);
            } catch (AssertionError e) {
                throw e;
            } catch (Exception e) {
                // The test's own helper wraps what the task throws as it is.
                assertThat(e).as(one.name).isInstanceOf(RefusedException.class);
                assertThat(e.getMessage()).as(one.name).endsWith(".").doesNotContain("Exception", "java.");
                refused++;
            }
        }
        System.out.printf(Locale.ROOT, "%d of %d hostile files refused%n", refused, cases.size());
        assertThat(refused).isBetween(cases.size() / 5, cases.size() - 20);
    }

    private static void glance(Path file) throws IOException {
        try {
            assertThat(Glance.of(file, null)).isNotNull();
        } catch (RefusedException e) {
            assertThat(e.getMessage()).endsWith(".");
        }
    }
}
