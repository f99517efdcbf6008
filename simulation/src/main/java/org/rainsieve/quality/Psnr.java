package org.rainsieve.quality;

import org.rainsieve.colour.RgbSpace;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** Peak signal to noise ratio of pictures as shown: over all three colours of sRGB-encoded values limited to 0…1. */
public final class Psnr {
    private Psnr() {}

    /** @param gains multiplied on both before encoding (white balance and exposure) */
    public static double cpsnrDb(Planes picture, Planes truth, Region within, double[] gains) {
        double error = 0;
        for (int c = 0; c < 3; c++) {
            for (int y = within.y(); y < within.bottom(); y++) {
                for (int x = within.x(); x < within.right(); x++) {
                    double d = shown(picture.at(c, x, y) * gains[c]) - shown(truth.at(c, x, y) * gains[c]);
                    error += d * d;
                }
            }
        }
        return 10 * Math.log10(3.0 * within.area() / error);
    }

    private static double shown(double linear) {
        return RgbSpace.encode(Math.min(1, Math.max(0, linear)));
    }
}
