package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import org.rainsieve.frame.RefusedException;

/** WarpRectilinear: distortion and colour fringes of a lens, as a polynomial of the radius for each colour. */
record Warp(Stored stored) implements Opcode {
    static final double[] NONE = {1, 0, 0, 0, 0, 0};

    /**
     * @param coefficients six numbers each for red, green and blue
     * @param centre from the picture's middle in half short sides
     */
    record Told(double[][] coefficients, double[] centre) {}

    Told told(int width, int height) throws RefusedException {
        ByteBuffer in = stored.buffer();
        int planes = in.remaining() < 4 ? 0 : in.getInt();
        if (planes != 1 && planes != 3) {
            throw Opcode.damaged();
        }
        double[][] warp = new double[3][];
        for (int plane = 0; plane < planes; plane++) {
            warp[plane] = Opcode.numbers(in, 6);
        }
        return new Told(
                planes == 3 ? warp : new double[][] {warp[0], warp[0], warp[0]}, Opcode.centre(in, width, height));
    }
}
