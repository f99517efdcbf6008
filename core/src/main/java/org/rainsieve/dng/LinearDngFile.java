package org.rainsieve.dng;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.jpeg.LosslessJpegDecoder;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffReader;

/**
 * A written return, opened for reading region by region: how the viewer shows it and how it is verified. Reads the form
 * that {@link LinearDngWriter} writes.
 */
public final class LinearDngFile implements PixelSource, AutoCloseable {
    /** Directories stand at the start, before the first tile. They nearly always fit the first size, never pass the last. */
    private static final int[] HEAD_BYTES = {1 << 20, 16 << 20};

    private final FileChannel channel;
    private final TiffDirectory main;
    private final TiffDirectory image;
    private final int width;
    private final int height;
    private final long[] offsets;
    private final long[] counts;
    /** Where the levels of a compact file lie; null for files that have them all. */
    private final int[] levels;

    private final ConcurrentHashMap<Integer, short[]> recent = new ConcurrentHashMap<>();

    private LinearDngFile(FileChannel channel, TiffDirectory main, TiffDirectory image) throws RefusedException {
        this.channel = channel;
        this.main = main;
        this.image = image;
        width = (int) image.number(Tag.IMAGE_WIDTH, 0);
        height = (int) image.number(Tag.IMAGE_LENGTH, 0);
        offsets = longs(image.numbers(offsetsTag(image)));
        counts = longs(image.numbers(image.has(Tag.TILE_WIDTH) ? Tag.TILE_BYTE_COUNTS : Tag.STRIP_BYTE_COUNTS));
        double[] table = image.numbers(Tag.LINEARIZATION_TABLE);
        levels = table.length == 0 ? null : new int[table.length];
        for (int i = 0; i < table.length; i++) {
            levels[i] = (int) table[i];
        }
        int tiles = across() * ((height + LinearDngWriter.TILE - 1) / LinearDngWriter.TILE);
        if (width < 1 || height < 1 || offsets.length != tiles || counts.length != tiles) {
            throw new RefusedException("The return's list of tiles does not fit its size: the file is damaged.");
        }
    }

    private static int offsetsTag(TiffDirectory image) {
        return image.has(Tag.TILE_WIDTH) ? Tag.TILE_OFFSETS : Tag.STRIP_OFFSETS;
    }

    /** Tiles of our size, or strips of as many rows. */
    private static boolean isOurForm(TiffDirectory image) {
        return image.has(Tag.TILE_WIDTH)
                ? image.number(Tag.TILE_WIDTH, 0) == LinearDngWriter.TILE
                : image.number(Tag.ROWS_PER_STRIP, 0) == LinearDngWriter.TILE
                        && LinearDngWriter.inStrips((int) image.number(Tag.IMAGE_WIDTH, 0));
    }

    private static long[] longs(double[] numbers) {
        long[] longs = new long[numbers.length];
        for (int i = 0; i < longs.length; i++) {
            longs[i] = (long) numbers[i];
        }
        return longs;
    }

    public static LinearDngFile open(Path file) throws IOException, RefusedException {
        FileChannel channel = FileChannel.open(file, StandardOpenOption.READ);
        try {
            for (int size : HEAD_BYTES) {
                LinearDngFile opened = ofHead(channel, size);
                if (opened != null) {
                    return opened;
                }
            }
            throw new RefusedException("This file is not a linear DNG of the form that Rain Sieve writes.");
        } catch (IOException | RefusedException | RuntimeException e) {
            channel.close();
            throw e;
        }
    }

    /** The file as its first bytes tell it, or null if they do not reach over all directories to the first tile. */
    private static LinearDngFile ofHead(FileChannel channel, int size) throws IOException, RefusedException {
        ByteBuffer head = ByteBuffer.allocate((int) Math.min(size, channel.size()));
        while (head.hasRemaining() && channel.read(head, head.position()) >= 0) {}
        TiffDirectory main;
        try {
            main = TiffReader.read(head.array()).get(0);
        } catch (RefusedException e) {
            if (head.capacity() < channel.size() && size < HEAD_BYTES[HEAD_BYTES.length - 1]) {
                return null; // the first directory may lie further on
            }
            throw e;
        }
        for (TiffDirectory directory : main.subDirectories()) {
            if (directory.number(Tag.PHOTOMETRIC, 0) == Tag.PHOTOMETRIC_LINEAR_RAW
                    && directory.number(Tag.COMPRESSION, 0) == Tag.COMPRESSION_LOSSLESS_JPEG
                    && directory.number(Tag.SAMPLES_PER_PIXEL, 0) == 3
                    && isOurForm(directory)
                    && directory.number(offsetsTag(directory), Long.MAX_VALUE) <= head.capacity()) {
                return new LinearDngFile(channel, main, directory);
            }
        }
        return null;
    }

    public TiffDirectory main() {
        return main;
    }

    public TiffDirectory image() {
        return image;
    }

    /** What is to be shown of it. */
    public Region shown() {
        return ReturnTags.shown(image, width, height);
    }

    private int across() {
        return (width + LinearDngWriter.TILE - 1) / LinearDngWriter.TILE;
    }

    public int tiles() {
        return offsets.length;
    }

    /** Width of a tile, or of a strip. */
    private int tileWidth() {
        return image.has(Tag.TILE_WIDTH) ? LinearDngWriter.TILE : width;
    }

    private int tileHeight(int index) {
        int size = LinearDngWriter.TILE;
        return image.has(Tag.TILE_WIDTH) ? size : Math.min(size, height - index * size);
    }

    /** Decodes one tile: {@value LinearDngWriter#TILE}² · 3 interleaved samples, or as many as a strip has. */
    public short[] tile(int index) throws IOException, RefusedException {
        if (counts[index] < 1 || counts[index] > 8L * LinearDngWriter.TILE * LinearDngWriter.TILE) {
            throw new RefusedException("A tile of the return has no believable size: the file is damaged.");
        }
        byte[] bytes = new byte[(int) counts[index]];
        ByteBuffer buffer = ByteBuffer.wrap(bytes);
        while (buffer.hasRemaining()) {
            if (channel.read(buffer, offsets[index] + buffer.position()) < 0) {
                throw new RefusedException("The return is cut short.");
            }
        }
        int size = LinearDngWriter.TILE;
        LosslessJpegDecoder.Image decoded = LosslessJpegDecoder.decode(bytes, 0, bytes.length, 3L * size * size);
        if (decoded.width() != tileWidth() || decoded.height() != tileHeight(index) || decoded.components() != 3) {
            throw new RefusedException("A tile of the return has a wrong size: the file is damaged.");
        }
        short[] samples = decoded.samples();
        if (levels != null) {
            for (int i = 0; i < samples.length; i++) {
                samples[i] = (short) levels[Math.min(levels.length - 1, samples[i] & 0xffff)];
            }
        }
        return samples;
    }

    @Override
    public int width() {
        return width;
    }

    @Override
    public int height() {
        return height;
    }

    @Override
    public int channels() {
        return 3;
    }

    @Override
    public Region inputRegion(Region out) {
        return out;
    }

    @Override
    public void fill(Planes out) {
        Region r = out.region();
        int size = LinearDngWriter.TILE;
        float scale = 1f / (LinearDngWriter.WHITE - LinearDngWriter.BLACK);
        for (int ty = r.y() / size; ty <= (r.bottom() - 1) / size; ty++) {
            for (int tx = r.x() / size; tx <= (r.right() - 1) / size; tx++) {
                short[] samples = recentTile(ty * across() + tx);
                Region shared = r.intersect(new Region(tx * size, ty * size, size, size));
                for (int y = shared.y(); y < shared.bottom(); y++) {
                    for (int x = shared.x(); x < shared.right(); x++) {
                        int from = ((y - ty * size) * tileWidth() + x - tx * size) * 3;
                        int to = out.index(x, y);
                        for (int c = 0; c < 3; c++) {
                            out.channel(c)[to] = ((samples[from + c] & 0xffff) - LinearDngWriter.BLACK) * scale;
                        }
                    }
                }
            }
        }
    }

    private short[] recentTile(int index) {
        if (recent.size() > 64) {
            recent.clear();
        }
        return recent.computeIfAbsent(index, i -> {
            try {
                return tile(i);
            } catch (IOException | RefusedException e) {
                throw new IllegalStateException(e.getMessage(), e);
            }
        });
    }

    @Override
    public void close() throws IOException {
        channel.close();
    }
}
