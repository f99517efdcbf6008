package org.rainsieve.icc;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.White;

/** A display profile of three colorants and one curve (ICC.1:2010, version 4.3). */
public final class IccWriter {
    private IccWriter() {}

    public static byte[] profile(DeliverySpace space) {
        Matrix3 toXyz = space.primaries().toXyzD50();
        double[] m = toXyz.m();
        Map<String, byte[]> tags = new LinkedHashMap<>();
        tags.put("desc", text(space.title()));
        tags.put("cprt", text("No copyright is claimed for this profile"));
        tags.put("wtpt", xyz(White.D50.xyz()));
        tags.put("rXYZ", xyz(new double[] {m[0], m[3], m[6]}));
        tags.put("gXYZ", xyz(new double[] {m[1], m[4], m[7]}));
        tags.put("bXYZ", xyz(new double[] {m[2], m[5], m[8]}));
        byte[] curve = curve(space.curve());
        tags.put("rTRC", curve);
        tags.put("gTRC", curve);
        tags.put("bTRC", curve);
        ByteArrayOutputStream body = new ByteArrayOutputStream();
        int start = 128 + 4 + 12 * tags.size();
        ByteBuffer table = ByteBuffer.allocate(4 + 12 * tags.size()).putInt(tags.size());
        Map<byte[], Integer> placed = new java.util.IdentityHashMap<>();
        tags.forEach((name, bytes) -> {
            Integer at = placed.get(bytes);
            if (at == null) {
                at = start + body.size();
                placed.put(bytes, at);
                body.writeBytes(bytes);
                while (body.size() % 4 != 0) {
                    body.write(0);
                }
            }
            table.put(name.getBytes(StandardCharsets.US_ASCII)).putInt(at).putInt(bytes.length);
        });
        ByteBuffer out = ByteBuffer.allocate(start + body.size());
        out.putInt(out.capacity());
        out.position(8);
        out.putInt(0x04300000);
        out.put("mntrRGB XYZ ".getBytes(StandardCharsets.US_ASCII));
        out.putShort((short) 2026).putShort((short) 1).putShort((short) 1);
        out.position(36);
        out.put("acsp".getBytes(StandardCharsets.US_ASCII));
        out.position(68);
        for (double value : White.D50.xyz()) {
            out.putInt(fixed(value));
        }
        out.position(128);
        out.put(table.array()).put(body.toByteArray());
        return out.array();
    }

    private static byte[] text(String words) {
        byte[] letters = words.getBytes(StandardCharsets.UTF_16BE);
        return ByteBuffer.allocate(28 + letters.length)
                .put("mluc".getBytes(StandardCharsets.US_ASCII))
                .putInt(0)
                .putInt(1)
                .putInt(12)
                .put("enUS".getBytes(StandardCharsets.US_ASCII))
                .putInt(letters.length)
                .putInt(28)
                .put(letters)
                .array();
    }

    private static byte[] xyz(double[] values) {
        ByteBuffer out = ByteBuffer.allocate(20)
                .put("XYZ ".getBytes(StandardCharsets.US_ASCII))
                .putInt(0);
        for (double value : values) {
            out.putInt(fixed(value));
        }
        return out.array();
    }

    /** Function type 3: Y = (aX + b)^g for X ≥ d, cX below. */
    private static byte[] curve(double[] parameters) {
        ByteBuffer out = ByteBuffer.allocate(32)
                .put("para".getBytes(StandardCharsets.US_ASCII))
                .putInt(0)
                .putShort((short) 3)
                .putShort((short) 0);
        for (double value : parameters) {
            out.putInt(fixed(value));
        }
        return out.array();
    }

    private static int fixed(double value) {
        return (int) Math.round(value * 65536);
    }
}
