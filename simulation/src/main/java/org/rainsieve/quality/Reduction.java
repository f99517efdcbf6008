package org.rainsieve.quality;

import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** Pictures made smaller by a whole factor, as photosites of that size would see them: what enlarging is to bring back. */
public final class Reduction {
    private Reduction() {}

    /** @param large linear; what is beyond a multiple of the factor is left out */
    public static Planes byBoxes(Planes large, int factor) {
        int w = large.region().width() / factor;
        int h = large.region().height() / factor;
        Planes small = new Planes(new Region(0, 0, w, h), large.channels());
        for (int c = 0; c < large.channels(); c++) {
            for (int i = 0; i < w * h; i++) {
                double sum = 0;
                for (int k = 0; k < factor * factor; k++) {
                    sum += large.at(c, i % w * factor + k % factor, i / w * factor + k / factor);
                }
                small.channel(c)[i] = (float) (sum / (factor * factor));
            }
        }
        return small;
    }
}
