package org.rainsieve.frame;

/**
 * Separate channels of one region, row by row. Values are linear, black-subtracted, 1.0 = the sensor's clipping point;
 * negative values are kept. Index of (x, y): {@code (y - region.y()) * region.width() + x - region.x()}.
 */
public final class Planes {
    private final Region region;
    private final float[][] data;

    public Planes(Region region, int channels) {
        this.region = region;
        this.data = new float[channels][Math.toIntExact(region.area())];
    }

    public Region region() {
        return region;
    }

    public int channels() {
        return data.length;
    }

    public float[] channel(int channel) {
        return data[channel];
    }

    public int index(int x, int y) {
        return (y - region.y()) * region.width() + x - region.x();
    }

    public float at(int channel, int x, int y) {
        return data[channel][index(x, y)];
    }

    /** Copies what the two regions share from the other into this. */
    public void copyFrom(Planes other) {
        Region shared = region.intersect(other.region);
        for (int c = 0; c < data.length; c++) {
            for (int y = shared.y(); y < shared.bottom(); y++) {
                System.arraycopy(
                        other.data[c], other.index(shared.x(), y), data[c], index(shared.x(), y), shared.width());
            }
        }
    }
}
