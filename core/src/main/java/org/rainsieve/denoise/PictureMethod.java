package org.rainsieve.denoise;

import org.rainsieve.frame.Planes;

/** A denoise method made ready for one picture in full colour, whose noise it has read. */
public interface PictureMethod {
    /** Pixels around a region that its estimate depends on. */
    int margin();

    /** @return the estimate over the region of {@code noisy}, exact inside the margin */
    Planes estimate(Planes noisy);
}
