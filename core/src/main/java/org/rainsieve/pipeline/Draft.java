package org.rainsieve.pipeline;

import java.util.Arrays;
import org.rainsieve.demosaic.MalvarDemosaic;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** A reduced rendering of a capture as it is, for thumbnails and overviews: fast, not denoised. */
public final class Draft {
    private static final int BAND = 128;

    private Draft() {}

    public static ReducedPicture of(Capture capture, int longEdgePx) {
        ReducedPicture picture = new ReducedPicture(capture.width(), capture.height(), longEdgePx);
        boolean bayer = capture.pattern().isBayer();
        MalvarDemosaic malvar = bayer ? new MalvarDemosaic(capture.pattern()) : null;
        int bands = (capture.height() + BAND - 1) / BAND;
        for (int i = 0; i < bands; i++) {
            Region band = new Region(0, i * BAND, capture.width(), Math.min(BAND, capture.height() - i * BAND));
            Planes noisy = new Planes(band.grow(MalvarDemosaic.MARGIN), capture.channels());
            capture.fill(noisy);
            Planes rgb = new Planes(band, 3);
            if (bayer) {
                malvar.interpolate(noisy, rgb);
            } else if (capture.channels() == 3) {
                rgb.copyFrom(noisy);
            } else {
                average(noisy, capture.pattern(), rgb);
            }
            capture.applyGains(rgb);
            picture.add(rgb);
        }
        return picture;
    }

    /** Each colour as the mean of its photosites in 3×3, of which a 6×6 pattern has at least one everywhere. */
    private static void average(Planes mosaic, CfaPattern pattern, Planes out) {
        Region r = out.region();
        float[] m = mosaic.channel(0);
        float[] sums = new float[3];
        int[] counts = new int[3];
        for (int y = r.y(); y < r.bottom(); y++) {
            for (int x = r.x(); x < r.right(); x++) {
                Arrays.fill(sums, 0);
                Arrays.fill(counts, 0);
                for (int k = 0; k < 9; k++) {
                    int px = x + k % 3 - 1;
                    int py = y + k / 3 - 1;
                    int colour = pattern.colourAt(px, py);
                    sums[colour] += m[mosaic.index(px, py)];
                    counts[colour]++;
                }
                for (int c = 0; c < 3; c++) {
                    out.channel(c)[out.index(x, y)] = sums[c] / counts[c];
                }
            }
        }
    }
}
