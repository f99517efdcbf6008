package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.List;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.GainField;
import org.rainsieve.frame.RefusedException;

/** GainMap: gains on a grid over the picture, for photosites at certain places of the pattern. */
record GainMap(Stored stored) implements Opcode {
    private static final int MOST_POINTS = 1 << 22;

    void multiply(GainField field, CfaPattern pattern, int width, int height) throws RefusedException {
        ByteBuffer in = stored.buffer();
        Area area = Area.of(in);
        if (in.remaining() < 44) {
            throw Opcode.damaged();
        }
        int down = in.getInt();
        int across = in.getInt();
        double spacingY = in.getDouble();
        double spacingX = in.getDouble();
        double originY = in.getDouble();
        double originX = in.getDouble();
        int planes = in.getInt();
        if (down < 1
                || across < 1
                || planes < 1
                || (long) down * across * planes > MOST_POINTS
                || in.remaining() < 4L * down * across * planes) {
            throw Opcode.damaged();
        }
        if (area.top() > pattern.height()
                || area.left() > pattern.width()
                || area.bottom() < height - pattern.height()
                || area.right() < width - pattern.width()) {
            throw new RefusedException("The DNG has gains for part of the picture only, which is not read.");
        }
        float[] gains = new float[down * across];
        for (int i = 0; i < gains.length; i++) {
            gains[i] = in.getFloat();
            if (!(gains[i] > 0 && gains[i] < 1000)) {
                throw Opcode.damaged();
            }
            in.position(in.position() + 4 * (planes - 1)); // a mosaic has one plane
        }
        GainField.Grid grid = new GainField.Grid(across, down, originX, originY, spacingX, spacingY, gains);
        for (int colour = 0; colour < 3; colour++) {
            List<GainField.Grid> of = new ArrayList<>();
            for (int i = 0; i < pattern.width() * pattern.height(); i++) {
                int x = i % pattern.width();
                int y = i / pattern.width();
                if (pattern.colourAt(x, y) == colour) {
                    of.add(area.covers(x, y) ? grid : null);
                }
            }
            if (of.stream().anyMatch(g -> g != null)) {
                field.multiply(colour, of);
            }
        }
    }
}
