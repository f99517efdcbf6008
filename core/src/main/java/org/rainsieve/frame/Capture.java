package org.rainsieve.frame;

/** What a file holds of the light before anything is made of it: a sensor's mosaic, or a picture in full colour. */
public sealed interface Capture permits Mosaic, Picture {
    int width();

    int height();

    default Region bounds() {
        return new Region(0, 0, width(), height());
    }

    /** The colour filters; {@link CfaPattern#NONE} where every pixel has all colours. */
    CfaPattern pattern();

    /** One channel for a mosaic, three for a picture. */
    int channels();

    /** Fills a region with linear values, 1.0 at clipping; positions outside are mirrored. */
    void fill(Planes out);

    /** Multiplies colour planes of this capture by what the file asks for. */
    void applyGains(Planes colours);
}
