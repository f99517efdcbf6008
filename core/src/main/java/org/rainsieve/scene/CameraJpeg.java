package org.rainsieve.scene;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.util.stream.IntStream;
import javax.imageio.IIOImage;
import javax.imageio.ImageIO;
import javax.imageio.ImageWriteParam;
import javax.imageio.ImageWriter;
import javax.imageio.stream.MemoryCacheImageOutputStream;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.demosaic.Demosaic;
import org.rainsieve.dng.Tag;
import org.rainsieve.dng.TiffDirectory;
import org.rainsieve.dng.TiffField;
import org.rainsieve.dng.TiffType;
import org.rainsieve.dng.TiffWriter;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;

/**
 * What a camera makes of its own mosaic: demosaiced, noise smoothed with a sense of edges, a contrasty tone curve, halos
 * of sharpening, and JPEG. All of it is baked in, as in real ones.
 */
final class CameraJpeg {
    private static final int REACH = 2;
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
        int w = mosaic.width();
        int h = mosaic.height();
        Demosaic demosaic = Demosaic.of(mosaic.pattern(), camera.colour().gains(), null);
        Planes in = new Planes(mosaic.bounds().grow(demosaic.margin()), 1);
        mosaic.fill(in);
        Planes rgb = new Planes(mosaic.bounds(), 3);
        demosaic.interpolate(in, demosaic.decide(in), rgb);
        Matrix3 toSrgb = camera.colour().toLinearSrgb();
        float[][] ycc = new float[3][w * h];
        IntStream.range(0, w * h).parallel().forEach(i -> {
            double[] lit = toSrgb.times(new double[] {
                Math.min(1, rgb.channel(0)[i] * camera.colour().gains()[0])
                        / camera.colour().gains()[0],
                rgb.channel(1)[i],
                Math.min(1, rgb.channel(2)[i] * camera.colour().gains()[2])
                        / camera.colour().gains()[2]
            });
            double r = curve(lit[0]);
            double g = curve(lit[1]);
            double b = curve(lit[2]);
            // ITU-R BT.601 luma and colour differences.
            ycc[0][i] = (float) (0.299 * r + 0.587 * g + 0.114 * b);
            ycc[1][i] = (float) (b - ycc[0][i]);
            ycc[2][i] = (float) (r - ycc[0][i]);
        });
        double strength = Math.min(0.4, 0.05 * Math.sqrt(iso / 200.0));
        ycc[0] = smoothed(ycc[0], ycc[0], w, h, strength, 1);
        for (int pass = 0; pass < 2; pass++) {
            ycc[1] = smoothed(ycc[1], ycc[0], w, h, 3 * strength, 1 + pass);
            ycc[2] = smoothed(ycc[2], ycc[0], w, h, 3 * strength, 1 + pass);
        }
        return withTags(compressed(sharpened(ycc, w, h), quality), jpegTags(tags, w, h));
    }

    /** The camera's own rendering: sRGB with lifted middle tones and a shoulder. */
    private static double curve(double linear) {
        double v = Math.max(0, linear);
        double shoulder = v * (1 + v * 0.3) / (1 + 0.55 * v) * 1.19;
        double s = RgbSpace.encode(Math.min(1, shoulder));
        return s + 0.10 * Math.sin(2 * Math.PI * (s - 0.5)) * 0.5;
    }

    /** A weighted mean over 5×5 places, less weight the more the guide differs (Tomasi, Manduchi 1998). */
    private static float[] smoothed(float[] in, float[] guide, int w, int h, double difference, int apart) {
        float[] out = new float[in.length];
        float inverse = (float) (1 / (2 * difference * difference));
        IntStream.range(0, h).parallel().forEach(y -> {
            for (int x = 0; x < w; x++) {
                int i = y * w + x;
                float sum = 0;
                float weights = 0;
                for (int dy = -REACH; dy <= REACH; dy++) {
                    int row = Math.min(Math.max(y + dy * apart, 0), h - 1) * w;
                    for (int dx = -REACH; dx <= REACH; dx++) {
                        int j = row + Math.min(Math.max(x + dx * apart, 0), w - 1);
                        float d = guide[j] - guide[i];
                        float weight = 1 / (1 + d * d * inverse * 4);
                        sum += weight * in[j];
                        weights += weight;
                    }
                }
                out[i] = sum / weights;
            }
        });
        return out;
    }

    private static BufferedImage sharpened(float[][] ycc, int w, int h) {
        BufferedImage image = new BufferedImage(w, h, BufferedImage.TYPE_INT_RGB);
        int[] pixels = new int[w * h];
        IntStream.range(0, h).parallel().forEach(y -> {
            for (int x = 0; x < w; x++) {
                int i = y * w + x;
                float around = 0;
                for (int k = 0; k < 9; k++) {
                    int j = Math.min(Math.max(y + k / 3 - 1, 0), h - 1) * w
                            + Math.min(Math.max(x + k % 3 - 1, 0), w - 1);
                    around += ycc[0][j] / 9;
                }
                float luma = ycc[0][i] + 0.9f * (ycc[0][i] - around);
                float r = luma + ycc[2][i];
                float b = luma + ycc[1][i];
                float g = (luma - 0.299f * r - 0.114f * b) / 0.587f;
                pixels[i] = eight(r) << 16 | eight(g) << 8 | eight(b);
            }
        });
        image.setRGB(0, 0, w, h, pixels, 0, w);
        return image;
    }

    private static int eight(float value) {
        return Math.round(Math.max(0, Math.min(1, value)) * 255);
    }

    private static byte[] compressed(BufferedImage image, float quality) {
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
