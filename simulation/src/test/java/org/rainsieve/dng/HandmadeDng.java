package org.rainsieve.dng;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.List;
import java.util.zip.Deflater;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.tiff.TiffWriter;

/** DNG files of kinds that the application does not write: put together by hand from the specification. */
public final class HandmadeDng {
    private HandmadeDng() {}

    /** A file of one strip, or one tile where the directory has its size; structure and samples as told. */
    public static byte[] of(TiffDirectory main, ByteOrder order, byte[] strip) {
        if (!main.has(Tag.TILE_WIDTH)) {
            main.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, main.number(Tag.IMAGE_LENGTH, 0)));
        }
        return of(main, order, List.of(strip));
    }

    /** A file of several strips or tiles. */
    public static byte[] of(TiffDirectory main, ByteOrder order, List<byte[]> parts) {
        return of(main, main, order, parts);
    }

    /** The same where the picture's directory is another one below the main one. */
    public static byte[] of(TiffDirectory main, TiffDirectory picture, ByteOrder order, List<byte[]> parts) {
        main.put(TiffField.ofBytes(Tag.DNG_VERSION, TiffType.BYTE, new byte[] {1, 4, 0, 0}));
        main.put(TiffField.ofBytes(Tag.DNG_BACKWARD_VERSION, TiffType.BYTE, new byte[] {1, 4, 0, 0}));
        picture.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 0));
        ByteArrayOutputStream body = new ByteArrayOutputStream();
        long[] offsets = new long[parts.size()];
        long[] counts = new long[parts.size()];
        for (int i = 0; i < offsets.length; i++) {
            offsets[i] = 8 + body.size();
            counts[i] = parts.get(i).length;
            body.writeBytes(parts.get(i));
            body.writeBytes(new byte[body.size() & 1]);
        }
        boolean tiles = picture.has(Tag.TILE_WIDTH);
        picture.put(TiffField.ofLongs(tiles ? Tag.TILE_OFFSETS : Tag.STRIP_OFFSETS, offsets));
        picture.put(TiffField.ofLongs(tiles ? Tag.TILE_BYTE_COUNTS : Tag.STRIP_BYTE_COUNTS, counts));
        TiffWriter.Layout layout = TiffWriter.layOut(8 + body.size(), main, order);
        ByteArrayOutputStream file = new ByteArrayOutputStream();
        file.writeBytes(TiffWriter.header(order, layout.firstDirectory()));
        file.writeBytes(body.toByteArray());
        file.writeBytes(layout.bytes());
        return file.toByteArray();
    }

    public static byte[] deflated(byte[] bytes) {
        Deflater deflater = new Deflater();
        deflater.setInput(bytes);
        deflater.finish();
        byte[] out = new byte[bytes.length + 1024];
        int length = deflater.deflate(out);
        deflater.end();
        return java.util.Arrays.copyOf(out, length);
    }

    /** Samples as floating point of 16, 24 or 32 bits; only values that 16 bits hold exactly are the same in all. */
    public static byte[] floats(float[] values, int bits, ByteOrder order) {
        byte[] out = new byte[values.length * bits / 8];
        for (int i = 0; i < values.length; i++) {
            int single = Float.floatToIntBits(values[i]);
            int sign = single >>> 31;
            int exponent = (single >> 23 & 255) - 127;
            int fraction = single & 0x7fffff;
            boolean zero = values[i] == 0;
            int packed = switch (bits) {
                case 16 -> zero ? 0 : sign << 15 | exponent + 15 << 10 | fraction >> 13;
                case 24 -> zero ? 0 : sign << 23 | exponent + 64 << 16 | fraction >> 7;
                default -> single;
            };
            int bytes = bits / 8;
            for (int b = 0; b < bytes; b++) {
                int shift = order == ByteOrder.BIG_ENDIAN ? 8 * (bytes - 1 - b) : 8 * b;
                out[i * bytes + b] = (byte) (packed >> shift);
            }
        }
        return out;
    }

    /** TIFF technical note 3: bytes of a row from the highest of all samples to the lowest, then differences. */
    public static byte[] floatPredicted(byte[] bigEndian, int rowBytes, int bytes, int stride) {
        byte[] out = new byte[bigEndian.length];
        int samples = rowBytes / bytes;
        for (int from = 0; from < out.length; from += rowBytes) {
            for (int i = 0; i < samples; i++) {
                for (int b = 0; b < bytes; b++) {
                    out[from + b * samples + i] = bigEndian[from + i * bytes + b];
                }
            }
            for (int i = rowBytes - 1; i >= stride; i--) {
                out[from + i] -= out[from + i - stride];
            }
        }
        return out;
    }

    /** TIFF 6.0, section 14, on 16 bits. */
    public static byte[] differences(byte[] samples, int rowBytes, int stride, ByteOrder order) {
        ByteBuffer in = ByteBuffer.wrap(samples).order(order);
        ByteBuffer out = ByteBuffer.allocate(samples.length).order(order);
        for (int i = 0; i < samples.length; i += 2) {
            int before = i % rowBytes >= 2 * stride ? in.getShort(i - 2 * stride) : 0;
            out.putShort(i, (short) (in.getShort(i) - before));
        }
        return out.array();
    }
}
