package org.rainsieve.frame;

/**
 * A picture that is pulled region by region. Each step of the work wraps the source before it and knows which of its
 * pixels a region of its own needs.
 */
public interface PixelSource {
    int width();

    int height();

    int channels();

    /** The region of the source before this one that the given region of this one depends on. */
    Region inputRegion(Region out);

    /**
     * Fills a region that lies inside the picture. May be called from several threads.
     *
     * @throws CancelledException when the work was called off meanwhile
     */
    void fill(Planes out);

    default Region bounds() {
        return new Region(0, 0, width(), height());
    }
}
