package org.rainsieve.sharpen;

/**
 * The amounts of the sharpen step.
 *
 * @param spread the blur that is taken back
 * @param cornersPx by how much the soft part is larger in the picture's corners than at its centre
 * @param biteFinePercent how much of the fine deconvolved detail is put back
 * @param biteCoarsePercent the same for coarse detail
 * @param rimLimitPercent how far an edge may overshoot its surroundings, in % of its height
 */
public record SharpenSettings(
        boolean on,
        PointSpread spread,
        double cornersPx,
        double biteFinePercent,
        double biteCoarsePercent,
        double rimLimitPercent) {

    /** Restrained, as practitioners learn to be: off, and little when it is switched on. */
    public static final SharpenSettings OFF = new SharpenSettings(false, PointSpread.soft(0.9), 0, 50, 50, 3);

    public SharpenSettings {
        if (spread == null) {
            throw new IllegalArgumentException("Sharpen needs the shape of the blur");
        }
        check("Towards the corners", cornersPx, 0, 4, "px");
        check("Fine bite", biteFinePercent, 0, 100, "%");
        check("Coarse bite", biteCoarsePercent, 0, 100, "%");
        check("The rim limit", rimLimitPercent, 0, 100, "%");
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
