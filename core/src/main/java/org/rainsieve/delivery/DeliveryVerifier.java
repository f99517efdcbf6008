package org.rainsieve.delivery;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.zip.DataFormatException;
import java.util.zip.Inflater;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import javax.imageio.stream.ImageInputStream;
import org.rainsieve.file.FileBytes;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffReader;

/** Reads a written TIFF or JPEG again before it gets its name: its size, and that every part of it can be decoded. */
public final class DeliveryVerifier {
    private static final String DIFFERS = "The written file is not what was to be written. The disk may be failing.";

    private DeliveryVerifier() {}

    /** @return SHA-256 of the bytes that were read again */
    public static String verify(Path file, DeliverySettings.Form form, int width, int height) throws IOException {
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
            channel.force(true);
        }
        if (form == DeliverySettings.Form.JPEG) {
            jpeg(file, width, height);
        } else {
            tiff(file, width, height);
        }
        return Sha256.of(file);
    }

    private static void jpeg(Path file, int width, int height) throws IOException {
        ImageReader reader = ImageIO.getImageReadersByFormatName("jpeg").next();
        try (ImageInputStream in = ImageIO.createImageInputStream(file.toFile())) {
            reader.setInput(in, true, true);
            var param = reader.getDefaultReadParam();
            // Every block is decoded, though only some pixels are kept.
            param.setSourceSubsampling(16, 16, 0, 0);
            reader.read(0, param);
            if (reader.getWidth(0) != width || reader.getHeight(0) != height) {
                throw new IOException(DIFFERS);
            }
        } catch (RuntimeException e) {
            throw new IOException(DIFFERS, e);
        } finally {
            reader.dispose();
        }
    }

    private static void tiff(Path file, int width, int height) throws IOException {
        try (FileBytes bytes = FileBytes.open(file)) {
            byte[] head = bytes.slice(0, 4);
            if (head[2] == 43) {
                return; // a BigTIFF, whose bytes are compared by their hash alone
            }
            TiffDirectory main = TiffReader.read(bytes, 0).get(0);
            double[] offsets = main.numbers(Tag.STRIP_OFFSETS);
            double[] counts = main.numbers(Tag.STRIP_BYTE_COUNTS);
            long rows = main.number(Tag.ROWS_PER_STRIP, 0);
            boolean deflate = main.number(Tag.COMPRESSION, 1) == Tag.COMPRESSION_DEFLATE;
            if (main.number(Tag.IMAGE_WIDTH, 0) != width
                    || main.number(Tag.IMAGE_LENGTH, 0) != height
                    || rows <= 0
                    || offsets.length != (height + rows - 1) / rows) {
                throw new IOException(DIFFERS);
            }
            for (int i = 0; i < offsets.length; i++) {
                byte[] strip = bytes.slice((long) offsets[i], (int) counts[i]);
                long wanted = 6L * width * Math.min(rows, height - i * rows);
                if (strip.length != counts[i] || wanted != (deflate ? inflated(strip, wanted) : strip.length)) {
                    throw new IOException(DIFFERS);
                }
            }
        } catch (RefusedException e) {
            throw new IOException(DIFFERS, e);
        }
    }

    private static long inflated(byte[] strip, long most) throws IOException {
        Inflater inflater = new Inflater();
        byte[] part = new byte[1 << 16];
        try {
            inflater.setInput(strip);
            long sum = 0;
            while (!inflater.finished() && sum <= most) {
                int n = inflater.inflate(part);
                if (n == 0) {
                    break;
                }
                sum += n;
            }
            return sum;
        } catch (DataFormatException e) {
            throw new IOException(DIFFERS, e);
        } finally {
            inflater.end();
        }
    }
}
