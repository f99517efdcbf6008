package org.rainsieve.rendered;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.awt.color.ICC_ColorSpace;
import java.awt.color.ICC_Profile;
import java.awt.image.BufferedImage;
import java.awt.image.Raster;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Stream;
import java.util.zip.CRC32;
import java.util.zip.Deflater;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.MethodSource;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.embedded.FileKind;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.xmp.Xmp;

/**
 * Colours of rendered pictures by profiles of other people (Debian's colord-data 1.4.6 and icc-profiles-free 2.0.1), judged by
 * Little CMS, which is the JDK's colour engine; and by the published numbers of PNG (third edition) and ITU-T H.273.
 */
class PictureColoursTest {
    private static final int PATCH = 32;
    private static final int[] COLOURS = {
        0x5ae85a, 0xc83c28, 0x1e3cb4, 0x808080, 0xffffff, 0x000000, 0xf0d23c, 0x28202a, 0x9a6ec8, 0x40a0a0
    };

    private static BufferedImage patches() {
        BufferedImage image = new BufferedImage(PATCH * COLOURS.length, PATCH, BufferedImage.TYPE_INT_RGB);
        for (int y = 0; y < PATCH; y++) {
            for (int x = 0; x < image.getWidth(); x++) {
                image.setRGB(x, y, COLOURS[x / PATCH]);
            }
        }
        return image;
    }

    private static byte[] png(byte[]... chunks) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ImageIO.write(patches(), "png", out);
        byte[] plain = out.toByteArray();
        ByteArrayOutputStream file = new ByteArrayOutputStream();
        file.write(plain, 0, 33); // the signature and IHDR
        for (byte[] chunk : chunks) {
            file.writeBytes(chunk);
        }
        file.write(plain, 33, plain.length - 33);
        return file.toByteArray();
    }

    private static byte[] chunk(String name, byte[] data) {
        CRC32 crc = new CRC32();
        crc.update(name.getBytes(StandardCharsets.US_ASCII));
        crc.update(data);
        return ByteBuffer.allocate(12 + data.length)
                .putInt(data.length)
                .put(name.getBytes(StandardCharsets.US_ASCII))
                .put(data)
                .putInt((int) crc.getValue())
                .array();
    }

    private static byte[] deflated(byte[] data) {
        Deflater deflater = new Deflater();
        deflater.setInput(data);
        deflater.finish();
        byte[] out = new byte[data.length + 200];
        return Arrays.copyOf(out, deflater.deflate(out));
    }

    private static byte[] text(String... parts) {
        return String.join("\0", parts).getBytes(StandardCharsets.UTF_8);
    }

    private static byte[] joined(byte[] a, byte[] b) {
        byte[] out = Arrays.copyOf(a, a.length + b.length);
        System.arraycopy(b, 0, out, a.length, b.length);
        return out;
    }

    /** A JPEG with more segments after its first. */
    private static byte[] jpeg(byte[]... segments) throws IOException {
        ImageWriter writer = ImageIO.getImageWritersByFormatName("jpeg").next();
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (var out = ImageIO.createImageOutputStream(bytes)) {
            writer.setOutput(out);
            ImageWriteParam param = writer.getDefaultWriteParam();
            param.setCompressionMode(ImageWriteParam.MODE_EXPLICIT);
            param.setCompressionQuality(1);
            writer.write(null, new IIOImage(patches(), null, null), param);
        }
        byte[] plain = bytes.toByteArray();
        ByteArrayOutputStream file = new ByteArrayOutputStream();
        file.write(plain, 0, 20); // SOI and JFIF
        for (byte[] segment : segments) {
            file.writeBytes(segment);
        }
        file.write(plain, 20, plain.length - 20);
        return file.toByteArray();
    }

    private static byte[] segment(int marker, byte[] head, byte[] data) {
        return ByteBuffer.allocate(4 + head.length + data.length)
                .put((byte) 0xff)
                .put((byte) marker)
                .putShort((short) (2 + head.length + data.length))
                .put(head)
                .put(data)
                .array();
    }

    private static byte[][] profileSegments(byte[] icc) {
        List<byte[]> segments = new ArrayList<>();
        int each = 60_000;
        int count = (icc.length + each - 1) / each;
        for (int i = 0; i < count; i++) {
            byte[] head = joined(text("ICC_PROFILE", ""), new byte[] {(byte) (i + 1), (byte) count});
            segments.add(segment(0xe2, head, Arrays.copyOfRange(icc, i * each, Math.min(icc.length, (i + 1) * each))));
        }
        return segments.toArray(new byte[0][]);
    }

    /** sRGB values, 0 to 1, of the patches as the opened picture has them. */
    private static double[][] seen(byte[] file) throws RefusedException {
        OpenedFrame frame = RenderedPicture.of(file, FileKind.of(file));
        Picture picture = (Picture) frame.capture();
        double[] m = RgbSpace.SRGB.fromXyzD50().times(frame.colour().toXyzD50()).m();
        double[][] seen = new double[COLOURS.length][3];
        for (int i = 0; i < seen.length; i++) {
            double[] light = new double[3];
            for (int c = 0; c < 3; c++) {
                light[c] = picture.at(c, i * PATCH + PATCH / 2, PATCH / 2);
            }
            for (int c = 0; c < 3; c++) {
                double value = m[3 * c] * light[0] + m[3 * c + 1] * light[1] + m[3 * c + 2] * light[2];
                seen[i][c] = RgbSpace.encode(Math.max(0, Math.min(1, value)));
            }
        }
        return seen;
    }

    /** What the JPEG holds, by the equations of JFIF 1.02, which no profile has touched. */
    private static int[] stored(byte[] jpeg, int patch) throws IOException {
        ImageReader reader = ImageIO.getImageReadersByFormatName("jpeg").next();
        reader.setInput(ImageIO.createImageInputStream(new ByteArrayInputStream(jpeg)), true, true);
        Raster raw = reader.readRaster(0, null);
        int[] p = raw.getPixel(patch * PATCH + PATCH / 2, PATCH / 2, (int[]) null);
        double[] rgb = {
            p[0] + 1.402 * (p[2] - 128),
            p[0] - 0.34414 * (p[1] - 128) - 0.71414 * (p[2] - 128),
            p[0] + 1.772 * (p[1] - 128)
        };
        int[] out = new int[3];
        for (int c = 0; c < 3; c++) {
            out[c] = (int) Math.max(0, Math.min(255, Math.round(rgb[c])));
        }
        return out;
    }

    static Stream<Path> profiles() throws IOException {
        List<Path> found = new ArrayList<>();
        for (String folder : new String[] {"/usr/share/color/icc", "/usr/share/color/icc/colord"}) {
            try (Stream<Path> files = Files.list(Path.of(folder))) {
                files.filter(file -> file.toString().endsWith(".icc")).forEach(found::add);
            }
        }
        return found.stream().sorted();
    }

    @ParameterizedTest
    @MethodSource("profiles")
    void profilesAsLittleCmsUnderstandsThem(Path file) throws IOException, RefusedException {
        byte[] icc = Files.readAllBytes(file);
        ICC_Profile profile = ICC_Profile.getInstance(icc);
        String space = new String(icc, 16, 4, StandardCharsets.US_ASCII);
        byte[] jpeg = jpeg(profileSegments(icc));
        byte[] png = png(chunk("iCCP", joined(new byte[] {'p', 0, 0}, deflated(icc))));
        if (!space.equals("RGB ")) {
            if (!space.equals("GRAY")) {
                assertThatThrownBy(() -> seen(jpeg))
                        .isInstanceOf(RefusedException.class)
                        .hasMessageContaining("only RGB and grey");
            }
            return;
        }
        ICC_ColorSpace engine = new ICC_ColorSpace(profile);
        double[][] ofJpeg = seen(jpeg);
        double[][] ofPng = seen(png);
        for (int i = 0; i < COLOURS.length; i++) {
            int[] inJpeg = stored(jpeg, i);
            for (int kind = 0; kind < 2; kind++) {
                float[] value = new float[3];
                for (int c = 0; c < 3; c++) {
                    value[c] = (kind == 0 ? inJpeg[c] : COLOURS[i] >> 16 - 8 * c & 255) / 255f;
                }
                float[] wanted = engine.toRGB(value);
                for (int c = 0; c < 3; c++) {
                    assertThat((kind == 0 ? ofJpeg : ofPng)[i][c])
                            .as("%s, patch %d, colour %d", kind == 0 ? "JPEG" : "PNG", i, c)
                            .isCloseTo(wanted[c], within(1 / 255.0));
                }
            }
        }
    }

    /** Grey, by two profiles and both spaces of connection. */
    @ParameterizedTest
    @CsvSource({"Gray.icc", "Gray-CIE_L.icc"})
    void greyAsLittleCmsUnderstandsIt(String name) throws IOException, RefusedException {
        byte[] icc = Files.readAllBytes(Path.of("/usr/share/color/icc", name));
        BufferedImage image = new BufferedImage(PATCH * COLOURS.length, PATCH, BufferedImage.TYPE_BYTE_GRAY);
        for (int i = 0; i < image.getWidth() * PATCH; i++) {
            image.getRaster()
                    .setSample(i % image.getWidth(), i / image.getWidth(), 0, i % image.getWidth() / PATCH * 25);
        }
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ImageIO.write(image, "png", out);
        byte[] plain = out.toByteArray();
        byte[] head = joined(Arrays.copyOf(plain, 33), chunk("iCCP", joined(new byte[] {'p', 0, 0}, deflated(icc))));
        double[][] seen = seen(joined(head, Arrays.copyOfRange(plain, 33, plain.length)));
        ICC_ColorSpace engine = new ICC_ColorSpace(ICC_Profile.getInstance(icc));
        for (int i = 0; i < COLOURS.length; i++) {
            float wanted = engine.toRGB(new float[] {i * 25 / 255f})[1];
            assertThat(seen[i][1]).as("patch %d", i).isCloseTo(wanted, within(1 / 255.0));
        }
    }

    /** A profile of tables (ICC.1:2010, 10.8, lut16Type; Lab of version 2): eight corners, which lie well apart from any matrix. */
    @Test
    void tablesAsLittleCmsUnderstandsThem() throws IOException, RefusedException {
        double[][] lab = {
            {2, 0, 0},
            {30, 60, -90},
            {85, -80, 75},
            {88, -45, -15},
            {52, 78, 65},
            {58, 95, -58},
            {96, -20, 90},
            {100, 0, 0}
        };
        ByteBuffer lut = ByteBuffer.allocate(52 + 2 * (6 + 24 + 6));
        lut.put(text("mft2")).putInt(0).put(new byte[] {3, 3, 2, 0});
        for (int i = 0; i < 9; i++) {
            lut.putInt(i % 4 == 0 ? 65536 : 0);
        }
        lut.putShort((short) 2).putShort((short) 2);
        for (int c = 0; c < 3; c++) {
            lut.putShort((short) 0).putShort((short) 65535);
        }
        for (double[] corner : lab) {
            lut.putShort((short) Math.round(corner[0] / 100 * 0xff00));
            lut.putShort((short) Math.round((corner[1] + 128) * 256))
                    .putShort((short) Math.round((corner[2] + 128) * 256));
        }
        for (int c = 0; c < 3; c++) {
            lut.putShort((short) 0).putShort((short) 65535);
        }
        byte[] white = ByteBuffer.allocate(20)
                .put(text("XYZ "))
                .putInt(0)
                .putInt(63190)
                .putInt(65536)
                .putInt(54061)
                .array();
        ByteBuffer icc = ByteBuffer.allocate(128 + 4 + 24 + lut.capacity() + white.length);
        icc.putInt(icc.capacity()).putInt(0).putInt(0x02400000).put(text("scnrRGB Lab "));
        icc.putShort(24, (short) 2026).putShort(26, (short) 1).putShort(28, (short) 1);
        icc.position(36);
        icc.put(text("acsp"));
        icc.position(68);
        icc.putInt(63190).putInt(65536).putInt(54061);
        icc.position(128);
        icc.putInt(2).put(text("A2B0")).putInt(156).putInt(lut.capacity());
        icc.put(text("wtpt")).putInt(156 + lut.capacity()).putInt(white.length);
        icc.put(lut.array()).put(white);
        ICC_ColorSpace engine = new ICC_ColorSpace(ICC_Profile.getInstance(icc.array()));
        byte[] jpeg = jpeg(profileSegments(icc.array()));
        double[][] seen = seen(jpeg);
        for (int i = 0; i < COLOURS.length; i++) {
            int[] stored = stored(jpeg, i);
            float[] wanted = engine.toRGB(new float[] {stored[0] / 255f, stored[1] / 255f, stored[2] / 255f});
            for (int c = 0; c < 3; c++) {
                assertThat(seen[i][c]).as("patch %d, colour %d", i, c).isCloseTo(wanted[c], within(1.5 / 255));
            }
        }
    }

    private static byte[] numbers(int... values) {
        ByteBuffer out = ByteBuffer.allocate(4 * values.length);
        for (int value : values) {
            out.putInt(value);
        }
        return out.array();
    }

    /** gAMA, cHRM and cICP mean what PNG's third edition says; the numbers of displays beyond white are refused in words. */
    @Test
    void numbersOfPng() throws IOException, RefusedException {
        double[][] linear = seen(png(chunk("gAMA", numbers(100_000))));
        double[][] root = seen(png(chunk("gAMA", numbers(50_000))));
        for (int i = 0; i < COLOURS.length; i++) {
            for (int c = 0; c < 3; c++) {
                double value = (COLOURS[i] >> 16 - 8 * c & 255) / 255.0;
                assertThat(linear[i][c]).isCloseTo(RgbSpace.encode(value), within(2e-3));
                assertThat(root[i][c]).isCloseTo(RgbSpace.encode(value * value), within(2e-3));
            }
        }
        // The same told in two ways: BT.2020 by numbers of H.273 with sRGB's curve and as chromaticities;
        // P3 as its profile.
        byte[] wide = numbers(31270, 32900, 70800, 29200, 17000, 79700, 13100, 4600);
        double[][] told = seen(png(chunk("cHRM", wide), chunk("gAMA", numbers(45455))));
        double[][] coded = seen(png(chunk("cICP", new byte[] {9, 4, 0, 1})));
        for (int i = 0; i < COLOURS.length; i++) {
            assertThat(told[i]).containsExactly(coded[i], within(2e-3));
        }
        assertThat(seen(png(chunk("cICP", new byte[] {1, 13, 0, 1})))).isDeepEqualTo(seen(png()));
        // A profile goes before gamma, cICP before all.
        byte[] srgb = chunk("sRGB", new byte[] {0});
        assertThat(seen(png(srgb, chunk("gAMA", numbers(100_000))))).isDeepEqualTo(seen(png()));
        assertThatThrownBy(() -> seen(png(chunk("cICP", new byte[] {9, 16, 0, 1}))))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("high dynamic range");
        assertThatThrownBy(() -> seen(png(chunk("gAMA", numbers(0)))))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("damaged");
    }

    /** TIFFs of 10 to 16 bits of one picture (the test images of TwelveMonkeys ImageIO 3.12.0): each as the 16-bit one. */
    @ParameterizedTest
    @CsvSource({"rgb-contig-10", "rgb-contig-12", "rgb-contig-14", "minisblack-10", "minisblack-12", "minisblack-14"})
    void depthsOfTiff(String name) throws IOException, RefusedException {
        Picture deep = picture(name.substring(0, name.length() - 2) + "16");
        Picture read = picture(name);
        double most = (1 << Integer.parseInt(name.substring(name.length() - 2))) - 1;
        for (int y = 0; y < deep.height(); y++) {
            for (int x = 0; x < deep.width(); x++) {
                for (int c = 0; c < 3; c++) {
                    double here = RgbSpace.encode(read.at(c, x, y));
                    assertThat(here).isCloseTo(RgbSpace.encode(deep.at(c, x, y)), within(1.1 / most + 2e-3));
                }
            }
        }
    }

    private static Picture picture(String name) throws IOException, RefusedException {
        String path = "/tiff/depth/flower-" + name + ".tif";
        byte[] file = PictureColoursTest.class.getResourceAsStream(path).readAllBytes();
        return (Picture) RenderedPicture.of(file, FileKind.TIFF).capture();
    }

    @ParameterizedTest
    @CsvSource({"rgb-contig-24, 24 bits", "rgb-contig-32, 32 bits", "palette-16, palette"})
    void otherDepthsAreRefusedInWords(String name, String word) {
        assertThatThrownBy(() -> picture(name))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining(word);
    }

    /** XMP and IPTC of JPEG and PNG are the picture's as those of a TIFF are. */
    @Test
    void wordsOfPeopleAreTaken() throws IOException, RefusedException {
        byte[] xmp = text(
                "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                        + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='4'/></rdf:RDF></x:xmpmeta>");
        byte[] iptc = {0x1c, 2, 5, 0, 4, 'T', 'o', 'a', 'd'};
        byte[] resource = joined(
                ByteBuffer.allocate(12)
                        .put(text("8BIM"))
                        .putShort((short) 0x0404)
                        .putShort((short) 0)
                        .putInt(iptc.length)
                        .array(),
                Arrays.copyOf(iptc, iptc.length + 1));
        byte[] other = joined(text("8BIM"), new byte[] {3, (byte) 0xed, 3, 'a', 'b', 'c', 0, 0, 0, 2, 9, 9});
        byte[] jpeg = jpeg(
                segment(0xe1, text("http://ns.adobe.com/xap/1.0/", ""), xmp),
                segment(0xed, text("Photoshop 3.0", ""), joined(other, resource)));
        String hex = java.util.HexFormat.of().formatHex(joined(other, resource));
        byte[] raw = deflated(text("\niptc\n      " + hex.length() / 2 + "\n" + hex + "\n"));
        byte[] png = png(
                chunk("iTXt", joined(text("XML:com.adobe.xmp", ""), joined(new byte[] {1, 0, 0, 0}, deflated(xmp)))),
                chunk("zTXt", joined(text("Raw profile type iptc", ""), joined(new byte[1], raw))));
        for (byte[] file : new byte[][] {jpeg, png}) {
            TiffDirectory main = RenderedPicture.of(file, FileKind.of(file)).main();
            assertThat(Xmp.marks(main.field(Tag.XMP).orElseThrow().bytes()).rating())
                    .isEqualTo(4);
            assertThat(main.field(Tag.IPTC).orElseThrow().bytes()).isEqualTo(iptc);
        }
    }

    /** Files that are no raw file and no picture that is read are called by what they are. */
    @ParameterizedTest
    @CsvSource({
        "'RIFF____WEBPVP8 ', WebP",
        "'RIFF____AVI LIST', moving",
        "'____ftypmp42____', moving",
        "'____ftypheic____', HEIF",
        "'GIF89a__________', GIF",
        "'%PDF-1.7________', PDF",
        "'8BPS____________', layered",
        "'II+_____________', BigTIFF"
    })
    void refusalsNameTheKind(String head, String word) {
        byte[] data = Arrays.copyOf(head.getBytes(StandardCharsets.ISO_8859_1), 4096);
        for (int i = 0; i < head.length(); i++) {
            data[i] = head.charAt(i) == '_' ? 0 : data[i];
        }
        assertThat(FileKind.of(data).refusal()).contains(word);
    }
}
