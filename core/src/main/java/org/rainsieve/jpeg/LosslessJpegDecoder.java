package org.rainsieve.jpeg;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import org.rainsieve.frame.RefusedException;

/** Decodes lossless JPEG, ITU-T T.81 process 14 (SOF3): any predictor, 2 to 16 bits, 1 to 4 components, restarts. */
public final class LosslessJpegDecoder {
    /** Samples interleaved, row by row. */
    public record Image(int width, int height, int components, int bits, short[] samples) {}

    private static final int FAST = 10;

    private static final VarHandle BIG_ENDIAN = MethodHandles.byteArrayViewVarHandle(int[].class, ByteOrder.BIG_ENDIAN);

    private final byte[] data;
    private final int end;
    private int at;
    private long bits;
    private int held;
    private boolean ended;

    private final int[][] fast = new int[4][];
    private final int[][] maxCode = new int[4][];
    private final int[][] valueOffset = new int[4][];
    private final byte[][] values = new byte[4][];

    private LosslessJpegDecoder(byte[] data, int from, int length) {
        this.data = data;
        this.at = from;
        this.end = from + length;
    }

    /**
     * @param maxSamples refuses a header that promises more samples than this, before anything is allocated
     */
    public static Image decode(byte[] data, int from, int length, long maxSamples) throws RefusedException {
        if (from < 0 || length < 4 || (long) from + length > data.length) {
            throw new RefusedException(
                    "A compressed part of the picture lies outside the file: the file is cut short.");
        }
        return new LosslessJpegDecoder(data, from, length).read(maxSamples);
    }

    private Image read(long maxSamples) throws RefusedException {
        int width = 0;
        int height = 0;
        int components = 0;
        int precision = 0;
        int restart = 0;
        int[] ids = new int[4];
        if (word() != 0xffd8) {
            throw broken();
        }
        while (true) {
            int marker = word();
            if (marker == 0xffff) {
                at--;
                continue;
            }
            if (marker < 0xff01) {
                throw broken();
            }
            int length = word();
            int next = at + length - 2;
            if (length < 2 || next > end) {
                throw broken();
            }
            if (marker == 0xffc3) {
                precision = octet();
                height = word();
                width = word();
                components = octet();
                if (precision < 2 || precision > 16 || components < 1 || components > 4 || width == 0 || height == 0) {
                    throw broken();
                }
                if ((long) width * height * components > maxSamples) {
                    throw new RefusedException(
                            "A compressed part of the picture claims to be larger than the picture.");
                }
                for (int c = 0; c < components; c++) {
                    ids[c] = octet();
                    if (octet() != 0x11) {
                        throw new RefusedException(
                                "The compressed picture has reduced colour planes, which raw files do not use.");
                    }
                    octet();
                }
            } else if (marker == 0xffc4) {
                while (at < next) {
                    table();
                }
            } else if (marker == 0xffdd) {
                restart = word();
            } else if (marker == 0xffda) {
                return scan(width, height, components, precision, restart, ids, next);
            } else if (marker >= 0xffc0 && marker <= 0xffcf && marker != 0xffc8 && marker != 0xffcc) {
                throw new RefusedException("The picture is compressed with a kind of JPEG that is not lossless.");
            }
            at = next;
        }
    }

    private void table() throws RefusedException {
        int head = octet();
        int slot = head & 15;
        if (slot > 3) {
            throw broken();
        }
        int[] counts = new int[17];
        int total = 0;
        for (int length = 1; length <= 16; length++) {
            counts[length] = octet();
            total += counts[length];
        }
        if (total > 256 || at + total > end) {
            throw broken();
        }
        byte[] symbols = java.util.Arrays.copyOfRange(data, at, at + total);
        at += total;
        int[] quick = new int[1 << FAST];
        int[] max = new int[18];
        int[] offset = new int[18];
        int code = 0;
        int next = 0;
        for (int length = 1; length <= 16; length++) {
            offset[length] = next - code;
            for (int i = 0; i < counts[length]; i++, code++, next++) {
                if (length <= FAST) {
                    int first = code << FAST - length;
                    for (int k = 0; k < 1 << FAST - length && first + k < quick.length; k++) {
                        quick[first + k] = length << 8 | symbols[next] & 0xff;
                    }
                }
            }
            max[length] = counts[length] == 0 ? -1 : code - 1;
            if (code > 1 << length) {
                throw broken();
            }
            code <<= 1;
        }
        fast[slot] = quick;
        maxCode[slot] = max;
        valueOffset[slot] = offset;
        values[slot] = symbols;
    }

    private Image scan(int width, int height, int components, int precision, int restart, int[] ids, int next)
            throws RefusedException {
        if (components == 0 || octet() != components) {
            throw broken();
        }
        int[] slots = new int[components];
        for (int c = 0; c < components; c++) {
            if (octet() != ids[c]) {
                throw broken();
            }
            slots[c] = octet() >> 4;
            if (slots[c] > 3 || fast[slots[c]] == null) {
                throw broken();
            }
        }
        int predictor = octet();
        octet();
        int shift = octet() & 15;
        if (predictor < 1 || predictor > 7 || shift >= precision) {
            throw broken();
        }
        at = next;
        short[] samples = new short[width * height * components];
        int rowLength = width * components;
        int begin = 1 << precision - shift - 1;
        int toRestart = restart;
        boolean fresh = true;
        // The first line of the scan and of each restart interval knows no line above it (T.81, H.1.2.1).
        int firstLine = 0;
        for (int y = 0; y < height; y++) {
            int row = y * rowLength;
            for (int x = 0; x < width; x++) {
                if (restart > 0 && toRestart == 0) {
                    restart();
                    toRestart = restart;
                    fresh = true;
                    firstLine = y;
                }
                for (int c = 0; c < components; c++) {
                    int i = row + x * components + c;
                    int guess;
                    if (fresh) {
                        guess = begin;
                    } else if (y == firstLine && x > 0) {
                        guess = samples[i - components] & 0xffff;
                    } else if (x == 0) {
                        guess = samples[i - rowLength] & 0xffff;
                    } else {
                        int a = samples[i - components] & 0xffff;
                        int b = samples[i - rowLength] & 0xffff;
                        int k = samples[i - rowLength - components] & 0xffff;
                        guess = switch (predictor) {
                            case 1 -> a;
                            case 2 -> b;
                            case 3 -> k;
                            case 4 -> a + b - k;
                            case 5 -> a + (b - k >> 1);
                            case 6 -> b + (a - k >> 1);
                            default -> a + b >> 1;
                        };
                    }
                    samples[i] = (short) (guess + difference(slots[c]));
                }
                fresh = false;
                toRestart--;
            }
        }
        if (shift > 0) {
            for (int i = 0; i < samples.length; i++) {
                samples[i] = (short) (samples[i] << shift);
            }
        }
        return new Image(width, height, components, precision, samples);
    }

    private int difference(int slot) throws RefusedException {
        if (held < 32) {
            fill();
        }
        int peek = (int) (bits >>> held - 16) & 0xffff;
        int entry = fast[slot][peek >> 16 - FAST];
        int category;
        if (entry != 0) {
            held -= entry >> 8;
            category = entry & 0xff;
        } else {
            int length = FAST + 1;
            while (length <= 16 && (peek >> 16 - length) > maxCode[slot][length]) {
                length++;
            }
            if (length > 16) {
                throw new RefusedException("The compressed picture is damaged.");
            }
            int index = valueOffset[slot][length] + (peek >> 16 - length);
            if (index < 0 || index >= values[slot].length) {
                throw new RefusedException("The compressed picture is damaged.");
            }
            held -= length;
            category = values[slot][index] & 0xff;
        }
        if (category == 0) {
            return 0;
        }
        if (category == 16) {
            return 1 << 15;
        }
        if (category > 16) {
            throw new RefusedException("The compressed picture is damaged.");
        }
        if (held < category) {
            fill();
        }
        held -= category;
        int value = (int) (bits >>> held) & (1 << category) - 1;
        return value < 1 << category - 1 ? value - (1 << category) + 1 : value;
    }

    /** Takes bytes until at least 48 bits are held; past the end of the data zeros are supplied, and counted. */
    private void fill() throws RefusedException {
        while (held <= 48) {
            if (held <= 32 && !ended && end - at >= 4) {
                int four = (int) BIG_ENDIAN.get(data, at);
                // No byte of it is 0xff, which would begin a marker: of the complement no byte is 0.
                if ((~four - 0x01010101 & four & 0x80808080) == 0) {
                    bits = bits << 32 | four & 0xffffffffL;
                    at += 4;
                    held += 32;
                    continue;
                }
            }
            int value = 0;
            if (!ended && at < end) {
                value = data[at++] & 0xff;
                if (value == 0xff) {
                    int follow = at < end ? data[at] & 0xff : 0xd9;
                    if (follow == 0) {
                        at++;
                    } else {
                        at--;
                        ended = true;
                        value = 0;
                    }
                }
            } else {
                ended = true;
                if (++missing > 1024) {
                    throw new RefusedException("The compressed picture ends early: the file is cut short.");
                }
            }
            bits = bits << 8 | value;
            held += 8;
        }
    }

    private int missing;

    private void restart() throws RefusedException {
        held = 0;
        bits = 0;
        ended = false;
        while (at + 1 < end) {
            if ((data[at] & 0xff) == 0xff && (data[at + 1] & 0xf8) == 0xd0) {
                at += 2;
                return;
            }
            at++;
        }
        throw new RefusedException("The compressed picture ends early: the file is cut short.");
    }

    private int octet() throws RefusedException {
        if (at >= end) {
            throw broken();
        }
        return data[at++] & 0xff;
    }

    private int word() throws RefusedException {
        return octet() << 8 | octet();
    }

    private static RefusedException broken() {
        return new RefusedException("The compressed picture is damaged: its header cannot be read.");
    }
}
