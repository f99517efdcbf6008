package org.rainsieve.noise;

import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.ToDoubleFunction;
import java.util.stream.Stream;
import org.rainsieve.primitives.Median;

/**
 * The noise law to work with at one ISO of one body, and what it rests on. Frames tell it where they can; where they tell too
 * little, what is known best takes over: the body's other ISO settings, all bodies, at last a typical one.
 *
 * @param errorPercent half the interval of the noise's sd at 18 % grey, in % of it
 */
public record SettledLaw(NoiseModel law, Source source, double errorPercent) {
    public enum Source {
        /** What files tell of themselves (NoiseProfile). */
        PROFILE,
        /** Frames of that body at that ISO. */
        FRAMES,
        /** The same, but they tell little. */
        UNCERTAIN_FRAMES,
        /** The body's frames at other ISO settings. */
        OTHER_ISOS,
        /** Other bodies of the camera book. */
        OTHER_BODIES,
        /** Nothing that was read: what sensors are like. */
        TYPICAL;

        /** Whether pixels or tags of the body at that ISO tell it. */
        public boolean firm() {
            return this == PROFILE || this == FRAMES;
        }
    }

    private static final double GREY = 0.18;

    /** A law over ISO is that far off at single settings. (Measured on the demo's bodies; common practice for others.) */
    private static final double LINE_ERROR_PERCENT = 12;

    /** And by so much more for each stop beyond the settings it was read at. */
    private static final double BEYOND_ERROR_PERCENT = 5;

    /** Sensors of one time and size differ by so much. (Common practice.) */
    private static final double OTHERS_ERROR_PERCENT = 35;

    private static final double TYPICAL_ERROR_PERCENT = 60;

    /** A full well of some 50,000 electrons at ISO 100 and a read noise of some 3 electrons. (Common practice.) */
    private static final NoiseLaw USUAL = new NoiseLaw(2e-7, 3.6e-13, 1e-9, TYPICAL_ERROR_PERCENT, 0);

    /** For files that tell no ISO. */
    private static final int USUAL_ISO = 800;

    /** Beyond this a reading is uncertain. */
    private static final double UNCERTAIN_PERCENT = NoiseReading.MOST_ERROR_PERCENT;

    private static final double PROFILE_ERROR_PERCENT = 3;

    /**
     * One frame's own evidence.
     *
     * @param blackErrorPercent half the interval of the sd at black
     * @param greyErrorPercent the same at 18 % grey
     * @param errorPercent the same at the frame's own brightness
     */
    public record Evidence(
            int iso,
            NoiseModel law,
            double blackErrorPercent,
            double greyErrorPercent,
            double errorPercent,
            boolean profile) {
        /** A reading that says nothing has no end of an interval. */
        private static final double WIDEST_PERCENT = 10_000;

        public Evidence {
            blackErrorPercent = bounded(blackErrorPercent);
            greyErrorPercent = bounded(greyErrorPercent);
            errorPercent = bounded(errorPercent);
        }

        private static double bounded(double percent) {
            return percent < WIDEST_PERCENT ? percent : WIDEST_PERCENT;
        }

        public static Evidence ofProfile(int iso, NoiseModel law) {
            return new Evidence(iso, law, PROFILE_ERROR_PERCENT, PROFILE_ERROR_PERCENT, PROFILE_ERROR_PERCENT, true);
        }

        /** What the file tells, else what its pixels do; null where neither does. */
        public static Evidence of(int iso, NoiseModel profile, NoiseReading reading) {
            if (profile != null) {
                return ofProfile(iso, profile);
            }
            return reading == null ? null : ofReading(iso, reading);
        }

        public static Evidence ofReading(int iso, NoiseReading reading) {
            double least = reading.sigmaErrorPercent();
            return new Evidence(
                    iso,
                    reading.law(),
                    reading.blackErrorPercent() > 0 ? reading.blackErrorPercent() : least,
                    reading.greyErrorPercent() > 0 ? reading.greyErrorPercent() : least,
                    least,
                    false);
        }

        boolean certain() {
            return errorPercent <= UNCERTAIN_PERCENT;
        }
    }

    /**
     * @param body evidence of the body's frames at all ISO settings
     * @param others laws of the other bodies
     */
    public static SettledLaw of(int iso, List<Evidence> body, List<NoiseLaw> others) {
        List<Evidence> here = body.stream().filter(e -> e.iso == iso).toList();
        List<Evidence> certain = here.stream().filter(Evidence::certain).toList();
        if (!certain.isEmpty()) {
            boolean profiles = certain.stream().allMatch(Evidence::profile);
            return pooled(certain, profiles ? Source.PROFILE : Source.FRAMES);
        }
        Optional<SettledLaw> own =
                here.isEmpty() ? Optional.empty() : Optional.of(pooled(here, Source.UNCERTAIN_FRAMES));
        Optional<SettledLaw> line = line(body.stream().filter(Evidence::certain).toList())
                .filter(law -> iso > 0)
                .map(law -> atIso(law, iso, Source.OTHER_ISOS, LINE_ERROR_PERCENT + beyond(iso, body)));
        Optional<SettledLaw> bodies =
                iso > 0 && !others.isEmpty() ? Optional.of(ofOthers(iso, others)) : Optional.empty();
        return Stream.of(own, line, bodies, Optional.of(typical(iso)))
                .flatMap(Optional::stream)
                .min(Comparator.comparingDouble(SettledLaw::errorPercent))
                .orElseThrow();
    }

    /** What a sensor that nothing is known of is like at an ISO; 0 where that is not known either. */
    public static SettledLaw typical(int iso) {
        return atIso(USUAL, iso > 0 ? iso : USUAL_ISO, Source.TYPICAL, TYPICAL_ERROR_PERCENT);
    }

    /** The body's law over ISO; empty without firm evidence. */
    public static Optional<NoiseLaw> line(List<Evidence> body) {
        return Optional.ofNullable(NoiseLaw.fit(readings(body)));
    }

    /** The laws of those that are firm and tell their ISO. */
    public static List<NoiseLaw.AtIso> readings(List<Evidence> body) {
        return body.stream()
                .filter(e -> e.iso > 0 && e.certain())
                .map(e -> new NoiseLaw.AtIso(e.iso, e.law))
                .toList();
    }

    /**
     * The sd at 18 % grey read at one ISO against what the body's other settings lead to expect; NaN where fewer than two others
     * tell.
     */
    public static double offLine(int iso, List<NoiseLaw.AtIso> readings) {
        double[] here = readings.stream()
                .filter(r -> r.iso() == iso)
                .mapToDouble(r -> NoiseLaw.sigma(r.law()))
                .toArray();
        List<NoiseLaw.AtIso> elsewhere =
                readings.stream().filter(r -> r.iso() != iso).toList();
        if (here.length == 0
                || elsewhere.stream().mapToInt(NoiseLaw.AtIso::iso).distinct().count() < 2) {
            return Double.NaN;
        }
        return Median.of(here) / NoiseLaw.fit(elsewhere).sigma(iso);
    }

    private static double beyond(int iso, List<Evidence> body) {
        double stops = body.stream()
                .filter(e -> e.certain() && e.iso > 0)
                .mapToDouble(e -> Math.abs(Math.log((double) iso / e.iso) / Math.log(2)))
                .min()
                .orElse(0);
        return BEYOND_ERROR_PERCENT * stops;
    }

    private static SettledLaw atIso(NoiseLaw law, int iso, Source source, double errorPercent) {
        return new SettledLaw(law.at(iso), source, Math.max(errorPercent, law.sigmaErrorPercent()));
    }

    private static SettledLaw ofOthers(int iso, List<NoiseLaw> others) {
        double a = Median.of(
                others.stream().mapToDouble(law -> law.at(iso).a().get(1)).toArray());
        double b = Median.of(
                others.stream().mapToDouble(law -> law.at(iso).b().get(1)).toArray());
        return new SettledLaw(NoiseModel.uniform(a, b), Source.OTHER_BODIES, OTHERS_ERROR_PERCENT);
    }

    /**
     * Frames of one ISO tell what they show: dark ones the noise at black, others that at grey. So the middle of both is taken,
     * weighted by how sure each is, for each colour; the law goes through both.
     */
    private static SettledLaw pooled(List<Evidence> evidence, Source source) {
        Double[] a = new Double[3];
        Double[] b = new Double[3];
        for (int c = 0; c < 3; c++) {
            int colour = c;
            double black = weightedMedian(evidence, e -> e.law.variance(colour, 0), Evidence::blackErrorPercent);
            double grey = weightedMedian(evidence, e -> e.law.variance(colour, GREY), Evidence::greyErrorPercent);
            a[c] = Math.max((grey - black) / GREY, 0.02 * grey / GREY);
            b[c] = black;
        }
        double error =
                evidence.stream().mapToDouble(Evidence::errorPercent).min().orElseThrow();
        return new SettledLaw(new NoiseModel(List.of(a), List.of(b)), source, error);
    }

    private static double weightedMedian(
            List<Evidence> evidence, ToDoubleFunction<Evidence> value, ToDoubleFunction<Evidence> errorPercent) {
        List<Evidence> sorted =
                evidence.stream().sorted(Comparator.comparingDouble(value)).toList();
        double[] sums = new double[sorted.size()];
        double sum = 0;
        for (int i = 0; i < sums.length; i++) {
            double weight = 1 / Math.pow(errorPercent.applyAsDouble(sorted.get(i)), 2);
            sums[i] = sum + weight / 2;
            sum += weight;
        }
        // Between the two whose weights reach the middle, so that two alike give their mean.
        int above = 0;
        while (above < sums.length - 1 && sums[above] < sum / 2) {
            above++;
        }
        double upper = value.applyAsDouble(sorted.get(above));
        if (above == 0 || sums[above] <= sum / 2) {
            return upper;
        }
        double lower = value.applyAsDouble(sorted.get(above - 1));
        double part = (sum / 2 - sums[above - 1]) / (sums[above] - sums[above - 1]);
        return lower + part * (upper - lower);
    }
}
