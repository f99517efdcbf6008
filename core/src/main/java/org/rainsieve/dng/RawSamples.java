package org.rainsieve.dng;

import java.awt.image.Raster;
import java.io.IOException;
import java.util.Arrays;
import java.util.stream.IntStream;
import java.util.zip.DataFormatException;
import java.util.zip.Inflater;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import javax.imageio.stream.ImageInputStream;
import org.rainsieve.file.BoundedInput;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.jpeg.LosslessJpegDecoder;
import org.rainsieve.opcode.OpcodeList;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;

/**
 * Unpacks the samples of a picture in strips or tiles (TIFF 6.0; DNG specification 1.4): plain, lossless or lossy JPEG,
 * deflate with a predictor; whole numbers, or floating point laid into 16 bits.
 */
final class RawSamples {
    private final byte[] data;
    private final TiffDirectory raw;
    private final int perPixel;
    private final boolean floats;

    private RawSamples(byte[] data, TiffDirectory raw, int perPixel) {
        this.data = data;
        this.raw = raw;
        this.perPixel = perPixel;
        this.floats = hasFloats(raw);
    }

    static boolean hasFloats(TiffDirectory raw) {
        return raw.number(Tag.SAMPLE_FORMAT, 1) == 3;
    }

    /** Why samples of that form are not read; empty where they are. */
    static String refusal(TiffDirectory raw, int bits) {
        long format = raw.number(Tag.SAMPLE_FORMAT, 1);
        boolean known =
                format == 1 && bits >= 8 && bits <= 16 || format == 3 && (bits == 16 || bits == 24 || bits == 32);
        return known
                ? ""
                : "Its samples have " + bits + " bits" + (format == 3 ? " of floating point" : "")
                        + "; whole numbers of 8 to 16 bits and floating point of 16, 24 or 32 are read.";
    }

    /**
     * Samples as they are stored; floating point with 0 at {@link OpcodeList#BLACK} and the white level at {@link
     * OpcodeList#WHITE}.
     *
     * @param perPixel samples of a pixel, which lie side by side in what is given back
     */
    static short[] of(byte[] data, TiffDirectory raw, int pictureWidth, int height, int bits, int perPixel)
            throws RefusedException {
        return new RawSamples(data, raw, perPixel).read(pictureWidth * perPixel, height, bits, 0);
    }

    /** The same of one of several planes that lie one after another (PlanarConfiguration 2), each in parts of its own. */
    static short[] ofPlane(byte[] data, TiffDirectory raw, int width, int height, int bits, int plane)
            throws RefusedException {
        return new RawSamples(data, raw, 1).read(width, height, bits, plane);
    }

    private short[] read(int width, int height, int bits, int plane) throws RefusedException {
        boolean tiled = raw.has(Tag.TILE_WIDTH);
        int tileWidth = tiled ? (int) Math.min(65535, raw.number(Tag.TILE_WIDTH, 0)) * perPixel : width;
        int tileHeight = (int) Math.min(
                tiled ? raw.number(Tag.TILE_LENGTH, 0) : raw.number(Tag.ROWS_PER_STRIP, height),
                tiled ? 65535 : height);
        double[] offsets = raw.numbers(tiled ? Tag.TILE_OFFSETS : Tag.STRIP_OFFSETS);
        double[] counts = raw.numbers(tiled ? Tag.TILE_BYTE_COUNTS : Tag.STRIP_BYTE_COUNTS);
        if (tileWidth < 1 || tileHeight < 1) {
            throw new RefusedException("The picture's tiles have no size: the file is damaged.");
        }
        int across = (width + tileWidth - 1) / tileWidth;
        int down = (height + tileHeight - 1) / tileHeight;
        int parts = across * down;
        int first = plane * parts;
        if (offsets.length < (long) first + parts || counts.length < (long) first + parts) {
            throw new RefusedException("The picture's list of parts is too short: the file is damaged.");
        }
        long compression = raw.number(Tag.COMPRESSION, 1);
        boolean lossy = compression == Tag.COMPRESSION_LOSSY_JPEG && bits == 8;
        boolean deflate = compression == Tag.COMPRESSION_DEFLATE || compression == Tag.COMPRESSION_DEFLATE_OLD;
        boolean plain = compression == Tag.COMPRESSION_NONE;
        if (!plain && !deflate && !lossy && (compression != Tag.COMPRESSION_LOSSLESS_JPEG || floats)) {
            if (compression == Tag.COMPRESSION_JPEG_XL) {
                throw new RefusedException("The picture is compressed as JPEG XL, which is not read.");
            }
            throw new RefusedException(
                    "The picture is compressed in a way that is not read yet (TIFF compression " + compression + ").");
        }
        for (int i = first; i < first + parts; i++) {
            if (!(offsets[i] > 0 && counts[i] > 0 && offsets[i] + counts[i] <= data.length)) {
                throw new RefusedException("Part of the picture lies outside the file: the file is cut short.");
            }
        }
        Predictor predictor = plain || deflate ? Predictor.of(raw, perPixel, bits) : null;
        short[] samples = new short[width * height];
        RefusedException[] failure = new RefusedException[1];
        IntStream.range(0, parts).parallel().forEach(i -> {
            int from = (int) offsets[first + i];
            int length = (int) counts[first + i];
            Region tile = new Region(i % across * tileWidth, i / across * tileHeight, tileWidth, tileHeight);
            try {
                if (plain || deflate) {
                    int rows = tiled ? tileHeight : Math.min(tileHeight, height - tile.y());
                    int rowBytes = (tileWidth * bits + 7) / 8;
                    byte[] rest = plain
                            ? stored(from, length, (long) rowBytes * rows)
                            : inflated(from, length, (long) rowBytes * rows);
                    boolean big = predictor.undo(rest, rowBytes, data[0] == 'M');
                    unpack(rest, rowBytes, big, bits, tile, samples, width, height);
                } else if (lossy) {
                    decompressLossy(from, length, tile, samples, width, height);
                } else {
                    decompress(from, length, tile, samples, width, height);
                }
            } catch (RefusedException e) {
                failure[0] = e;
            }
        });
        if (failure[0] != null) {
            throw failure[0];
        }
        return samples;
    }

    private byte[] stored(int from, int length, long needed) throws RefusedException {
        if (needed > length) {
            throw new RefusedException("Part of the picture is shorter than its size says: the file is cut short.");
        }
        return Arrays.copyOfRange(data, from, from + (int) needed);
    }

    /** No more is ever unpacked than the tile has room for. */
    private byte[] inflated(int from, int length, long needed) throws RefusedException {
        Inflater inflater = new Inflater();
        try {
            inflater.setInput(data, from, length);
            byte[] out = new byte[Math.toIntExact(needed)];
            int filled = 0;
            while (filled < out.length) {
                int n = inflater.inflate(out, filled, out.length - filled);
                if (n == 0) {
                    throw new RefusedException(
                            "A compressed part of the picture is smaller than its tile: the file is damaged.");
                }
                filled += n;
            }
            return out;
        } catch (DataFormatException | ArithmeticException e) {
            throw new RefusedException("A compressed part of the picture is damaged.", e);
        } finally {
            inflater.end();
        }
    }

    private void unpack(
            byte[] from, int rowBytes, boolean big, int bits, Region tile, short[] samples, int width, int height) {
        float white = (float) raw.real(Tag.WHITE_LEVEL, 1);
        for (int y = 0; y < Math.min(from.length / rowBytes, height - tile.y()); y++) {
            int at = y * rowBytes;
            int to = (tile.y() + y) * width + tile.x();
            int count = Math.min(tile.width(), width - tile.x());
            if (floats) {
                for (int x = 0; x < count; x++) {
                    float value = FloatingPoint.read(from, at + x * bits / 8, bits, big) / white;
                    samples[to + x] = OpcodeList.linear(value);
                }
            } else if (bits == 16) {
                for (int x = 0; x < count; x++) {
                    int first = from[at + 2 * x] & 0xff;
                    int second = from[at + 2 * x + 1] & 0xff;
                    samples[to + x] = (short) (big ? first << 8 | second : second << 8 | first);
                }
            } else {
                // Packed samples run from the highest bit of each byte in either byte order (TIFF 6.0, FillOrder 1).
                int held = 0;
                int value = 0;
                for (int x = 0; x < count; x++) {
                    while (held < bits) {
                        value = value << 8 | from[at++] & 0xff;
                        held += 8;
                    }
                    held -= bits;
                    samples[to + x] = (short) (value >>> held & (1 << bits) - 1);
                }
            }
        }
    }

    private void decompress(int from, int length, Region tile, short[] samples, int width, int height)
            throws RefusedException {
        LosslessJpegDecoder.Image image = LosslessJpegDecoder.decode(data, from, length, 2 * tile.area() + 65536);
        // The samples fill the tile in reading order, however the stream groups them into components.
        int count = Math.min(tile.width(), width - tile.x());
        int needed = (Math.min(tile.height(), height - tile.y()) - 1) * tile.width() + count;
        if (image.samples().length < needed) {
            throw new RefusedException(
                    "A compressed part of the picture is smaller than its tile: the file is damaged.");
        }
        for (int y = 0; y < Math.min(tile.height(), height - tile.y()); y++) {
            System.arraycopy(image.samples(), y * tile.width(), samples, (tile.y() + y) * width + tile.x(), count);
        }
    }

    /** A tile of 8-bit samples in baseline JPEG: grey, or three components as the stream's own markers explain them. */
    private void decompressLossy(int from, int length, Region tile, short[] samples, int width, int height)
            throws RefusedException {
        ImageReader reader = ImageIO.getImageReadersByFormatName("jpeg").next();
        try (ImageInputStream in = BoundedInput.of(data, from, length)) {
            reader.setInput(in, true, true);
            if (reader.getWidth(0) * perPixel != tile.width() || reader.getHeight(0) > tile.height()) {
                throw new RefusedException("A compressed part of the picture has a wrong size: the file is damaged.");
            }
            Raster raster = reader.readAsRenderedImage(0, null).getData();
            if (raster.getNumBands() != perPixel) {
                throw new RefusedException("A compressed part of the picture has a wrong number of colours.");
            }
            int count = Math.min(tile.width(), width - tile.x());
            int[] row = new int[tile.width()];
            for (int y = 0; y < Math.min(raster.getHeight(), height - tile.y()); y++) {
                raster.getPixels(0, y, tile.width() / perPixel, 1, row);
                int to = (tile.y() + y) * width + tile.x();
                for (int x = 0; x < count; x++) {
                    samples[to + x] = (short) row[x];
                }
            }
        } catch (IOException | IndexOutOfBoundsException | IllegalArgumentException e) {
            throw new RefusedException("A compressed part of the picture is damaged.", e);
        } finally {
            reader.dispose();
        }
    }
}
