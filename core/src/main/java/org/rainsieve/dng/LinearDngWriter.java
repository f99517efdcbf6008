package org.rainsieve.dng;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.stream.IntStream;
import org.rainsieve.frame.Region;
import org.rainsieve.jpeg.LosslessJpegEncoder;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.tiff.TiffWriter;

/**
 * Writes a linear DNG in bands from top to bottom: photometric LinearRaw, 16 bits, three interleaved samples, tiles of
 * {@value #TILE}² in lossless JPEG; of pictures narrower than a tile strips instead, as readers are known to mistake such tiles. Sample = {@value #BLACK} + value · 63,487, so that noise below black survives.
 * Directories stand at the start of the file; they are laid out once to keep their room and again when all is known.
 */
public final class LinearDngWriter implements AutoCloseable {
    public static final int TILE = 256;
    public static final int BLACK = 2048;
    public static final int WHITE = 65535;

    /** Tile data may reach this far, so that every offset fits 32 bits with room for what follows. */
    private static final long LARGEST_FILE = (4L << 30) - (64L << 20);

    /** A small rendering for file browsers: RGB bytes, and the same larger as JPEG. */
    public record Preview(int width, int height, byte[] rgb, int jpegWidth, int jpegHeight, byte[] jpeg) {}

    /**
     * What was measured while writing.
     *
     * @param noiseProfile S and O of red, green, blue, as the tag NoiseProfile
     * @param noiseLeft luminance noise after ÷ before, 0 to 1
     */
    public record Measured(double[] noiseProfile, double noiseLeft) {}

    /**
     * Where a return's pixels lie against the original's.
     *
     * @param lensCorrected the lens's faults were taken back, so that nobody must do it again
     * @param cropped only a part is left, turned or not
     * @param enlargedBy 1 for as large as before
     * @param crop what is to be shown of it, as shares of the picture: left, top, right, bottom; null for all
     */
    public record Placement(boolean lensCorrected, boolean cropped, double enlargedBy, double[] crop) {
        public static final Placement AS_TAKEN = new Placement(false, false, 1, null);
    }

    private final FileChannel channel;
    private final CompactScale compact;
    private final Placement placement;
    private final int width;
    private final int height;
    private final TiffDirectory originalMain;
    private final TiffDirectory originalRaw;
    private final String software;
    private final String originalName;
    private final String xmp;
    private final int previewWidth;
    private final int previewHeight;
    private final long[] offsets;
    private final long[] counts;
    private final MessageDigest digest;
    private final int directoryBytes;
    private long at;
    private int nextRow;

    /** @param compact null for every level that 16 bits have */
    public LinearDngWriter(
            Path file,
            int width,
            int height,
            TiffDirectory originalMain,
            TiffDirectory originalRaw,
            Placement placement,
            String software,
            String originalName,
            String xmp,
            int previewWidth,
            int previewHeight,
            CompactScale compact)
            throws IOException {
        this.compact = compact;
        this.placement = placement;
        this.width = width;
        this.height = height;
        this.originalMain = originalMain;
        this.originalRaw = originalRaw;
        this.software = software;
        this.originalName = originalName;
        this.xmp = xmp;
        this.previewWidth = previewWidth;
        this.previewHeight = previewHeight;
        int tiles = across() * ((height + TILE - 1) / TILE);
        offsets = new long[tiles];
        counts = new long[tiles];
        try {
            digest = MessageDigest.getInstance("MD5"); // RawImageDigest is defined as MD5
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
        Preview none = new Preview(previewWidth, previewHeight, new byte[0], 1, 1, new byte[0]);
        directoryBytes = TiffWriter.layOut(
                        8, directories(none, new Measured(new double[6], 1), 0, 0), ByteOrder.LITTLE_ENDIAN)
                .bytes()
                .length;
        channel = FileChannel.open(
                file, StandardOpenOption.CREATE_NEW, StandardOpenOption.READ, StandardOpenOption.WRITE);
        at = 8 + directoryBytes;
    }

    private int across() {
        return (width + TILE - 1) / TILE;
    }

    /** Whether a picture of that width stands in strips of {@value #TILE} rows. */
    static boolean inStrips(int width) {
        return width < TILE;
    }

    /**
     * Writes the next rows: a multiple of {@value #TILE} of them, or all that are left.
     *
     * @param linear rows · width · 3 interleaved samples
     */
    public void writeBand(short[] linear, int rows) throws IOException {
        if (nextRow % TILE != 0 || (rows % TILE != 0 && nextRow + rows != height)) {
            throw new IllegalArgumentException("A band must be whole tiles high");
        }
        short[] samples = compact == null ? linear : compact.codes(linear);
        int down = (rows + TILE - 1) / TILE;
        byte[][] parts = new byte[across() * down][];
        IntStream.range(0, parts.length).parallel().forEach(i -> parts[i] = tile(samples, rows, i));
        for (int i = 0; i < parts.length; i++) {
            int tile = nextRow / TILE * across() + i;
            offsets[tile] = at;
            counts[tile] = parts[i].length;
            append(parts[i]);
        }
        ByteBuffer bytes = ByteBuffer.allocate(rows * width * 6).order(ByteOrder.LITTLE_ENDIAN);
        bytes.asShortBuffer().put(samples, 0, rows * width * 3);
        digest.update(bytes);
        nextRow += rows;
    }

    private byte[] tile(short[] samples, int rows, int index) {
        int x0 = index % across() * TILE;
        int y0 = index / across() * TILE;
        int across = inStrips(width) ? width : TILE;
        int down = inStrips(width) ? Math.min(TILE, rows - y0) : TILE;
        short[] tile = new short[across * down * 3];
        int inside = Math.min(across, width - x0);
        for (int y = 0; y < down; y++) {
            int from = (Math.min(rows - 1, y0 + y) * width + x0) * 3;
            int to = y * across * 3;
            System.arraycopy(samples, from, tile, to, inside * 3);
            // Outside the picture its edge is repeated, which costs next to nothing.
            for (int x = inside * 3; x < across * 3; x++) {
                tile[to + x] = tile[to + x - 3];
            }
        }
        return new LosslessJpegEncoder().encode(tile, across, down, 3);
    }

    private void append(byte[] bytes) throws IOException {
        if (at + bytes.length > LARGEST_FILE) {
            throw new IOException("The return would pass 4 GiB, the limit of the file format. Use a smaller size.");
        }
        ByteBuffer buffer =
                ByteBuffer.wrap((bytes.length & 1) == 0 ? bytes : java.util.Arrays.copyOf(bytes, bytes.length + 1));
        long position = at;
        while (buffer.hasRemaining()) {
            position += channel.write(buffer, position);
        }
        at = position;
    }

    /** Writes previews and directories and forces everything to disk. */
    public void finish(Preview preview, Measured measured) throws IOException {
        if (nextRow != height) {
            throw new IllegalStateException("Only " + nextRow + " of " + height + " rows were written");
        }
        long thumbnail = at;
        append(preview.rgb());
        long jpeg = at;
        append(preview.jpeg());
        TiffWriter.Layout layout =
                TiffWriter.layOut(8, directories(preview, measured, thumbnail, jpeg), ByteOrder.LITTLE_ENDIAN);
        if (layout.bytes().length != directoryBytes) {
            throw new IllegalStateException("The directories changed their size while the picture was written");
        }
        ByteBuffer head = ByteBuffer.allocate(8 + directoryBytes);
        head.put(TiffWriter.header(ByteOrder.LITTLE_ENDIAN, layout.firstDirectory()));
        head.put(layout.bytes());
        head.flip();
        long position = 0;
        while (head.hasRemaining()) {
            position += channel.write(head, position);
        }
        channel.force(true);
    }

    private TiffDirectory directories(Preview preview, Measured measured, long thumbnailAt, long jpegAt) {
        TiffDirectory image = placed(originalMain, originalRaw, placement, width, height);
        TiffDirectory main = new TiffDirectory();
        ReturnTags.carryMain(originalMain, main);
        main.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 1));
        main.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, previewWidth));
        main.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, previewHeight));
        main.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 8, 8, 8));
        main.put(TiffField.ofShorts(Tag.COMPRESSION, Tag.COMPRESSION_NONE));
        main.put(TiffField.ofShorts(Tag.PHOTOMETRIC, 2));
        main.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 3));
        main.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
        main.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, previewHeight));
        main.put(TiffField.ofLongs(Tag.STRIP_OFFSETS, thumbnailAt));
        main.put(TiffField.ofLongs(Tag.STRIP_BYTE_COUNTS, 3L * previewWidth * previewHeight));
        main.put(TiffField.ofText(Tag.SOFTWARE, software));
        main.put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, xmp.getBytes(StandardCharsets.UTF_8)));
        boolean opcodes = image.has(Tag.OPCODE_LIST_3);
        // What is carried of later versions is theirs; three illuminants must not be read as two.
        boolean later = image.has(Tag.PROFILE_GAIN_TABLE_MAP) || image.has(Tag.PROFILE_GAIN_TABLE_MAP_2);
        boolean three = main.has(Tag.CALIBRATION_ILLUMINANT_3);
        int least = three ? 6 : opcodes ? 3 : 1;
        main.put(TiffField.ofBytes(
                Tag.DNG_VERSION, TiffType.BYTE, new byte[] {1, (byte) (later || three ? 6 : 4), 0, 0}));
        main.put(TiffField.ofBytes(Tag.DNG_BACKWARD_VERSION, TiffType.BYTE, new byte[] {1, (byte) least, 0, 0}));
        // Of a file that another program has made from the camera's, the camera's own name is known still.
        main.put(originalMain
                .field(Tag.ORIGINAL_RAW_FILE_NAME)
                .filter(name -> !name.asText().isEmpty())
                .orElseGet(() -> TiffField.ofBytes(
                        Tag.ORIGINAL_RAW_FILE_NAME,
                        TiffType.BYTE,
                        (originalName + "\0").getBytes(StandardCharsets.UTF_8))));
        main.put(TiffField.ofRationals(
                Tag.BASELINE_NOISE, TiffType.RATIONAL, 10000, Math.max(0.0001, measured.noiseLeft())));
        main.put(TiffField.ofRationals(Tag.BASELINE_SHARPNESS, TiffType.RATIONAL, 100, 1));
        main.put(TiffField.ofText(Tag.PREVIEW_APPLICATION_NAME, software));
        main.put(TiffField.ofLongs(Tag.PREVIEW_COLOR_SPACE, 2));

        image.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 0));
        image.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, width));
        image.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, height));
        image.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 16, 16, 16));
        image.put(TiffField.ofShorts(Tag.COMPRESSION, Tag.COMPRESSION_LOSSLESS_JPEG));
        image.put(TiffField.ofShorts(Tag.PHOTOMETRIC, Tag.PHOTOMETRIC_LINEAR_RAW));
        image.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 3));
        image.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
        boolean strips = inStrips(width);
        if (strips) {
            image.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, TILE));
        } else {
            image.put(TiffField.ofLongs(Tag.TILE_WIDTH, TILE));
            image.put(TiffField.ofLongs(Tag.TILE_LENGTH, TILE));
        }
        image.put(TiffField.ofLongs(strips ? Tag.STRIP_OFFSETS : Tag.TILE_OFFSETS, offsets));
        image.put(TiffField.ofLongs(strips ? Tag.STRIP_BYTE_COUNTS : Tag.TILE_BYTE_COUNTS, counts));
        image.put(TiffField.ofShorts(Tag.BLACK_LEVEL, BLACK, BLACK, BLACK));
        image.put(TiffField.ofLongs(Tag.WHITE_LEVEL, WHITE, WHITE, WHITE));
        if (compact != null) {
            short[] table = compact.table();
            int[] values = new int[table.length];
            for (int i = 0; i < values.length; i++) {
                values[i] = table[i] & 0xffff;
            }
            image.put(TiffField.ofShorts(Tag.LINEARIZATION_TABLE, values));
        }
        image.put(TiffField.ofDoubles(Tag.NOISE_PROFILE, measured.noiseProfile()));
        image.put(TiffField.ofRationals(
                Tag.NOISE_REDUCTION_APPLIED,
                TiffType.RATIONAL,
                10000,
                Math.min(1, Math.max(0, 1 - measured.noiseLeft()))));
        byte[] md5 = new byte[16];
        if (thumbnailAt > 0) {
            md5 = digest.digest();
        }
        main.put(TiffField.ofBytes(Tag.RAW_IMAGE_DIGEST, TiffType.BYTE, md5));
        main.subDirectories().add(image);

        TiffDirectory larger = new TiffDirectory();
        larger.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 1));
        larger.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, preview.jpegWidth()));
        larger.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, preview.jpegHeight()));
        larger.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 8, 8, 8));
        larger.put(TiffField.ofShorts(Tag.COMPRESSION, Tag.COMPRESSION_LOSSLESS_JPEG));
        larger.put(TiffField.ofShorts(Tag.PHOTOMETRIC, 6));
        larger.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 3));
        larger.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
        larger.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, preview.jpegHeight()));
        larger.put(TiffField.ofLongs(Tag.STRIP_OFFSETS, jpegAt));
        larger.put(TiffField.ofLongs(Tag.STRIP_BYTE_COUNTS, preview.jpeg().length));
        larger.put(TiffField.ofShorts(530, 2, 2)); // YCbCrSubSampling
        larger.put(TiffField.ofShorts(531, 1)); // YCbCrPositioning
        larger.put(TiffField.ofRationals(532, TiffType.RATIONAL, 1, 0, 255, 128, 255, 128, 255)); // ReferenceBlackWhite
        larger.put(TiffField.ofLongs(Tag.PREVIEW_COLOR_SPACE, 2));
        main.subDirectories().add(larger);
        return main;
    }

    /** What of a return is to be shown: what the original's own crop and the one that is noted leave. */
    public static Region shown(
            TiffDirectory originalMain, TiffDirectory originalRaw, Placement placement, int width, int height) {
        return ReturnTags.shown(placed(originalMain, originalRaw, placement, width, height), width, height);
    }

    private static TiffDirectory placed(
            TiffDirectory originalMain, TiffDirectory originalRaw, Placement placement, int width, int height) {
        TiffDirectory image = new TiffDirectory();
        ReturnTags.carryImage(originalMain, originalRaw, image);
        ReturnTags.place(placement, width, height, image);
        return image;
    }

    /** A sample for a linear value: rounded, limited to 16 bits. */
    public static short sample(float value) {
        int sample = Math.round(BLACK + value * (WHITE - BLACK));
        return (short) Math.min(WHITE, Math.max(0, sample));
    }

    @Override
    public void close() throws IOException {
        channel.close();
    }
}
