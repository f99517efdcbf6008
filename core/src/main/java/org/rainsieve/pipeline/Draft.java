package org.rainsieve.pipeline;

import java.util.Arrays;
import java.util.stream.IntStream;
import org.rainsieve.demosaic.MalvarDemosaic;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** A reduced rendering of a capture as it is, for thumbnails and overviews: fast, not denoised. */
public final class Draft {
    private static final int BAND = 128;

    /** Blocks of so many photosites across hold every colour often enough, in places that lie alike in every block. */
    private static final int EVEN_BLOCK = 4;

    private static final int SIX_BY_SIX_BLOCK = 6;

    private Draft() {}

    public static ReducedPicture of(Capture capture, int longEdgePx) {
        int factor = ReducedPicture.factor(capture.width(), capture.height(), longEdgePx);
        if (capture instanceof Mosaic mosaic && !mosaic.hasGains() && meansSuffice(mosaic.pattern(), factor)) {
            return means(mosaic, factor);
        }
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

    private static boolean meansSuffice(CfaPattern pattern, int factor) {
        return pattern.isBayer()
                ? factor >= EVEN_BLOCK && factor % 2 == 0
                : pattern.width() == 6 && factor >= SIX_BY_SIX_BLOCK;
    }

    /** Each colour of a reduced pixel as the mean of its own photosites there. */
    private static ReducedPicture means(Mosaic mosaic, int factor) {
        int width = Math.max(1, mosaic.width() / factor);
        int height = Math.max(1, mosaic.height() / factor);
        Planes out = new Planes(new Region(0, 0, width, height), 3);
        int[][] colours = new int[mosaic.pattern().height()][];
        for (int y = 0; y < colours.length; y++) {
            int line = y;
            colours[y] = IntStream.range(0, width * factor)
                    .map(x -> mosaic.pattern().colourAt(x, line))
                    .toArray();
        }
        IntStream.range(0, height).parallel().forEach(row -> {
            Planes band = new Planes(new Region(0, row * factor, width * factor, factor), 1);
            mosaic.fill(band);
            float[] values = band.channel(0);
            float[][] sums = new float[3][width];
            int[][] counts = new int[3][width];
            for (int y = 0; y < factor; y++) {
                int[] own = colours[(row * factor + y) % colours.length];
                int from = y * width * factor;
                for (int x = 0; x < width; x++) {
                    for (int i = x * factor; i < (x + 1) * factor; i++) {
                        sums[own[i]][x] += values[from + i];
                        counts[own[i]][x]++;
                    }
                }
            }
            for (int c = 0; c < 3; c++) {
                for (int x = 0; x < width; x++) {
                    out.channel(c)[row * width + x] = sums[c][x] / counts[c][x];
                }
            }
        });
        return new ReducedPicture(out);
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
