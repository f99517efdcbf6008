package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import org.rainsieve.frame.GainField;
import org.rainsieve.frame.RefusedException;

/** FixVignetteRadial: gain = 1 + k0·r² + k1·r⁴ + … + k4·r¹⁰, r = 1 at the corner farthest from the centre. */
record RadialShading(Stored stored) implements Opcode {
    /** Shading is smooth: a grid this fine follows it to 1e-4. */
    private static final int POINTS = 65;

    /** @param centre from the picture's middle in half short sides */
    record Told(double[] k, double[] centre) {}

    /** As a lens's correction. */
    Told told(int width, int height) throws RefusedException {
        ByteBuffer in = stored.buffer();
        return new Told(Opcode.numbers(in, 5), Opcode.centre(in, width, height));
    }

    void multiply(GainField field, int width, int height) throws RefusedException {
        ByteBuffer in = stored.buffer();
        if (in.remaining() < 56) {
            throw Opcode.damaged();
        }
        double[] k = new double[5];
        for (int i = 0; i < 5; i++) {
            k[i] = in.getDouble();
        }
        double centreX = in.getDouble() * width;
        double centreY = in.getDouble() * height;
        double farthest = Math.hypot(Math.max(centreX, width - centreX), Math.max(centreY, height - centreY));
        int n = POINTS;
        float[] gains = new float[n * n];
        for (int i = 0; i < gains.length; i++) {
            double dx = (double) (i % n) / (n - 1) * width - centreX;
            double dy = (double) (i / n) / (n - 1) * height - centreY;
            double r2 = (dx * dx + dy * dy) / (farthest * farthest);
            gains[i] = (float) (1 + r2 * (k[0] + r2 * (k[1] + r2 * (k[2] + r2 * (k[3] + r2 * k[4])))));
            if (!(gains[i] > 0 && gains[i] < 1000)) {
                throw Opcode.damaged();
            }
        }
        GainField.Grid grid = new GainField.Grid(n, n, 0, 0, 1.0 / (n - 1), 1.0 / (n - 1), gains);
        for (int colour = 0; colour < 3; colour++) {
            field.multiply(colour, grid);
        }
    }
}
