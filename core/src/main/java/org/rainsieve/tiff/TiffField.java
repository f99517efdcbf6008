package org.rainsieve.tiff;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;

/** One field of a directory: its values as stored bytes, in the given byte order. */
public record TiffField(int tag, int type, int count, byte[] bytes, ByteOrder order) {

    public static TiffField ofShorts(int tag, int... values) {
        ByteBuffer buffer = buffer(values.length * 2);
        for (int value : values) {
            buffer.putShort((short) value);
        }
        return new TiffField(tag, TiffType.SHORT, values.length, buffer.array(), ByteOrder.LITTLE_ENDIAN);
    }

    public static TiffField ofLongs(int tag, long... values) {
        ByteBuffer buffer = buffer(values.length * 4);
        for (long value : values) {
            buffer.putInt((int) value);
        }
        return new TiffField(tag, TiffType.LONG, values.length, buffer.array(), ByteOrder.LITTLE_ENDIAN);
    }

    public static TiffField ofBytes(int tag, int type, byte[] values) {
        return new TiffField(tag, type, values.length, values, ByteOrder.LITTLE_ENDIAN);
    }

    /** Text with its closing NUL. */
    public static TiffField ofText(int tag, String text) {
        byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
        byte[] closed = java.util.Arrays.copyOf(utf8, utf8.length + 1);
        return new TiffField(tag, TiffType.ASCII, closed.length, closed, ByteOrder.LITTLE_ENDIAN);
    }

    public static TiffField ofDoubles(int tag, double... values) {
        ByteBuffer buffer = buffer(values.length * 8);
        for (double value : values) {
            buffer.putDouble(value);
        }
        return new TiffField(tag, TiffType.DOUBLE, values.length, buffer.array(), ByteOrder.LITTLE_ENDIAN);
    }

    /** Rationals with the given denominator; signed when {@code type} is SRATIONAL. */
    public static TiffField ofRationals(int tag, int type, int denominator, double... values) {
        ByteBuffer buffer = buffer(values.length * 8);
        for (double value : values) {
            buffer.putInt((int) Math.round(value * denominator)).putInt(denominator);
        }
        return new TiffField(tag, type, values.length, buffer.array(), ByteOrder.LITTLE_ENDIAN);
    }

    private static ByteBuffer buffer(int size) {
        return ByteBuffer.allocate(size).order(ByteOrder.LITTLE_ENDIAN);
    }

    /** The value as a whole number; NaN-like values become 0. */
    public long asLong(int index) {
        return (long) asDouble(index);
    }

    public int asInt(int index) {
        return (int) asDouble(index);
    }

    /** The value as a number. A rational with denominator 0 is NaN. */
    public double asDouble(int index) {
        if (index < 0 || index >= count) {
            throw new IndexOutOfBoundsException("Field " + tag + " has " + count + " values");
        }
        ByteBuffer b = ByteBuffer.wrap(bytes).order(order);
        int at = index * TiffType.size(type);
        return switch (type) {
            case TiffType.BYTE, TiffType.ASCII, TiffType.UNDEFINED -> bytes[at] & 0xff;
            case TiffType.SBYTE -> bytes[at];
            case TiffType.SHORT -> b.getShort(at) & 0xffff;
            case TiffType.SSHORT -> b.getShort(at);
            case TiffType.LONG, TiffType.IFD -> b.getInt(at) & 0xffffffffL;
            case TiffType.SLONG -> b.getInt(at);
            case TiffType.RATIONAL -> ratio(b.getInt(at) & 0xffffffffL, b.getInt(at + 4) & 0xffffffffL);
            case TiffType.SRATIONAL -> ratio(b.getInt(at), b.getInt(at + 4));
            case TiffType.FLOAT -> b.getFloat(at);
            case TiffType.DOUBLE -> b.getDouble(at);
            default -> Double.NaN;
        };
    }

    private static double ratio(long numerator, long denominator) {
        return denominator == 0 ? Double.NaN : (double) numerator / denominator;
    }

    public double[] asDoubles() {
        double[] values = new double[count];
        for (int i = 0; i < count; i++) {
            values[i] = asDouble(i);
        }
        return values;
    }

    /** The text up to its first NUL, trimmed. */
    public String asText() {
        int end = 0;
        while (end < bytes.length && bytes[end] != 0) {
            end++;
        }
        return new String(bytes, 0, end, StandardCharsets.UTF_8).trim();
    }

    /** The same values stored in the given byte order. */
    public TiffField inOrder(ByteOrder wanted) {
        if (order == wanted) {
            return this;
        }
        if (type == TiffType.UNDEFINED) {
            return new TiffField(tag, type, count, StructuredBytes.swapped(tag, bytes, order), wanted);
        }
        int unit = type == TiffType.RATIONAL || type == TiffType.SRATIONAL ? 4 : TiffType.size(type);
        byte[] swapped = bytes.clone();
        StructuredBytes.swap(swapped, 0, unit, swapped.length / unit);
        return new TiffField(tag, type, count, swapped, wanted);
    }
}
