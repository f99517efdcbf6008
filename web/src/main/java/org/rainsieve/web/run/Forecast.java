package org.rainsieve.web.run;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.rainsieve.enlarge.EnlargeSettings;

/**
 * What a run will need, told from what was measured on this installation, and where nothing was yet, from what a usual machine takes.
 *
 * @param seconds with the workers that run now
 * @param restsOn what was measured
 * @param bytes of its returns
 * @param freeBytes where they go; −1 when it cannot be told
 * @param workers that run now
 */
record Forecast(double megapixels, double seconds, Basis restsOn, long bytes, long freeBytes, int workers) {
    /** Of returns of the same kinds made here; of this machine against a usual one; of a usual machine. */
    enum Basis {
        RETURNS,
        MACHINE,
        USUAL
    }

    /** Of a linear DNG with a fifth of its grain kept, in lossless JPEG, and of a TIFF and a JPEG: as measured on the demo. */
    private static final Map<ReturnForm, Double> USUAL_BYTES_PER_PIXEL =
            Map.of(ReturnForm.DNG, 3.9, ReturnForm.COMPACT, 2.0, ReturnForm.TIFF, 5.0, ReturnForm.JPEG, 0.6);

    /** Seconds for a megapixel, whole file, on two cores: docs/benchmarks.md. */
    private static final Map<String, Double> USUAL_SECONDS =
            Map.of("off", 0.25, "Quick", 0.35, "Learned", 0.7, "Patch", 3.5);

    /** The same for a megapixel that enlarging makes, and for developing another form from a linear DNG. */
    private static final Map<EnlargeSettings.Edges, Double> USUAL_ENLARGING = Map.of(
            EnlargeSettings.Edges.LEARNED, 0.4,
            EnlargeSettings.Edges.NATURAL, 0.2,
            EnlargeSettings.Edges.DRAWN, 1.4);

    private static final double USUAL_DEVELOPING = 0.15;

    /** A return that was made. */
    record Made(String method, ReturnForm form, double megapixels, double seconds, long bytes) {}

    /**
     * A return to be made.
     *
     * @param enlarged what makes it larger; null where nothing does
     * @param developed from a linear DNG of the same run, which is denoised once for all forms
     */
    record Wanted(
            String method,
            ReturnForm form,
            double megapixels,
            double megapixelsOut,
            EnlargeSettings.Edges enlarged,
            boolean developed) {}

    private static final class Sums {
        private double megapixels;
        private double seconds;
        private double bytes;
    }

    /** @param trial by how much this machine took longer than a usual one in a trial; NaN before one */
    static Forecast of(List<Wanted> wanted, List<Made> made, int workers, long freeBytes, double trial) {
        Map<String, Sums> known = new HashMap<>();
        double here = 0;
        double usual = 0;
        for (Made one : made) {
            Sums sums = known.computeIfAbsent(one.method + one.form, key -> new Sums());
            sums.megapixels += one.megapixels;
            sums.seconds += one.seconds;
            sums.bytes += one.bytes;
            here += one.seconds;
            usual += one.megapixels * USUAL_SECONDS.getOrDefault(one.method, 1.0);
        }
        // This machine against a usual one, by everything that was made here.
        double slower = usual > 0 ? here / usual : Double.isNaN(trial) ? 1 : trial;
        double megapixels = 0;
        double seconds = 0;
        double bytes = 0;
        boolean measured = true;
        for (Wanted one : wanted) {
            Sums sums = known.get(one.method + one.form);
            boolean size = sums != null && sums.megapixels > 0;
            bytes += one.megapixelsOut
                    * (size ? sums.bytes / sums.megapixels : USUAL_BYTES_PER_PIXEL.get(one.form) * 1e6);
            if (one.developed) {
                seconds += slower * USUAL_DEVELOPING * one.megapixelsOut;
                continue;
            }
            megapixels += one.megapixels;
            measured &= size && one.enlarged == null;
            seconds += one.megapixels
                    * (size ? sums.seconds / sums.megapixels : slower * USUAL_SECONDS.getOrDefault(one.method, 1.0));
            seconds += one.enlarged == null ? 0 : slower * USUAL_ENLARGING.get(one.enlarged) * one.megapixelsOut;
        }
        Basis basis = measured ? Basis.RETURNS : usual > 0 || !Double.isNaN(trial) ? Basis.MACHINE : Basis.USUAL;
        return new Forecast(megapixels, seconds / Math.max(1, workers), basis, (long) bytes, freeBytes, workers);
    }
}
