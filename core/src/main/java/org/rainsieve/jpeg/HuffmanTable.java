package org.rainsieve.jpeg;

import java.util.Arrays;

/** A JPEG Huffman table of at most 16-bit codes, optimal for given counts (ITU-T T.81, annex K.2 and C.2). */
public final class HuffmanTable {
    private final int[] lengthCounts;
    private final byte[] values;
    private final int[] codes = new int[256];
    private final int[] lengths = new int[256];

    /**
     * @param lengthCounts how many codes have 1, 2, … 16 bits, index 0 unused
     * @param values the symbols in order of their codes
     */
    HuffmanTable(int[] lengthCounts, byte[] values) {
        this.lengthCounts = lengthCounts;
        this.values = values;
        int code = 0;
        int next = 0;
        for (int length = 1; length <= 16; length++) {
            for (int i = 0; i < lengthCounts[length] && next < values.length; i++) {
                int symbol = values[next++] & 0xff;
                codes[symbol] = code++;
                lengths[symbol] = length;
            }
            code <<= 1;
        }
    }

    public static HuffmanTable optimal(long[] counts) {
        long[] frequency = Arrays.copyOf(counts, 257);
        frequency[256] = 1; // keeps the code of all ones unused
        int[] size = new int[257];
        int[] others = new int[257];
        Arrays.fill(others, -1);
        while (true) {
            int first = least(frequency, -1);
            int second = least(frequency, first);
            if (second < 0) {
                break;
            }
            frequency[first] += frequency[second];
            frequency[second] = 0;
            size[first]++;
            while (others[first] >= 0) {
                first = others[first];
                size[first]++;
            }
            others[first] = second;
            size[second]++;
            while (others[second] >= 0) {
                second = others[second];
                size[second]++;
            }
        }
        int[] number = new int[64];
        for (int s : size) {
            if (s > 0) {
                number[Math.min(63, s)]++;
            }
        }
        // Figure K.3: shorten codes of more than 16 bits.
        for (int length = 63; length > 16; length--) {
            while (number[length] > 0) {
                int shorter = length - 2;
                while (number[shorter] == 0) {
                    shorter--;
                }
                number[length] -= 2;
                number[length - 1]++;
                number[shorter + 1] += 2;
                number[shorter]--;
            }
        }
        int longest = 16;
        while (number[longest] == 0) {
            longest--;
        }
        number[longest]--; // the reserved code
        byte[] values = new byte[256];
        int count = 0;
        for (int length = 1; length < 64; length++) {
            for (int symbol = 0; symbol < 256; symbol++) {
                if (size[symbol] == length) {
                    values[count++] = (byte) symbol;
                }
            }
        }
        return new HuffmanTable(Arrays.copyOf(number, 17), Arrays.copyOf(values, count));
    }

    /** The symbol of least positive frequency, the larger symbol on a tie; -1 if there is none besides the other. */
    private static int least(long[] frequency, int other) {
        int found = -1;
        for (int symbol = 0; symbol < frequency.length; symbol++) {
            if (symbol != other && frequency[symbol] > 0 && (found < 0 || frequency[symbol] <= frequency[found])) {
                found = symbol;
            }
        }
        return found;
    }

    public int[] codes() {
        return codes;
    }

    public int[] lengths() {
        return lengths;
    }

    byte[] values() {
        return values;
    }

    int countOfLength(int length) {
        return lengthCounts[length];
    }
}
