package org.rainsieve.pipeline;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.function.Consumer;
import java.util.zip.Adler32;
import java.util.zip.CRC32;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import javax.imageio.stream.MemoryCacheImageOutputStream;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.colour.ViewRendering;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.PlanesSource;
import org.rainsieve.frame.Region;
import org.rainsieve.optics.OpticsSettings;

/** A picture reduced by averaging whole blocks, gathered while its parts go by, and rendered for looking at. */
public final class ReducedPicture {
    /** Bytes in a stored block of a zlib stream. */
    private static final int MOST_STORED = 65535;

    private final int factor;
    /** The part of the picture that is gathered. */
    private final Region shown;

    private final Planes sums;
    private final int width;
    private final int height;

    /** @param longEdgePx the reduced picture's long edge at most */
    public ReducedPicture(int width, int height, int longEdgePx) {
        this(new Region(0, 0, width, height), longEdgePx);
    }

    /** Of a part of a picture alone. */
    ReducedPicture(Region shown, int longEdgePx) {
        this.shown = shown;
        factor = factor(shown.width(), shown.height(), longEdgePx);
        this.width = Math.max(1, shown.width() / factor);
        this.height = Math.max(1, shown.height() / factor);
        sums = new Planes(new Region(0, 0, this.width, this.height), 3);
    }

    /** By how much a picture is reduced so that its long edge has at most so many pixels. */
    static int factor(int width, int height, int longEdgePx) {
        return Math.max(1, (Math.max(width, height) + longEdgePx - 1) / longEdgePx);
    }

    public int width() {
        return width;
    }

    public int height() {
        return height;
    }

    /** Adds linear pixels of a part of the picture; parts must not overlap and may come from several threads. */
    public synchronized void add(Planes part) {
        float share = 1f / (factor * factor);
        Region r = part.region()
                .intersect(new Region(shown.x(), shown.y(), width * factor, height * factor))
                .intersect(shown);
        for (int c = 0; c < 3; c++) {
            float[] of = part.channel(c);
            float[] to = sums.channel(c);
            for (int y = r.y(); y < r.bottom(); y++) {
                int cell = (y - shown.y()) / factor * width + (r.x() - shown.x()) / factor;
                int from = part.index(0, y);
                for (int x = r.x(); x < r.right(); cell++) {
                    int end = Math.min(r.right(), shown.x() + ((x - shown.x()) / factor + 1) * factor);
                    float sum = 0;
                    for (; x < end; x++) {
                        sum += of[from + x];
                    }
                    to[cell] += sum * share;
                }
            }
        }
    }

    /** The reduced picture through optics and crop, which mean the same at every size. */
    public ReducedPicture through(OpticsSettings optics, CropSettings crop) {
        GeometryStep step = new GeometryStep(new PlanesSource(sums), optics, crop);
        Planes shaped = new Planes(step.bounds(), 3);
        step.fill(shaped);
        return new ReducedPicture(shaped);
    }

    /**
     * Laid over a frame of another size, which is reduced alike.
     *
     * @param ownWidth of the picture before it was reduced, in px
     * @param frameWidth of the frame, in px
     */
    ReducedPicture over(int ownWidth, int ownHeight, int frameWidth, int frameHeight) {
        int by = factor(frameWidth, frameHeight, Math.max(width, height));
        double scale = LaidOver.scale(ownWidth, ownHeight, frameWidth, frameHeight) * ownWidth / width / by;
        LaidOver laid = new LaidOver(
                new PlanesSource(sums), Math.max(1, frameWidth / by), Math.max(1, frameHeight / by), scale);
        Planes out = new Planes(laid.bounds(), 3);
        laid.fill(out);
        return new ReducedPicture(out);
    }

    ReducedPicture(Planes reduced) {
        factor = 1;
        shown = reduced.region();
        width = reduced.region().width();
        height = reduced.region().height();
        sums = reduced;
    }

    /** Interleaved sRGB bytes. */
    public byte[] render(CameraColour colour) {
        return render(colour, ViewLook.PLAIN);
    }

    /** The same, as the view is set. */
    public byte[] render(CameraColour colour, ViewLook look) {
        return new ViewRendering(colour, look).render(sums);
    }

    public static byte[] jpeg(byte[] rgb, int width, int height, float quality) {
        ImageWriter writer = ImageIO.getImageWritersByFormatName("jpeg").next();
        try (ByteArrayOutputStream out = new ByteArrayOutputStream();
                MemoryCacheImageOutputStream stream = new MemoryCacheImageOutputStream(out)) {
            writer.setOutput(stream);
            ImageWriteParam param = writer.getDefaultWriteParam();
            param.setCompressionMode(ImageWriteParam.MODE_EXPLICIT);
            param.setCompressionQuality(quality);
            writer.write(null, new IIOImage(image(rgb, width, height), null, null), param);
            stream.flush();
            return out.toByteArray();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } finally {
            writer.dispose();
        }
    }

    /**
     * PNG (ISO/IEC 15948) with its pixels stored as they are: what is looked at is looked at soon, and noise hardly gets smaller
     * by compression. Packing took four times as long as making the picture.
     */
    public static byte[] png(byte[] rgb, int width, int height) {
        byte[] rows = new byte[height * (1 + 3 * width)];
        for (int y = 0; y < height; y++) {
            // Each row begins with its filter type, 0 for none.
            System.arraycopy(rgb, y * 3 * width, rows, y * (1 + 3 * width) + 1, 3 * width);
        }
        ByteBuffer out = ByteBuffer.allocate(rows.length + rows.length / MOST_STORED * 5 + 200);
        out.putLong(0x89504E470D0A1A0AL);
        ByteBuffer head = ByteBuffer.allocate(13).putInt(width).putInt(height);
        head.put(new byte[] {8, 2, 0, 0, 0}); // 8 bits, RGB
        chunk(out, "IHDR", to -> to.put(head.array()));
        chunk(out, "IDAT", to -> store(rows, to));
        chunk(out, "IEND", to -> {});
        return Arrays.copyOf(out.array(), out.position());
    }

    /** A zlib stream (RFC 1950) of stored blocks (RFC 1951, 3.2.4). */
    private static void store(byte[] data, ByteBuffer to) {
        to.put((byte) 0x78).put((byte) 0x01);
        for (int from = 0; from < data.length; from += MOST_STORED) {
            int length = Math.min(MOST_STORED, data.length - from);
            to.put((byte) (from + length == data.length ? 1 : 0));
            to.put((byte) length).put((byte) (length >> 8));
            to.put((byte) ~length).put((byte) (~length >> 8));
            to.put(data, from, length);
        }
        Adler32 sum = new Adler32();
        sum.update(data);
        to.putInt((int) sum.getValue());
    }

    private static void chunk(ByteBuffer out, String type, Consumer<ByteBuffer> data) {
        int length = out.position();
        out.putInt(0);
        int from = out.position();
        out.put(type.getBytes(StandardCharsets.US_ASCII));
        data.accept(out);
        out.putInt(length, out.position() - from - 4);
        CRC32 crc = new CRC32();
        crc.update(out.array(), from, out.position() - from);
        out.putInt((int) crc.getValue());
    }

    private static BufferedImage image(byte[] rgb, int width, int height) {
        BufferedImage image = new BufferedImage(width, height, BufferedImage.TYPE_INT_RGB);
        int[] pixels = new int[width * height];
        for (int i = 0; i < pixels.length; i++) {
            pixels[i] = (rgb[3 * i] & 255) << 16 | (rgb[3 * i + 1] & 255) << 8 | rgb[3 * i + 2] & 255;
        }
        image.setRGB(0, 0, width, height, pixels, 0, width);
        return image;
    }
}
