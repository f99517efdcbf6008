package org.rainsieve.sharpen;

import org.rainsieve.noise.NoiseModel;

/**
 * The amounts of the sharpen step.
 *
 * @param spread the blur that is taken back
 * @param cornersPx by how much the soft part is larger in the picture's corners than at its centre
 * @param biteFinePercent how much of the fine deconvolved detail is put back
 * @param biteCoarsePercent the same for coarse detail
 * @param rimLimitPercent how far an edge may overshoot its surroundings, in % of its height
 * @param method how the blur is taken back; where none is given, as before there was a choice: by plain rules
 * @param model SHA-256 of the trained model of the learned method, the newest where none is given; empty for others
 */
public record SharpenSettings(
        boolean on,
        PointSpread spread,
        double cornersPx,
        double biteFinePercent,
        double biteCoarsePercent,
        double rimLimitPercent,
        Method method,
        String model) {

    /** Learned is nearer to the truth, plain goes by a known filter. */
    public enum Method {
        LEARNED("learned"),
        PLAIN("by plain rules");

        private final String words;

        Method(String words) {
            this.words = words;
        }

        /** As people are told. */
        public String words() {
            return words;
        }
    }

    /** Restrained, as practitioners learn to be: off, and little when it is switched on. */
    public static final SharpenSettings OFF =
            new SharpenSettings(false, PointSpread.soft(0.9), 0, 50, 50, 3, Method.LEARNED, "");

    /** By plain rules. */
    public static SharpenSettings plain(
            PointSpread spread, double cornersPx, double biteFinePercent, double biteCoarsePercent, double rimPercent) {
        return new SharpenSettings(
                true, spread, cornersPx, biteFinePercent, biteCoarsePercent, rimPercent, Method.PLAIN, "");
    }

    public SharpenSettings {
        if (spread == null) {
            throw new IllegalArgumentException("Sharpen needs the shape of the blur");
        }
        check("Towards the corners", cornersPx, 0, 4, "px");
        check("Fine bite", biteFinePercent, 0, 100, "%");
        check("Coarse bite", biteCoarsePercent, 0, 100, "%");
        check("The rim limit", rimLimitPercent, 0, 100, "%");
        method = method != null ? method : on ? Method.PLAIN : Method.LEARNED;
        boolean given = model != null && !model.isEmpty();
        model = method != Method.LEARNED || !on ? "" : given ? model : LearnedDetail.MODELS.newest();
    }

    /** The same for another blur, switched on. */
    public SharpenSettings with(PointSpread other) {
        return new SharpenSettings(
                true, other, cornersPx, biteFinePercent, biteCoarsePercent, rimLimitPercent, method, model);
    }

    /** The same put back so far, fine and coarse alike; off where nothing is. */
    public SharpenSettings withBite(double percent) {
        return new SharpenSettings(percent > 0, spread, cornersPx, percent, percent, rimLimitPercent, method, model);
    }

    /** The same by another method, by its newest model. */
    public SharpenSettings with(Method other) {
        return new SharpenSettings(
                on, spread, cornersPx, biteFinePercent, biteCoarsePercent, rimLimitPercent, other, "");
    }

    /** The same by the model that other settings hold, where those are by the same method. */
    public SharpenSettings withModelOf(SharpenSettings other) {
        return other.model.isEmpty() || model.isEmpty()
                ? this
                : new SharpenSettings(
                        on,
                        spread,
                        cornersPx,
                        biteFinePercent,
                        biteCoarsePercent,
                        rimLimitPercent,
                        method,
                        other.model);
    }

    /** The most that the learned method was trained with. */
    private static final double MOST_SOFT_PX = 2.75;

    private static final double MOST_DISC_PX = 7;
    private static final double MOST_LINE_PX = 27;

    /** Noise of luminance left at white, sd. */
    private static final double MOST_SD = 0.06;

    /** The same for a picture of so much noise: by plain rules where the learned method never saw the like. */
    public SharpenSettings within(NoiseModel law, double grainKept) {
        boolean beyond = grainKept * Math.sqrt(Sharpening.SHARES_SQUARED * law.largestVariance(1)) > MOST_SD
                || spread.softPx() > MOST_SOFT_PX
                || spread.discPx() > MOST_DISC_PX
                || spread.linePx() > MOST_LINE_PX;
        return method == Method.LEARNED && on && beyond ? with(Method.PLAIN) : this;
    }

    private static void check(String what, double value, double least, double most, String unit) {
        if (!(value >= least && value <= most)) {
            throw new IllegalArgumentException(
                    what + " must be " + Math.round(least) + " to " + Math.round(most) + " " + unit + ", not " + value);
        }
    }

    /** True when nothing is changed whatever the picture, as long as no mask has a bite of its own. */
    public boolean idle() {
        return shapeless() || biteFinePercent == 0 && biteCoarsePercent == 0;
    }

    /** True when there is nothing to take back. */
    public boolean shapeless() {
        return !on || spread.isNone() && cornersPx == 0;
    }
}
