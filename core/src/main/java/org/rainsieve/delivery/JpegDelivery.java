package org.rainsieve.delivery;

import java.awt.image.BufferedImage;
import java.awt.image.DataBufferByte;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Arrays;
import java.util.Comparator;
import java.util.Optional;
import java.util.stream.Stream;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import javax.imageio.stream.ImageOutputStream;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffWriter;
import org.rainsieve.xmp.Xmp;

/** Writes baseline JPEGs with their profile and resolution (JFIF 1.02; ICC.1:2010, annex B.4). */
final class JpegDelivery {
    private static final int ROWS = 64;
    private static final int LARGEST_SIDE = 65_500;
    private static final int LEAST_QUALITY = 20;
    private static final int LONGEST_SEGMENT = 65_535;
    private static final int APP1 = 0xe1;
    private static final int APP2 = 0xe2;
    private static final int APP13 = 0xed;
    private static final int IPTC_RESOURCE = 0x0404;
    private static final String XMP_HEAD = "http://ns.adobe.com/xap/1.0/\0";
    private static final String EXTENSION_HEAD = "http://ns.adobe.com/xmp/extension/\0";
    private static final int EXTENSION_PART = 65_400;
    /** What an APP2 segment holds of a profile: its length is 16 bits, less its own bytes. */
    private static final int PROFILE_PART = 65_519;

    private JpegDelivery() {}

    static void write(Delivered picture, DeliverySettings settings, byte[] icc, TiffDirectory tags, Path file)
            throws IOException {
        int width = picture.width();
        int height = picture.height();
        if (Math.max(width, height) > LARGEST_SIDE || (long) width * height > 600_000_000L) {
            throw new IOException("A JPEG holds at most " + LARGEST_SIDE
                    + " px on a side and 600 megapixels. Give a long edge, or deliver a TIFF.");
        }
        BufferedImage image = new BufferedImage(width, height, BufferedImage.TYPE_3BYTE_BGR);
        byte[] pixels = ((DataBufferByte) image.getRaster().getDataBuffer()).getData();
        for (int y = 0; y < height; y += ROWS) {
            float[] rows = picture.rows(y, Math.min(ROWS, height - y));
            for (int i = 0; i < rows.length; i += 3) {
                int to = 3 * y * width + i;
                pixels[to] = (byte) Math.round(255 * rows[i + 2]);
                pixels[to + 1] = (byte) Math.round(255 * rows[i + 1]);
                pixels[to + 2] = (byte) Math.round(255 * rows[i]);
            }
        }
        byte[] packet = tags.field(Tag.XMP).map(TiffField::bytes).orElse(new byte[0]);
        tags.remove(Tag.XMP);
        byte[] iptc = tags.field(Tag.IPTC).map(JpegDelivery::iptc).orElse(new byte[0]);
        tags.remove(Tag.IPTC);
        ByteArrayOutputStream segments = new ByteArrayOutputStream();
        segments.writeBytes(exif(tags));
        segments.writeBytes(xmp(packet));
        segments.writeBytes(iptc);
        segments.writeBytes(profileSegments(icc));
        long along = segments.size();
        long most = settings.mostKilobytes() == 0 ? Long.MAX_VALUE : 1000L * settings.mostKilobytes() - along;
        int quality = settings.qualityPercent();
        byte[] jpeg = compressed(image, quality);
        if (jpeg.length > most) {
            // The best quality that stays below, by halving.
            int low = LEAST_QUALITY;
            int high = quality;
            byte[] fitting = null;
            while (low < high) {
                int middle = (low + high) / 2;
                byte[] tried = compressed(image, middle);
                if (tried.length <= most) {
                    fitting = tried;
                    low = middle + 1;
                } else {
                    high = middle;
                }
            }
            if (fitting == null) {
                throw new IOException("Even at quality " + LEAST_QUALITY + " this picture takes more than "
                        + settings.mostKilobytes() + " kB. Give a shorter long edge, or allow more.");
            }
            jpeg = fitting;
        }
        try (var out = Files.newOutputStream(file, StandardOpenOption.CREATE_NEW)) {
            int afterHead = withPpi(jpeg, settings.ppi());
            out.write(jpeg, 0, afterHead);
            segments.writeTo(out);
            out.write(jpeg, afterHead, jpeg.length - afterHead);
        }
    }

    private static byte[] compressed(BufferedImage image, int quality) throws IOException {
        ImageWriter writer = ImageIO.getImageWritersByFormatName("jpeg").next();
        ImageWriteParam param = writer.getDefaultWriteParam();
        param.setCompressionMode(ImageWriteParam.MODE_EXPLICIT);
        param.setCompressionQuality(quality / 100f);
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (ImageOutputStream out = ImageIO.createImageOutputStream(bytes)) {
            writer.setOutput(out);
            writer.write(null, new IIOImage(image, null, null), param);
        } finally {
            writer.dispose();
        }
        return bytes.toByteArray();
    }

    /** Sets the resolution in the JFIF segment, which follows the start marker. @return where that segment ends */
    private static int withPpi(byte[] jpeg, double ppi) {
        int head = 4 + ((jpeg[4] & 0xff) << 8 | jpeg[5] & 0xff);
        int density = (int) Math.round(ppi);
        jpeg[13] = 1;
        for (int i = 14; i <= 16; i += 2) {
            jpeg[i] = (byte) (density >> 8);
            jpeg[i + 1] = (byte) density;
        }
        return head;
    }

    /** A marker segment (ITU-T T.81, annex B.1.1.4); nothing when it is too long for one. */
    private static byte[] segment(int marker, byte[]... content) {
        int length = 2;
        for (byte[] part : content) {
            length += part.length;
        }
        if (length > LONGEST_SEGMENT) {
            return new byte[0];
        }
        ByteArrayOutputStream out = new ByteArrayOutputStream(length + 2);
        out.write(0xff);
        out.write(marker);
        out.write(length >> 8);
        out.write(length);
        for (byte[] part : content) {
            out.writeBytes(part);
        }
        return out.toByteArray();
    }

    private static byte[] ascii(String text) {
        return text.getBytes(StandardCharsets.US_ASCII);
    }

    /**
     * The tags that go along as EXIF 2.3 has them in JPEGs. A segment ends at 64 KiB: what is largest stays behind, such as a
     * maker's note of pictures, until the rest fits.
     */
    private static byte[] exif(TiffDirectory tags) {
        while (true) {
            TiffWriter.Layout layout = TiffWriter.layOut(8, tags, ByteOrder.LITTLE_ENDIAN);
            byte[] header = TiffWriter.header(ByteOrder.LITTLE_ENDIAN, layout.firstDirectory());
            byte[] segment = segment(APP1, ascii("Exif\0\0"), header, layout.bytes());
            if (segment.length > 0) {
                return segment;
            }
            TiffDirectory holder = tags;
            TiffField largest = largest(tags);
            for (TiffDirectory below :
                    Stream.of(tags.exif(), tags.gps()).flatMap(Optional::stream).toList()) {
                TiffField field = largest(below);
                if (field.bytes().length > largest.bytes().length) {
                    holder = below;
                    largest = field;
                }
            }
            holder.remove(largest.tag());
        }
    }

    private static TiffField largest(TiffDirectory directory) {
        return directory.fields().stream()
                .max(Comparator.comparingInt(field -> field.bytes().length))
                .orElse(TiffField.ofShorts(0));
    }

    /** XMP specification, part 3, sections 1.1.3 and 1.1.3.1: one segment, and what does not fit in others that it names. */
    private static byte[] xmp(byte[] packet) {
        if (packet.length == 0) {
            return packet;
        }
        Xmp.Parts parts = Xmp.split(packet, LONGEST_SEGMENT - 2 - XMP_HEAD.length());
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        out.writeBytes(segment(APP1, ascii(XMP_HEAD), parts.packet()));
        for (int from = 0; from < parts.extension().length; from += EXTENSION_PART) {
            byte[] piece = Arrays.copyOfRange(
                    parts.extension(), from, Math.min(parts.extension().length, from + EXTENSION_PART));
            byte[] place = ByteBuffer.allocate(8)
                    .putInt(parts.extension().length)
                    .putInt(from)
                    .array();
            out.writeBytes(segment(APP1, ascii(EXTENSION_HEAD + parts.guid()), place, piece));
        }
        return out.toByteArray();
    }

    /** An image resource of number 1028 in APP13, as programs look for it (common practice). */
    private static byte[] iptc(TiffField block) {
        byte[] content = block.bytes();
        byte[] head = ByteBuffer.allocate(12)
                .put(ascii("8BIM"))
                .putShort((short) IPTC_RESOURCE)
                .putShort((short) 0) // no name
                .putInt(content.length)
                .array();
        return segment(APP13, ascii("Photoshop 3.0\0"), head, content, new byte[content.length & 1]);
    }

    private static byte[] profileSegments(byte[] profile) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        int parts = (profile.length + PROFILE_PART - 1) / PROFILE_PART;
        for (int part = 0; part < parts; part++) {
            int from = part * PROFILE_PART;
            byte[] place = {(byte) (part + 1), (byte) parts};
            byte[] piece = Arrays.copyOfRange(profile, from, Math.min(profile.length, from + PROFILE_PART));
            out.writeBytes(segment(APP2, ascii("ICC_PROFILE\0"), place, piece));
        }
        return out.toByteArray();
    }
}
