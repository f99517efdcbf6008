package org.rainsieve.dng;

import java.awt.image.Raster;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.util.stream.IntStream;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import javax.imageio.stream.ImageInputStream;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;

/** Unpacks the samples of a picture in strips or tiles (TIFF 6.0; DNG specification 1.4): plain, lossless or lossy JPEG. */
final class RawSamples {
    private final byte[] data;
    private final TiffDirectory raw;
    private final int perPixel;

    private RawSamples(byte[] data, TiffDirectory raw, int perPixel) {
        this.data = data;
        this.raw = raw;
        this.perPixel = perPixel;
    }

    /** @param perPixel samples of a pixel, which lie side by side in what is given back */
    static short[] of(byte[] data, TiffDirectory raw, int pictureWidth, int height, int bits, int perPixel)
            throws RefusedException {
        return new RawSamples(data, raw, perPixel).read(pictureWidth * perPixel, height, bits);
    }

    private short[] read(int width, int height, int bits) throws RefusedException {
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
        if (offsets.length < (long) across * down || counts.length < (long) across * down) {
            throw new RefusedException("The picture's list of parts is too short: the file is damaged.");
        }
        long compression = raw.number(Tag.COMPRESSION, 1);
        boolean lossy = compression == Tag.COMPRESSION_LOSSY_JPEG && bits == 8;
        if (compression != Tag.COMPRESSION_NONE && compression != Tag.COMPRESSION_LOSSLESS_JPEG && !lossy) {
            if (compression == Tag.COMPRESSION_JPEG_XL) {
                throw new RefusedException("The picture is compressed as JPEG XL, which is not read.");
            }
            throw new RefusedException(
                    "The picture is compressed in a way that is not read yet (TIFF compression " + compression + ").");
        }
        for (int i = 0; i < across * down; i++) {
            if (!(offsets[i] > 0 && counts[i] > 0 && offsets[i] + counts[i] <= data.length)) {
                throw new RefusedException("Part of the picture lies outside the file: the file is cut short.");
            }
        }
        short[] samples = new short[width * height];
        RefusedException[] failure = new RefusedException[1];
        IntStream.range(0, across * down).parallel().forEach(i -> {
            Region tile = new Region(i % across * tileWidth, i / across * tileHeight, tileWidth, tileHeight);
            try {
                if (compression == Tag.COMPRESSION_NONE) {
                    boolean cut = !tiled;
                    int rows = cut ? Math.min(tileHeight, height - tile.y()) : tileHeight;
                    unpack((int) offsets[i], (int) counts[i], bits, tile, rows, samples, width, height);
                } else if (lossy) {
                    decompressLossy((int) offsets[i], (int) counts[i], tile, samples, width, height);
                } else {
                    decompress((int) offsets[i], (int) counts[i], tile, samples, width, height);
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

    private void unpack(int from, int length, int bits, Region tile, int rows, short[] samples, int width, int height)
            throws RefusedException {
        int rowBytes = (tile.width() * bits + 7) / 8;
        if ((long) rowBytes * rows > length) {
            throw new RefusedException("Part of the picture is shorter than its size says: the file is cut short.");
        }
        boolean big = data[0] == 'M';
        for (int y = 0; y < Math.min(rows, height - tile.y()); y++) {
            int at = from + y * rowBytes;
            int to = (tile.y() + y) * width + tile.x();
            int count = Math.min(tile.width(), width - tile.x());
            if (bits == 16) {
                for (int x = 0; x < count; x++) {
                    int first = data[at + 2 * x] & 0xff;
                    int second = data[at + 2 * x + 1] & 0xff;
                    samples[to + x] = (short) (big ? first << 8 | second : second << 8 | first);
                }
            } else {
                // Packed samples run from the highest bit of each byte in either byte order (TIFF 6.0, FillOrder 1).
                int held = 0;
                int value = 0;
                for (int x = 0; x < count; x++) {
                    while (held < bits) {
                        value = value << 8 | data[at++] & 0xff;
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
        try (ImageInputStream in = ImageIO.createImageInputStream(new ByteArrayInputStream(data, from, length))) {
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
