package org.rainsieve.jpeg;

import java.util.Arrays;

/**
 * Lossless JPEG, ITU-T T.81 process 14 (SOF3, Huffman): interleaved components of 16 bits, one optimal table for all
 * components, and whichever predictor packs a sample of the tile best.
 */
public final class LosslessJpegEncoder {
    private static final int[] PREDICTORS = {1, 4, 6, 7};

    private byte[] out;
    private int size;
    private long bits;
    private int held;

    /**
     * @param samples width · height · components unsigned 16-bit samples, interleaved
     * @return a complete JPEG stream
     */
    public byte[] encode(short[] samples, int width, int height, int components) {
        int predictor = choosePredictor(samples, width, height, components);
        int rowLength = width * components;
        short[] differences = new short[samples.length];
        long[] counts = new long[257];
        for (int y = 0; y < height; y++) {
            differRow(samples, y, rowLength, components, predictor, differences);
        }
        for (short difference : differences) {
            counts[category(difference)]++;
        }
        HuffmanTable table = HuffmanTable.optimal(counts);
        out = new byte[samples.length * 2 + 1024];
        size = 0;
        bits = 0;
        held = 0;
        header(width, height, components, predictor, table);
        int[] codes = table.codes();
        int[] lengths = table.lengths();
        for (short difference : differences) {
            int category = category(difference);
            int length = lengths[category];
            if (category > 0 && category < 16) {
                int value = difference < 0 ? difference - 1 : difference;
                put(codes[category] << category | value & (1 << category) - 1, length + category);
            } else {
                put(codes[category], length);
            }
        }
        if (held > 0) {
            put((1 << 8 - (held & 7)) - 1, 8 - (held & 7) & 7);
        }
        flush();
        marker(0xd9);
        return Arrays.copyOf(out, size);
    }

    /** Category SSSS of a difference modulo 2^16 (T.81, H.1.2.2): 16 stands for 32768 alone. */
    private static int category(short difference) {
        return difference == Short.MIN_VALUE ? 16 : 32 - Integer.numberOfLeadingZeros(Math.abs(difference));
    }

    private static int choosePredictor(short[] samples, int width, int height, int components) {
        int rowLength = width * components;
        int best = PREDICTORS[0];
        long least = Long.MAX_VALUE;
        short[] row = new short[samples.length];
        int step = Math.max(1, height / 16);
        for (int predictor : PREDICTORS) {
            long cost = 0;
            for (int y = step / 2 + 1; y < height; y += step) {
                differRow(samples, y, rowLength, components, predictor, row);
                for (int i = y * rowLength; i < (y + 1) * rowLength; i++) {
                    cost += category(row[i]);
                }
            }
            if (cost < least) {
                least = cost;
                best = predictor;
            }
        }
        return best;
    }

    private static void differRow(
            short[] samples, int y, int rowLength, int components, int predictor, short[] differences) {
        int row = y * rowLength;
        for (int i = 0; i < components; i++) {
            int above = y == 0 ? 1 << 15 : samples[row + i - rowLength] & 0xffff;
            differences[row + i] = (short) (samples[row + i] - above);
        }
        int end = row + rowLength;
        if (y == 0 || predictor == 1) {
            for (int i = row + components; i < end; i++) {
                differences[i] = (short) (samples[i] - samples[i - components]);
            }
            return;
        }
        for (int i = row + components; i < end; i++) {
            int a = samples[i - components] & 0xffff;
            int b = samples[i - rowLength] & 0xffff;
            int c = samples[i - rowLength - components] & 0xffff;
            int guess = switch (predictor) {
                case 4 -> a + b - c;
                case 6 -> b + (a - c >> 1);
                default -> a + b >> 1;
            };
            differences[i] = (short) (samples[i] - guess);
        }
    }

    private void header(int width, int height, int components, int predictor, HuffmanTable table) {
        marker(0xd8);
        marker(0xc3);
        word(8 + 3 * components);
        byteOut(16);
        word(height);
        word(width);
        byteOut(components);
        for (int c = 0; c < components; c++) {
            byteOut(c);
            byteOut(0x11);
            byteOut(0);
        }
        marker(0xc4);
        byte[] values = table.values();
        word(19 + values.length);
        byteOut(0);
        for (int length = 1; length <= 16; length++) {
            byteOut(table.countOfLength(length));
        }
        for (byte value : values) {
            byteOut(value);
        }
        marker(0xda);
        word(6 + 2 * components);
        byteOut(components);
        for (int c = 0; c < components; c++) {
            byteOut(c);
            byteOut(0);
        }
        byteOut(predictor);
        byteOut(0);
        byteOut(0);
    }

    private void marker(int code) {
        byteOut(0xff);
        byteOut(code);
    }

    private void word(int value) {
        byteOut(value >> 8);
        byteOut(value);
    }

    private void byteOut(int value) {
        ensure(1);
        out[size++] = (byte) value;
    }

    private void ensure(int more) {
        if (size + more > out.length) {
            out = Arrays.copyOf(out, out.length + (out.length >> 1) + more);
        }
    }

    private void put(int code, int length) {
        bits = bits << length | code & (1L << length) - 1;
        held += length;
        if (held >= 32) {
            flush();
        }
    }

    private void flush() {
        ensure(16);
        while (held >= 8) {
            held -= 8;
            byte value = (byte) (bits >>> held);
            out[size++] = value;
            if (value == -1) {
                out[size++] = 0;
            }
        }
    }
}
