package org.rainsieve.web.run;

import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * What a run will need, told from what was measured on this installation.
 *
 * @param seconds with the workers that run now, without enlarging; null while a method of it was never measured
 * @param bytes of its returns
 * @param freeBytes where they go; −1 when it cannot be told
 * @param workers that run now
 */
public record Forecast(
        int frames, double megapixels, Double seconds, long bytes, long freeBytes, int workers, boolean enlarged) {
    /** Of a linear DNG with a fifth of its grain kept, in lossless JPEG, and of a TIFF and a JPEG: as measured on the demo. */
    private static final Map<ReturnForm, Double> USUAL_BYTES_PER_PIXEL =
            Map.of(ReturnForm.DNG, 3.9, ReturnForm.COMPACT, 2.0, ReturnForm.TIFF, 5.0, ReturnForm.JPEG, 0.6);

    /** A return that was made. */
    record Made(String method, ReturnForm form, double megapixels, double seconds, long bytes) {}

    /** A return to be made. */
    record Wanted(String method, ReturnForm form, double megapixels, double megapixelsOut) {}

    static Forecast of(List<Wanted> wanted, List<Made> made, int workers, long freeBytes) {
        Map<String, double[]> known = new HashMap<>();
        for (Made one : made) {
            double[] sums = known.computeIfAbsent(one.method + one.form, key -> new double[3]);
            sums[0] += one.megapixels;
            sums[1] += one.seconds;
            sums[2] += one.bytes;
        }
        double megapixels = 0;
        double seconds = 0;
        double bytes = 0;
        boolean enlarged = false;
        for (Wanted one : wanted) {
            double[] sums = known.get(one.method + one.form);
            megapixels += one.megapixels;
            seconds += one.megapixels == 0 ? 0 : sums == null ? Double.NaN : one.megapixels * sums[1] / sums[0];
            bytes += one.megapixelsOut
                    * (sums == null || sums[0] == 0 ? USUAL_BYTES_PER_PIXEL.get(one.form) * 1e6 : sums[2] / sums[0]);
            enlarged |= one.megapixels > 0 && one.megapixelsOut > one.megapixels;
        }
        return new Forecast(
                (int) wanted.stream().filter(one -> one.megapixels > 0).count(),
                megapixels,
                Double.isNaN(seconds) ? null : Double.valueOf(seconds / Math.max(1, workers)),
                (long) bytes,
                freeBytes,
                workers,
                enlarged);
    }
}
