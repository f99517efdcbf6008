package org.rainsieve.book;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.mask.Mask;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * One camera's settings: its rungs in order of exposure index, at least one.
 *
 * @param schema of the JSON form, see docs/book-format.md; older numbers are read and come out as {@link #SCHEMA}
 * @param offset added to the amounts of all rungs
 * @param engine version of Rain Sieve that the page's returns are made with, so that next month's set matches; empty
 *     while nothing was made
 * @param model name of the trained model that goes with it; empty as above
 */
public record Page(int schema, String camera, List<Rung> rungs, Offset offset, String engine, String model) {
    public static final int SCHEMA = 5;

    public Page {
        if (schema > SCHEMA) {
            throw new IllegalArgumentException(
                    "This page was written by a newer version of Rain Sieve (schema " + schema + ")");
        }
        schema = SCHEMA;
        if (camera == null || camera.isBlank()) {
            throw new IllegalArgumentException("A page needs the name of its camera");
        }
        if (rungs == null || rungs.isEmpty()) {
            throw new IllegalArgumentException("A page needs at least one rung");
        }
        rungs = rungs.stream().sorted(Comparator.comparingInt(Rung::ei)).toList();
        if (rungs.stream().map(Rung::ei).distinct().count() < rungs.size()) {
            throw new IllegalArgumentException("There are two rungs at one exposure index");
        }
        offset = offset == null ? Offset.NONE : offset;
        engine = engine == null ? "" : engine;
        model = model == null ? "" : model;
    }

    public Page(String camera, List<Rung> rungs) {
        this(SCHEMA, camera, rungs, Offset.NONE, "", "");
    }

    /**
     * Settings at an exposure index: amounts interpolated over log2(EI), constant beyond the ends, with the camera's offset
     * added; what cannot be interpolated is taken from the nearer rung (the lower one exactly half way).
     */
    public DenoiseSettings at(double ei) {
        DenoiseSettings rung = onRungs(ei);
        return offset.isNone()
                ? rung
                : new DenoiseSettings(
                        rung.on(),
                        rung.method(),
                        within(rung.grainKeptPercent() + offset.grainKeptPoints()),
                        within(rung.colourNoiseKeptPercent() + offset.colourNoiseKeptPoints()),
                        rung.detailPercent());
    }

    /** Sharpening at an exposure index, by the same rules. */
    public SharpenSettings sharpenAt(double ei) {
        Between between = between(ei);
        SharpenSettings below = between.below.sharpen();
        SharpenSettings above = between.above.sharpen();
        double share = between.share;
        SharpenSettings nearer = share <= 0.5 ? below : above;
        PointSpread shape = nearer.spread();
        return new SharpenSettings(
                nearer.on(),
                new PointSpread(
                        mix(below.spread().softPx(), above.spread().softPx(), share),
                        shape.discPx(),
                        shape.linePx(),
                        shape.lineAngleDegrees()),
                mix(below.cornersPx(), above.cornersPx(), share),
                mix(below.biteFinePercent(), above.biteFinePercent(), share),
                mix(below.biteCoarsePercent(), above.biteCoarsePercent(), share),
                mix(below.rimLimitPercent(), above.rimLimitPercent(), share),
                nearer.method(),
                nearer.model());
    }

    /** Masks at an exposure index: those of the nearer rung. */
    public List<Mask> masksAt(double ei) {
        Between between = between(ei);
        return (between.share <= 0.5 ? between.below : between.above).masks();
    }

    private DenoiseSettings onRungs(double ei) {
        Between between = between(ei);
        DenoiseSettings below = between.below.denoise();
        DenoiseSettings above = between.above.denoise();
        DenoiseSettings nearer = between.share <= 0.5 ? below : above;
        return new DenoiseSettings(
                nearer.on(),
                nearer.method(),
                mix(below.grainKeptPercent(), above.grainKeptPercent(), between.share),
                mix(below.colourNoiseKeptPercent(), above.colourNoiseKeptPercent(), between.share),
                mix(below.detailPercent(), above.detailPercent(), between.share));
    }

    /** @param share 0 at the rung below, 1 at the one above, over log2(EI) */
    private record Between(Rung below, Rung above, double share) {}

    private Between between(double ei) {
        Rung below = rungs.get(0);
        Rung above = rungs.get(rungs.size() - 1);
        if (ei <= below.ei()) {
            return new Between(below, below, 0);
        }
        if (ei >= above.ei()) {
            return new Between(above, above, 0);
        }
        for (Rung rung : rungs) {
            if (rung.ei() <= ei) {
                below = rung;
            } else {
                above = rung;
                break;
            }
        }
        return new Between(below, above, Math.log(ei / below.ei()) / Math.log((double) above.ei() / below.ei()));
    }

    /** The rung that a frame at that exposure index takes most from. */
    public Rung nearest(double ei) {
        return rungs.stream()
                .min(Comparator.comparingDouble(rung -> Math.abs(Math.log(rung.ei() / ei))))
                .orElseThrow();
    }

    /** Whether a change of the rung (or of a new one there) changes what a frame at {@code ei} takes. */
    public boolean touches(int rungEi, double ei) {
        int below = rungs.stream()
                .mapToInt(Rung::ei)
                .filter(other -> other < rungEi)
                .max()
                .orElse(0);
        int above = rungs.stream()
                .mapToInt(Rung::ei)
                .filter(other -> other > rungEi)
                .min()
                .orElse(Integer.MAX_VALUE);
        return ei > below && ei < above;
    }

    /** The page with a rung added, or in place of the one at the same exposure index. */
    public Page withRung(Rung rung) {
        List<Rung> changed = new ArrayList<>(rungs);
        changed.removeIf(other -> other.ei() == rung.ei());
        changed.add(rung);
        return withRungs(changed);
    }

    public Page withRungs(List<Rung> changed) {
        return new Page(schema, camera, changed, offset, engine, model);
    }

    public Page withOffset(Offset changed) {
        return new Page(schema, camera, rungs, changed, engine, model);
    }

    public Page withCamera(String other) {
        return new Page(schema, other, rungs, offset, engine, model);
    }

    /** The page bound to a version of the engine and a model. */
    public Page pinned(String engineVersion, String modelName) {
        return new Page(schema, camera, rungs, offset, engineVersion, modelName);
    }

    static double within(double percent) {
        return Math.max(0, Math.min(100, percent));
    }

    private static double mix(double from, double to, double share) {
        return from + (to - from) * share;
    }
}
