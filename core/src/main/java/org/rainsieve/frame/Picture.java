package org.rainsieve.frame;

import org.rainsieve.primitives.Border;

/**
 * A picture with all three colours at every pixel, linear, two bytes a sample, held whole: a raw file that was demosaiced
 * already, or a rendered file made linear.
 */
public final class Picture implements Capture {
    private final int width;
    private final int height;
    private final short[][] samples;
    private final float black;
    private final float scale;
    private final int white;
    private final boolean rendered;

    /**
     * @param samples three planes of width · height unsigned samples; the same three times for grey pictures
     * @param rendered whether the picture was developed for viewing before, so that its noise is no longer the sensor's
     */
    public Picture(int width, int height, short[][] samples, float black, int white, boolean rendered) {
        if (width < 2 || height < 2 || samples.length != 3 || !(black < white)) {
            throw new IllegalArgumentException("A picture has three planes, and black below white");
        }
        for (short[] plane : samples) {
            if (plane.length != width * height) {
                throw new IllegalArgumentException("The samples do not fill " + width + " x " + height + " pixels");
            }
        }
        this.width = width;
        this.height = height;
        this.samples = samples;
        this.black = black;
        this.white = white;
        this.scale = 1 / (white - black);
        this.rendered = rendered;
    }

    @Override
    public int width() {
        return width;
    }

    @Override
    public int height() {
        return height;
    }

    @Override
    public CfaPattern pattern() {
        return CfaPattern.NONE;
    }

    @Override
    public int channels() {
        return 3;
    }

    public boolean rendered() {
        return rendered;
    }

    /** Whether it has no colours at all: its planes are one and the same. */
    public boolean grey() {
        return samples[0] == samples[1] && samples[1] == samples[2];
    }

    public int sample(int channel, int x, int y) {
        return samples[channel][y * width + x] & 0xffff;
    }

    public boolean clippedAt(int channel, int x, int y) {
        return sample(channel, x, y) >= white;
    }

    public boolean emptyAt(int channel, int x, int y) {
        return sample(channel, x, y) == 0;
    }

    public float at(int channel, int x, int y) {
        return (sample(channel, x, y) - black) * scale;
    }

    @Override
    public void fill(Planes out) {
        Region r = out.region();
        for (int c = 0; c < 3; c++) {
            float[] to = out.channel(c);
            for (int y = r.y(); y < r.bottom(); y++) {
                int row = Border.mirrorAboutPixel(y, height) * width;
                int o = (y - r.y()) * r.width();
                for (int x = r.x(); x < r.right(); x++) {
                    to[o + x - r.x()] =
                            ((samples[c][row + Border.mirrorAboutPixel(x, width)] & 0xffff) - black) * scale;
                }
            }
        }
    }

    @Override
    public void applyGains(Planes colours) {
        // What a file asks for was made when it was opened.
    }
}
