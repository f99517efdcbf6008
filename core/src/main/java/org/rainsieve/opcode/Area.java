package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import org.rainsieve.frame.RefusedException;

/** Rows, columns and planes that an opcode works on. */
record Area(int top, int left, int bottom, int right, int plane, int planes, int rowPitch, int columnPitch) {
    static Area of(ByteBuffer in) throws RefusedException {
        if (in.remaining() < 32) {
            throw Opcode.damaged();
        }
        Area area = new Area(
                in.getInt(), in.getInt(), in.getInt(), in.getInt(), in.getInt(), in.getInt(), in.getInt(), in.getInt());
        if (area.top < 0 || area.left < 0 || area.rowPitch < 1 || area.columnPitch < 1 || area.planes < 1) {
            throw Opcode.damaged();
        }
        return area;
    }

    boolean covers(int x, int y) {
        return (y - top) % rowPitch == 0 && (x - left) % columnPitch == 0;
    }
}
