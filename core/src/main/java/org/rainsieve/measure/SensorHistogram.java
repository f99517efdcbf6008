package org.rainsieve.measure;

import java.util.stream.IntStream;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * How often the sensor's values occur in a region, by stops below the clipping point.
 *
 * @param counts red, green, blue; {@link #BINS} bins of a quarter stop each, brightest first
 * @param clippedPercent of all values
 * @param emptyPercent of all values: at or below black
 */
public record SensorHistogram(long[][] counts, double clippedPercent, double emptyPercent) {
    public static final int BINS = 56;
    private static final int PER_STOP = 4;
    private static final int BAND = 64;

    public static SensorHistogram of(Capture capture, Region region) {
        int bands = (region.height() + BAND - 1) / BAND;
        long[][][] parts = IntStream.range(0, bands)
                .parallel()
                .mapToObj(i -> count(
                        capture,
                        new Region(
                                region.x(),
                                region.y() + i * BAND,
                                region.width(),
                                Math.min(BAND, region.height() - i * BAND))))
                .toArray(long[][][]::new);
        long[][] counts = new long[3][BINS];
        long clipped = 0;
        long empty = 0;
        long all = 0;
        for (long[][] part : parts) {
            for (int c = 0; c < 3; c++) {
                for (int k = 0; k < BINS; k++) {
                    counts[c][k] += part[c][k];
                }
            }
            clipped += part[3][0];
            empty += part[3][1];
            all += part[3][2];
        }
        return new SensorHistogram(counts, 100.0 * clipped / Math.max(1, all), 100.0 * empty / Math.max(1, all));
    }

    private static long[][] count(Capture capture, Region band) {
        Planes planes = new Planes(band, capture.channels());
        capture.fill(planes);
        long[][] out = new long[4][BINS];
        for (int y = band.y(); y < band.bottom(); y++) {
            for (int x = band.x(); x < band.right(); x++) {
                for (int channel = 0; channel < planes.channels(); channel++) {
                    float value = planes.at(channel, x, y);
                    int colour =
                            planes.channels() == 3 ? channel : capture.pattern().colourAt(x, y);
                    out[3][2]++;
                    if (value >= 1) {
                        out[3][0]++;
                    }
                    if (value <= 0) {
                        out[3][1]++;
                    } else {
                        double stops = -Math.log(value) / Math.log(2);
                        out[colour][Math.max(0, Math.min(BINS - 1, (int) (stops * PER_STOP)))]++;
                    }
                }
            }
        }
        return out;
    }
}
