package org.rainsieve.dng;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.rainsieve.TestTools;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.jpeg.LosslessJpegEncoder;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/**
 * Every form of DNG that is read, written by hand from the formulas of its specification (DNG 1.4, chapters 4 to 6): even patches
 * of known light. LibRaw 0.20.2 reads the source, where it knows the form, and always the return: patches within 0.2 %, each in its
 * place.
 */
class ConformanceTest {
    private static final int WIDTH = 192;
    private static final int HEIGHT = 128;
    private static final int PATCH_WIDTH = 48;
    private static final int PATCH_HEIGHT = 64;

    /** Red, green and blue of the patches, from the upper left, 1 = clipping. */
    private static final double[][] PATCHES = {
        {0.1, 0.2, 0.1}, {0.3, 0.3, 0.3}, {0.05, 0.04, 0.3}, {0.02, 0.02, 0.02},
        {0.5, 0.1, 0.05}, {0.4, 0.8, 0.5}, {1, 1, 1}, {0.15, 0.6, 0.2}
    };

    @TempDir
    static Path folder;

    /** A file in the making: which bits, levels and places, and the tags that tell. */
    private static final class Source {
        final String name;
        final TiffDirectory tags = SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), false);
        ByteOrder order = ByteOrder.LITTLE_ENDIAN;
        CfaPattern pattern = CfaPattern.RGGB;
        int bits = 16;
        int white = 16000;
        int blackWidth = 1;
        int blackHeight = 1;
        double[] black = {512};
        int left;
        int top;
        int outerWidth = WIDTH;
        int outerHeight = HEIGHT;
        int rowsAStrip;
        int tile;
        int linear;
        boolean planar;
        boolean floats;
        boolean compressed;
        boolean deflated;
        /** Whether LibRaw reads the source as the specification says. */
        boolean known = true;

        double[] columns = {};
        double[] rows = {};
        int[] table = {};

        Source(String name) {
            this.name = name;
        }

        @Override
        public String toString() {
            return name;
        }

        private double light(int x, int y, int colour) {
            int px = Math.max(0, Math.min(WIDTH - 1, x - left));
            int py = Math.max(0, Math.min(HEIGHT - 1, y - top));
            return PATCHES[py / PATCH_HEIGHT * 4 + px / PATCH_WIDTH][colour];
        }

        /** The sample at a place of the whole raster. */
        private double sample(int x, int y, int colour) {
            double light = light(x, y, colour);
            if (floats) {
                return light;
            }
            int ax = Math.floorMod(x - left, blackWidth);
            int ay = Math.floorMod(y - top, blackHeight);
            int planes = linear > 0 ? linear : 1;
            double level = black[(ay * blackWidth + ax) * planes + (planes == 3 && black.length % 3 == 0 ? colour : 0)];
            boolean inside = x >= left && y >= top && x < left + WIDTH && y < top + HEIGHT;
            double own = inside && columns.length > 0 ? columns[x - left] : 0;
            own += inside && rows.length > 0 ? rows[y - top] : 0;
            // What is clipped is at the white level, whatever was added.
            double value = light >= 1 ? white : level + own + light * (white - level);
            if (table.length == 0) {
                return Math.rint(value);
            }
            int code = 0;
            while (code < table.length - 1 && Math.abs(table[code + 1] - value) <= Math.abs(table[code] - value)) {
                code++;
            }
            return code;
        }

        private double[] values() {
            int planes = Math.max(1, linear);
            double[] values = new double[outerWidth * outerHeight * planes];
            for (int y = 0; y < outerHeight; y++) {
                for (int x = 0; x < outerWidth; x++) {
                    for (int c = 0; c < planes; c++) {
                        int colour = linear == 3 ? c : linear == 1 ? 1 : pattern.colourAt(x - left, y - top);
                        int at = planar ? (c * outerHeight + y) * outerWidth + x : (y * outerWidth + x) * planes + c;
                        values[at] = sample(x, y, colour);
                    }
                }
            }
            return values;
        }

        private byte[] packed(double[] values) {
            if (floats) {
                float[] singles = new float[values.length];
                for (int i = 0; i < singles.length; i++) {
                    singles[i] = (float) values[i];
                }
                return HandmadeDng.floats(singles, bits, order);
            }
            ByteBuffer out = ByteBuffer.allocate(values.length * 2).order(order);
            int rowLength = outerWidth * Math.max(1, planar ? 1 : linear);
            long held = 0;
            int count = 0;
            for (int i = 0; i < values.length; i++) {
                if (bits == 16) {
                    out.putShort((short) values[i]);
                    continue;
                }
                held = held << bits | (long) values[i];
                count += bits;
                while (count >= 8) {
                    count -= 8;
                    out.put((byte) (held >> count));
                }
                if ((i + 1) % rowLength == 0 && count > 0) {
                    out.put((byte) (held << 8 - count));
                    count = 0;
                }
            }
            return Arrays.copyOf(out.array(), out.position());
        }

        byte[] file() {
            double[] values = values();
            int planes = Math.max(1, linear);
            tags.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 0));
            tags.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, outerWidth));
            tags.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, outerHeight));
            int[] depth = new int[planes];
            Arrays.fill(depth, bits);
            tags.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, depth));
            tags.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, planes));
            tags.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, planar ? 2 : 1));
            tags.put(
                    TiffField.ofShorts(Tag.PHOTOMETRIC, linear > 0 ? Tag.PHOTOMETRIC_LINEAR_RAW : Tag.PHOTOMETRIC_CFA));
            tags.put(TiffField.ofShorts(Tag.COMPRESSION, compressed ? 7 : deflated ? 8 : 1));
            if (linear == 0) {
                int size = pattern.width();
                byte[] colours = new byte[size * size];
                for (int i = 0; i < colours.length; i++) {
                    colours[i] = (byte) pattern.colourAt(i % size, i / size);
                }
                tags.put(TiffField.ofShorts(Tag.CFA_REPEAT_DIM, size, size));
                tags.put(TiffField.ofBytes(Tag.CFA_PATTERN, TiffType.BYTE, colours));
            }
            if (floats) {
                tags.put(TiffField.ofShorts(Tag.SAMPLE_FORMAT, 3));
                tags.put(TiffField.ofLongs(Tag.WHITE_LEVEL, 1));
            } else {
                long[] whites = new long[planes];
                Arrays.fill(whites, white);
                tags.put(TiffField.ofLongs(Tag.WHITE_LEVEL, whites));
            }
            if (black.length > 1 || black[0] > 0) {
                tags.put(TiffField.ofShorts(Tag.BLACK_LEVEL_REPEAT_DIM, blackHeight, blackWidth));
                tags.put(TiffField.ofRationals(Tag.BLACK_LEVEL, TiffType.RATIONAL, 256, black));
            }
            if (outerWidth != WIDTH || outerHeight != HEIGHT) {
                tags.put(TiffField.ofLongs(Tag.ACTIVE_AREA, top, left, top + HEIGHT, left + WIDTH));
            }
            if (columns.length > 0) {
                tags.put(TiffField.ofRationals(Tag.BLACK_LEVEL_DELTA_H, TiffType.SRATIONAL, 256, columns));
            }
            if (rows.length > 0) {
                tags.put(TiffField.ofRationals(Tag.BLACK_LEVEL_DELTA_V, TiffType.SRATIONAL, 256, rows));
            }
            if (table.length > 0) {
                tags.put(TiffField.ofShorts(Tag.LINEARIZATION_TABLE, table));
            }
            return HandmadeDng.of(tags, order, parts(values));
        }

        private List<byte[]> parts(double[] values) {
            int planes = Math.max(1, linear);
            if (tile > 0) {
                tags.put(TiffField.ofLongs(Tag.TILE_WIDTH, tile));
                tags.put(TiffField.ofLongs(Tag.TILE_LENGTH, tile));
                return tiles(values, planes);
            }
            byte[] whole = packed(values);
            int rowsInAll = planar ? planes * outerHeight : outerHeight;
            int each = rowsAStrip > 0 ? rowsAStrip : outerHeight;
            tags.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, each));
            int rowBytes = whole.length / rowsInAll;
            List<byte[]> parts = new java.util.ArrayList<>();
            for (int plane = 0; plane < (planar ? planes : 1); plane++) {
                for (int y = 0; y < outerHeight; y += each) {
                    int from = (plane * outerHeight + y) * rowBytes;
                    byte[] part = Arrays.copyOfRange(whole, from, from + Math.min(each, outerHeight - y) * rowBytes);
                    parts.add(deflated ? HandmadeDng.deflated(part) : part);
                }
            }
            return parts;
        }

        private List<byte[]> tiles(double[] values, int planes) {
            List<byte[]> parts = new java.util.ArrayList<>();
            for (int ty = 0; ty < outerHeight; ty += tile) {
                for (int tx = 0; tx < outerWidth; tx += tile) {
                    short[] samples = new short[tile * tile * planes];
                    for (int i = 0; i < samples.length; i++) {
                        int x = Math.min(outerWidth - 1, tx + i / planes % tile);
                        int y = Math.min(outerHeight - 1, ty + i / planes / tile);
                        samples[i] = (short) values[(y * outerWidth + x) * planes + i % planes];
                    }
                    if (compressed) {
                        // A mosaic is packed as two components, its neighbours (DNG 1.4, chapter 5).
                        int components = planes == 1 ? 2 : planes;
                        parts.add(new LosslessJpegEncoder()
                                .encode(samples, tile * planes / components, tile, components));
                    } else {
                        ByteBuffer out = ByteBuffer.allocate(2 * samples.length).order(order);
                        out.asShortBuffer().put(samples);
                        parts.add(deflated ? HandmadeDng.deflated(out.array()) : out.array());
                    }
                }
            }
            return parts;
        }
    }

    private static Source of(String name, Consumer<Source> how) {
        Source source = new Source(name);
        how.accept(source);
        return source;
    }

    static Stream<Source> forms() {
        Stream.Builder<Source> forms = Stream.builder();
        for (int bits : new int[] {8, 10, 12, 14, 16}) {
            for (ByteOrder order : new ByteOrder[] {ByteOrder.LITTLE_ENDIAN, ByteOrder.BIG_ENDIAN}) {
                forms.add(of(bits + " bits, " + order, s -> {
                    s.bits = bits;
                    s.order = order;
                    s.white = Math.min(s.white, (1 << bits) - 1);
                    s.black = new double[] {bits == 8 ? 0 : s.white / 32};
                    // LibRaw takes eight bits of a mosaic for a rendered curve.
                    s.known = bits > 8;
                }));
            }
        }
        forms.add(of("strips", s -> s.rowsAStrip = 11));
        forms.add(of("tiles", s -> s.tile = 64));
        forms.add(of("tiles in lossless JPEG", s -> {
            s.tile = 80;
            s.compressed = true;
        }));
        forms.add(of("deflated tiles", s -> {
            s.tile = 64;
            s.deflated = true;
            s.known = false;
        }));
        for (int bits : new int[] {16, 24, 32}) {
            forms.add(of("floating point, " + bits, s -> {
                s.bits = bits;
                s.floats = true;
                s.black = new double[] {0, 0, 0, 0};
                s.blackWidth = 2;
                s.blackHeight = 2;
                s.known = false;
            }));
        }
        forms.add(of("active area at odd places", s -> {
            s.left = 13;
            s.top = 7;
            s.outerWidth = WIDTH + 30;
            s.outerHeight = HEIGHT + 17;
            s.known = false; // LibRaw leaves out an odd column
        }));
        forms.add(of("black in 2 x 2", s -> {
            s.blackWidth = 2;
            s.blackHeight = 2;
            s.black = new double[] {512, 530.5, 490, 600};
            s.known = false;
        }));
        forms.add(of("black in 1 x 2", s -> {
            s.blackWidth = 2;
            s.black = new double[] {512, 700};
            s.known = false;
        }));
        forms.add(of("6 x 6, black in 6 x 6", s -> {
            s.pattern = CfaPattern.SIX;
            s.blackWidth = 6;
            s.blackHeight = 6;
            s.black = new double[36];
            for (int i = 0; i < 36; i++) {
                s.black[i] = 500 + 7 * i % 36;
            }
            s.known = false;
        }));
        forms.add(of("black by column and row, twelve bits", s -> {
            s.bits = 12;
            s.white = 4000;
            s.black = new double[] {128};
            s.columns = new double[WIDTH];
            s.rows = new double[HEIGHT];
            for (int x = 0; x < WIDTH; x++) {
                s.columns[x] = x % 5 * 3;
            }
            for (int y = 0; y < HEIGHT; y++) {
                s.rows[y] = -(y % 4) * 2;
            }
            s.known = false;
        }));
        forms.add(of("linearisation table", s -> {
            s.bits = 12;
            s.table = new int[4096];
            for (int i = 0; i < 4096; i++) {
                s.table[i] = (int) Math.rint(Math.pow(i / 4095.0, 2) * 16000);
            }
        }));
        for (CfaPattern pattern : new CfaPattern[] {
            CfaPattern.RGGB.shifted(1, 0), CfaPattern.RGGB.shifted(0, 1), CfaPattern.RGGB.shifted(1, 1)
        }) {
            forms.add(of("pattern " + pattern, s -> s.pattern = pattern));
        }
        forms.add(of("linear", s -> s.linear = 3));
        forms.add(of("linear, big-endian, in planes", s -> {
            s.linear = 3;
            s.planar = true;
            s.order = ByteOrder.BIG_ENDIAN;
            s.rowsAStrip = 30;
            s.known = false;
        }));
        forms.add(of("linear, black by channel, column and row", s -> {
            s.linear = 3;
            s.black = new double[] {400, 500, 600};
            s.columns = new double[WIDTH];
            s.rows = new double[HEIGHT];
            Arrays.setAll(s.columns, x -> x % 3 * 10);
            Arrays.setAll(s.rows, y -> -(y % 2) * 20);
            s.known = false;
        }));
        forms.add(of("one plane of grey", s -> {
            s.linear = 1;
            s.known = false;
        }));
        for (int orientation = 1; orientation <= 8; orientation++) {
            int turned = orientation;
            forms.add(of("turned " + turned, s -> s.tags.put(TiffField.ofShorts(Tag.ORIENTATION, turned))));
        }
        return forms.build();
    }

    @ParameterizedTest
    @MethodSource("forms")
    void patchesComeThrough(Source source) throws IOException, RefusedException {
        byte[] dng = source.file();
        Path original = folder.resolve("source.dng");
        Files.write(original, dng);
        if (source.known) {
            double scale = source.white - source.black[0];
            check(TestTools.libraw(folder, original), scale, source, "as LibRaw reads the source");
        }
        ResolvedSettings settings = ResolvedSettings.of(
                1600,
                NoiseModel.uniform(1e-4, 1e-6),
                new DenoiseSettings(false, "Quick", 0, 0),
                source.linear > 0 ? CfaPattern.NONE : source.pattern);
        Path returned = folder.resolve("return.dng");
        Files.deleteIfExists(returned);
        TestTools.writeReturn(dng, "source.dng", settings, returned);
        check(
                TestTools.libraw(folder, returned),
                LinearDngWriter.WHITE - LinearDngWriter.BLACK,
                source,
                "as LibRaw reads the return");
        if (source.linear == 0) {
            clippedIsExactlyWhite(returned);
        }
        edgesAreInPlace(TestTools.libraw(folder, returned), source);
    }

    /**
     * Of several raw pictures of full size the first whose NewSubFileType says so is the main one, wherever a preview or a reduced one
     * stands; the others are told.
     */
    @Test
    void theMainOneOfSeveralPictures() throws RefusedException {
        TiffDirectory main = SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), false);
        main.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 1));
        List<byte[]> samples = new java.util.ArrayList<>();
        for (int kind : new int[] {1, 0, 0}) {
            TiffDirectory raw = new TiffDirectory();
            byte[] strip = new byte[2 * 64 * 64];
            Arrays.fill(strip, (byte) (samples.size() + 1));
            raw.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, kind));
            raw.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, 64));
            raw.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, 64));
            raw.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 16));
            raw.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 1));
            raw.put(TiffField.ofShorts(Tag.COMPRESSION, 1));
            raw.put(TiffField.ofShorts(Tag.PHOTOMETRIC, Tag.PHOTOMETRIC_CFA));
            raw.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, 64));
            raw.put(TiffField.ofShorts(Tag.CFA_REPEAT_DIM, 2, 2));
            raw.put(TiffField.ofBytes(Tag.CFA_PATTERN, TiffType.BYTE, new byte[] {0, 1, 1, 2}));
            raw.put(TiffField.ofLongs(Tag.STRIP_OFFSETS, 8 + 8192L * samples.size()));
            raw.put(TiffField.ofLongs(Tag.STRIP_BYTE_COUNTS, strip.length));
            main.subDirectories().add(raw);
            samples.add(strip);
        }
        TiffDirectory none = new TiffDirectory();
        byte[] file = HandmadeDng.of(main, none, ByteOrder.LITTLE_ENDIAN, samples);
        OpenedFrame frame = DngReader.read(file);
        assertThat(frame.mosaic().sample(5, 5)).isEqualTo(0x0202);
        assertThat(frame.remarks()).singleElement().asString().startsWith("The file holds 2 raw pictures of full size");
    }

    private static void check(TestTools.Tiff16 picture, double scale, Source source, String what) {
        assertThat(picture.width()).as(what).isEqualTo(WIDTH);
        assertThat(picture.height()).as(what).isEqualTo(HEIGHT);
        for (int patch = 0; patch < PATCHES.length; patch++) {
            for (int c = 0; c < picture.channels(); c++) {
                double sum = 0;
                int count = 0;
                // Up to 8 px from its neighbours: what lies elsewhere than it should is seen.
                for (int y = patch / 4 * PATCH_HEIGHT + 8; y < (patch / 4 + 1) * PATCH_HEIGHT - 8; y++) {
                    for (int x = patch % 4 * PATCH_WIDTH + 8; x < (patch % 4 + 1) * PATCH_WIDTH - 8; x++) {
                        sum += picture.samples()[(y * picture.width() + x) * picture.channels() + c];
                        count++;
                    }
                }
                double wanted = PATCHES[patch][source.linear == 1 ? 1 : c];
                // Of few bits the nearest step is as near as it gets.
                double step = 0.5 / (source.floats ? 2000 : source.white - source.black[0]);
                assertThat(sum / count / scale)
                        .as("%s: patch %d, colour %d", what, patch, c)
                        .isCloseTo(wanted, within(0.002 * wanted + step));
            }
        }
    }

    /** Where the edge between two greys lies, from the light to both sides of it: whole pixels, in green, row for row the same. */
    private static void edgesAreInPlace(TestTools.Tiff16 picture, Source source) {
        int channel = picture.channels() == 3 ? 1 : 0;
        double left = 0;
        double right = 0;
        double between = 0;
        int rows = 0;
        for (int y = 12; y < PATCH_HEIGHT - 12; y++) {
            for (int k = 0; k < 8; k++) {
                left += picture.samples()[(y * WIDTH + PATCH_WIDTH - 16 + k) * picture.channels() + channel] / 8.0;
                right += picture.samples()[(y * WIDTH + PATCH_WIDTH + 8 + k) * picture.channels() + channel] / 8.0;
            }
            for (int x = PATCH_WIDTH - 8; x < PATCH_WIDTH + 8; x++) {
                between += picture.samples()[(y * WIDTH + x) * picture.channels() + channel];
            }
            rows++;
        }
        double ofLeft = (between - 16 * right) / (left - right);
        // A 6 × 6 array sees each colour in places of its own on both sides of an edge.
        double off = source.pattern.isSixBySix() ? 0.25 : 0.05;
        assertThat(ofLeft).as("%s: %d rows", source, rows).isCloseTo(8, within(off));
    }

    private static void clippedIsExactlyWhite(Path returned) throws IOException, RefusedException {
        TestTools.Tiff16 picture = TestTools.libraw(folder, returned);
        int x = 2 * PATCH_WIDTH + PATCH_WIDTH / 2;
        int y = PATCH_HEIGHT + PATCH_HEIGHT / 2;
        for (int c = 0; c < 3; c++) {
            assertThat(picture.samples()[(y * WIDTH + x) * 3 + c])
                    .isEqualTo(LinearDngWriter.WHITE - LinearDngWriter.BLACK);
        }
    }
}
