package org.rainsieve.dng;

/** Floating-point samples of 16, 24 and 32 bits (IEEE 754; 24 bits as in the DNG specification 1.4: 1 + 7 + 16). */
final class FloatingPoint {
    private FloatingPoint() {}

    static float read(byte[] from, int at, int bits, boolean big) {
        int value = 0;
        int bytes = bits / 8;
        for (int b = 0; b < bytes; b++) {
            value = value << 8 | from[big ? at + b : at + bytes - 1 - b] & 255;
        }
        return switch (bits) {
            case 16 -> widened(value, 15, 5, 10);
            case 24 -> widened(value, 23, 7, 16);
            default -> Float.intBitsToFloat(value);
        };
    }

    private static float widened(int value, int signBit, int exponentBits, int fractionBits) {
        int exponent = value >> fractionBits & (1 << exponentBits) - 1;
        int fraction = value & (1 << fractionBits) - 1;
        int bias = (1 << exponentBits - 1) - (exponentBits == 5 ? 1 : 0);
        float sign = (value >> signBit & 1) == 0 ? 1 : -1;
        if (exponent == (1 << exponentBits) - 1) {
            return fraction == 0 ? sign * Float.POSITIVE_INFINITY : Float.NaN;
        }
        float scale = 1f / (1 << fractionBits);
        return exponent == 0
                ? sign * fraction * scale * (float) Math.pow(2, 1 - bias)
                : sign * (1 + fraction * scale) * (float) Math.pow(2, exponent - bias);
    }
}
