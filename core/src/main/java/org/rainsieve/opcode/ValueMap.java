package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import org.rainsieve.frame.RefusedException;

/** MapTable and MapPolynomial: other values for values. */
record ValueMap(Stored stored) implements Opcode {
    Area area() throws RefusedException {
        return Area.of(stored.buffer());
    }

    /** @param black sample at which the map's 0 lies, {@code white} its 1 */
    void map(short[] samples, int width, int black, int white) throws RefusedException {
        ByteBuffer in = stored.buffer();
        Area area = Area.of(in);
        short[] table = new short[65536];
        if (stored.id() == MAP_TABLE) {
            int size = in.remaining() < 4 ? 0 : in.getInt();
            if (size < 1 || size > 65536 || in.remaining() < 2 * size) {
                throw Opcode.damaged();
            }
            int[] values = new int[size];
            for (int i = 0; i < size; i++) {
                values[i] = in.getShort() & 0xffff;
            }
            for (int i = 0; i < table.length; i++) {
                // The table speaks of values from 0 to 65,535; below black it has nothing to say.
                int value = Math.round((float) (i - black) * 65535 / (white - black));
                float mapped = value < 0 ? value : values[Math.min(size - 1, value)];
                table[i] = OpcodeList.laid(black + mapped / 65535 * (white - black));
            }
        } else {
            int degree = in.remaining() < 4 ? -1 : in.getInt();
            if (degree < 0 || degree > 8 || in.remaining() < 8 * (degree + 1)) {
                throw Opcode.damaged();
            }
            double[] coefficients = new double[degree + 1];
            for (int i = 0; i <= degree; i++) {
                coefficients[i] = in.getDouble();
            }
            for (int i = 0; i < table.length; i++) {
                double x = (double) (i - black) / (white - black);
                double sum = 0;
                for (int k = degree; k >= 0; k--) {
                    sum = sum * x + coefficients[k];
                }
                table[i] = OpcodeList.laid(black + sum * (white - black));
            }
        }
        int height = samples.length / width;
        for (int y = area.top(); y < Math.min(height, area.bottom()); y += area.rowPitch()) {
            for (int x = area.left(); x < Math.min(width, area.right()); x += area.columnPitch()) {
                samples[y * width + x] = table[samples[y * width + x] & 0xffff];
            }
        }
    }
}
