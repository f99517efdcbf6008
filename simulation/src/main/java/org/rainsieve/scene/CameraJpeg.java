package org.rainsieve.scene;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import javax.imageio.stream.MemoryCacheImageOutputStream;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.tiff.TiffWriter;

/** A camera's own JPEG of its mosaic: its {@link CameraRendering}, compressed, with its tags. */
public final class CameraJpeg {
    private static final int X_RESOLUTION = 282;
    private static final int Y_RESOLUTION = 283;
    private static final int RESOLUTION_UNIT = 296;
    private static final int YCBCR_POSITIONING = 531;
    private static final int COMPONENTS_CONFIGURATION = 0x9101;
    private static final int FLASHPIX_VERSION = 0xa000;
    private static final int COLOUR_SPACE = 0xa001;
    private static final int EXIF_WIDTH = 0xa002;
    private static final int EXIF_HEIGHT = 0xa003;

    private CameraJpeg() {}

    /** @param tags main directory with EXIF; it goes into the file */
    static byte[] of(Mosaic mosaic, SimulatedCamera camera, int iso, TiffDirectory tags, float quality) {
        Planes in = new Planes(mosaic.bounds().grow(CameraRendering.MARGIN), 1);
        mosaic.fill(in);
        double strength = Math.min(0.4, 0.05 * Math.sqrt(iso / 200.0));
        float[][] rgb = new CameraRendering(strength, 0.9f, true)
                .render(
                        in,
                        mosaic.bounds(),
                        mosaic.pattern(),
                        camera.colour().gains(),
                        camera.colour().toLinearSrgb());
        int w = mosaic.width();
        int h = mosaic.height();
        return withTags(compressed(rgb, w, h, quality), jpegTags(tags, w, h));
    }

    /**
     * @param rgb planes of display values
     * @param quality 0 to 1
     */
    public static byte[] compressed(float[][] rgb, int width, int height, float quality) {
        BufferedImage image = CameraRendering.image(rgb, width, height);
        ImageWriter writer = ImageIO.getImageWritersByFormatName("jpeg").next();
        ImageWriteParam param = writer.getDefaultWriteParam();
        param.setCompressionMode(ImageWriteParam.MODE_EXPLICIT);
        param.setCompressionQuality(quality);
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (MemoryCacheImageOutputStream out = new MemoryCacheImageOutputStream(bytes)) {
            writer.setOutput(out);
            writer.write(null, new IIOImage(image, null, null), param);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } finally {
            writer.dispose();
        }
        return bytes.toByteArray();
    }

    /** What a JPEG carries of a camera's tags, and what Exif 2.32 asks of it besides (table 4 and 7). */
    private static TiffDirectory jpegTags(TiffDirectory raw, int width, int height) {
        TiffDirectory main = new TiffDirectory();
        for (int tag : new int[] {Tag.MAKE, Tag.MODEL, Tag.SOFTWARE, Tag.ORIENTATION, Tag.DATE_TIME}) {
            raw.field(tag).ifPresent(main::put);
        }
        main.put(TiffField.ofRationals(X_RESOLUTION, TiffType.RATIONAL, 1, 72));
        main.put(TiffField.ofRationals(Y_RESOLUTION, TiffType.RATIONAL, 1, 72));
        main.put(TiffField.ofShorts(RESOLUTION_UNIT, 2));
        main.put(TiffField.ofShorts(YCBCR_POSITIONING, 1));
        TiffDirectory exif = new TiffDirectory();
        raw.exif().ifPresent(own -> own.fields().forEach(exif::put));
        exif.put(TiffField.ofBytes(COMPONENTS_CONFIGURATION, TiffType.UNDEFINED, new byte[] {1, 2, 3, 0}));
        exif.put(TiffField.ofBytes(FLASHPIX_VERSION, TiffType.UNDEFINED, "0100".getBytes(StandardCharsets.US_ASCII)));
        exif.put(TiffField.ofShorts(COLOUR_SPACE, 1));
        exif.put(TiffField.ofLongs(EXIF_WIDTH, width));
        exif.put(TiffField.ofLongs(EXIF_HEIGHT, height));
        main.setExif(exif);
        raw.gps().ifPresent(main::setGps);
        return main;
    }

    /** Puts the EXIF segment (APP1, Exif 2.32 section 4.7.2) where it belongs: right after the start marker. */
    private static byte[] withTags(byte[] jpeg, TiffDirectory tags) {
        TiffWriter.Layout layout = TiffWriter.layOut(8, tags, ByteOrder.LITTLE_ENDIAN);
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        int length = 2 + 6 + 8 + layout.bytes().length;
        out.write(0xff);
        out.write(0xd8);
        out.write(0xff);
        out.write(0xe1);
        out.write(length >> 8);
        out.write(length);
        out.writeBytes("Exif\0\0".getBytes(StandardCharsets.US_ASCII));
        out.writeBytes(TiffWriter.header(ByteOrder.LITTLE_ENDIAN, layout.firstDirectory()));
        out.writeBytes(layout.bytes());
        out.write(jpeg, 2, jpeg.length - 2);
        return out.toByteArray();
    }
}
