package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import java.util.Arrays;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;

/** FixBadPixelsConstant and FixBadPixelsList: photosites that are to become like their neighbours. */
record BadPixels(Stored stored) implements Opcode {
    void repair(short[] samples, int width, CfaPattern pattern) throws RefusedException {
        ByteBuffer in = stored.buffer();
        int height = samples.length / width;
        boolean[] bad = new boolean[samples.length];
        if (in.remaining() < 8) {
            throw Opcode.damaged();
        }
        if (stored.id() == FIX_BAD_PIXELS_CONSTANT) {
            int constant = in.getInt();
            for (int i = 0; i < samples.length; i++) {
                bad[i] = (samples[i] & 0xffff) == constant;
            }
        } else {
            in.getInt(); // the phase of the pattern, which the file tells already
            int points = in.getInt();
            int rectangles = in.remaining() < 4 ? -1 : in.getInt();
            if (points < 0 || rectangles < 0 || in.remaining() < 8L * points + 16L * rectangles) {
                throw Opcode.damaged();
            }
            for (int i = 0; i < points; i++) {
                int row = in.getInt();
                int column = in.getInt();
                if (row >= 0 && row < height && column >= 0 && column < width) {
                    bad[row * width + column] = true;
                }
            }
            for (int i = 0; i < rectangles; i++) {
                int top = Math.max(0, in.getInt());
                int left = Math.max(0, in.getInt());
                int bottom = Math.min(height, in.getInt());
                int right = Math.min(width, in.getInt());
                for (int y = top; y < bottom; y++) {
                    Arrays.fill(bad, y * width + left, Math.max(y * width + left, y * width + right), true);
                }
            }
        }
        short[] whole = samples.clone();
        for (int i = 0; i < samples.length; i++) {
            if (bad[i]) {
                samples[i] = likeNeighbours(whole, bad, width, height, i % width, i / width, pattern);
            }
        }
    }

    /** The mean of the nearest good photosites of the same colour, in ever wider squares. */
    private static short likeNeighbours(
            short[] samples, boolean[] bad, int width, int height, int x, int y, CfaPattern pattern) {
        int colour = pattern.colourAt(x, y);
        for (int reach = 2; reach <= 16; reach += 2) {
            long sum = 0;
            int count = 0;
            for (int py = Math.max(0, y - reach); py <= Math.min(height - 1, y + reach); py++) {
                for (int px = Math.max(0, x - reach); px <= Math.min(width - 1, x + reach); px++) {
                    if (!bad[py * width + px] && pattern.colourAt(px, py) == colour) {
                        sum += samples[py * width + px] & 0xffff;
                        count++;
                    }
                }
            }
            if (count >= 2) {
                return (short) (sum / count);
            }
        }
        return samples[y * width + x];
    }
}
