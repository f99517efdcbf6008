package org.rainsieve.frame;

/** A picture that is held whole. */
public record PlanesSource(Planes planes) implements PixelSource {
    @Override
    public int width() {
        return planes.region().width();
    }

    @Override
    public int height() {
        return planes.region().height();
    }

    @Override
    public int channels() {
        return planes.channels();
    }

    @Override
    public Region inputRegion(Region out) {
        return out;
    }

    @Override
    public void fill(Planes out) {
        out.copyFrom(planes);
    }
}
