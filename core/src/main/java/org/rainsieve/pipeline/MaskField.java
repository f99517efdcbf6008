package org.rainsieve.pipeline;

import java.util.List;
import java.util.function.Function;
import java.util.function.ToDoubleFunction;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.FoundArea;
import org.rainsieve.mask.FrameLook;
import org.rainsieve.mask.Mask;
import org.rainsieve.mask.MaskAmounts;
import org.rainsieve.mask.MaskPainter;
import org.rainsieve.mask.MaskPart;
import org.rainsieve.mask.MaskShape;
import org.rainsieve.noise.NoiseModel;

/** A frame's masks over its pixels: what becomes of an amount in each place. One mask lies over the other, in their order. */
public final class MaskField {
    private record LookKey(Object frame, NoiseModel noise) {}

    private record AreaKey(Object frame, NoiseModel noise, MaskShape shape) {}

    /** A place on the frame, whatever the mask sets there. */
    private record StrengthKey(Object estimate, List<MaskPart> parts, boolean inverted, double opacity, Region tile) {}

    /** Strengths are kept in tiles of so many pixels: amounts are moved far more often than masks. */
    private static final int TILE = 512;

    private final List<Mask> masks;
    private final Object estimateId;
    private final Object frame;
    private final Capture capture;
    private final NoiseModel noise;
    private final double[] gains;
    private final WorkingMemory cache;
    private final MaskPainter painter;

    /**
     * @param estimateId equal only where the estimate is
     * @param estimate the denoised picture of a region, in the sensor's geometry
     */
    MaskField(
            List<Mask> masks,
            Object estimateId,
            Object frame,
            Capture capture,
            NoiseModel noise,
            double[] gains,
            WorkingMemory cache,
            Function<Region, Planes> estimate) {
        this.masks = masks;
        this.estimateId = estimateId;
        this.frame = frame;
        this.capture = capture;
        this.noise = noise;
        this.gains = gains;
        this.cache = cache;
        this.painter = new MaskPainter(capture.bounds(), gains, estimate, this::look, this::found);
    }

    /** What a mask finds in this frame. */
    public FoundArea found(MaskShape shape) {
        return cache.get(
                new AreaKey(frame, noise, shape),
                () -> FoundArea.of(shape, look()),
                area -> 4L * area.strength().length);
    }

    /** Masks that were to be found by focus where focus does not tell one part of this frame from another: they have no effect. */
    List<Mask> untold() {
        return masks.stream()
                .filter(Mask::acts)
                .filter(mask -> mask.parts().stream()
                        .map(MaskPart::shape)
                        .anyMatch(shape -> shape instanceof MaskShape.InFocus focus
                                && focus.ifTold() != null
                                && !found(focus).tellsApart()))
                .toList();
    }

    private FrameLook look() {
        return cache.get(
                new LookKey(frame, noise),
                () -> FrameLook.of(capture, noise, gains),
                look -> 28L * look.columns() * look.rows());
    }

    /** Strength of one mask, see {@link MaskPainter#strength}. */
    public float[] strength(Mask mask, Region region) {
        return Patchwork.of(
                region,
                capture.bounds(),
                TILE,
                tile -> cache.get(
                        new StrengthKey(estimateId, mask.parts(), mask.inverted(), mask.opacityPercent(), tile),
                        () -> painter.strength(mask, tile),
                        values -> 4L * values.length));
    }

    /** Strength over the whole frame reduced to a long edge, three alike channels: quick, for looking at. */
    public Planes draft(Mask mask, int longEdgePx) {
        int w = capture.width();
        int h = capture.height();
        double factor = Math.min(1, (double) longEdgePx / Math.max(w, h));
        Region reduced =
                new Region(0, 0, (int) Math.max(1, Math.round(w * factor)), (int) Math.max(1, Math.round(h * factor)));
        return threefold(
                reduced, MaskPainter.draft(Math.max(w, h), reduced, this::found).strength(mask, reduced));
    }

    static Planes threefold(Region region, float[] strength) {
        Planes out = new Planes(region, 3);
        for (int c = 0; c < 3; c++) {
            System.arraycopy(strength, 0, out.channel(c), 0, strength.length);
        }
        return out;
    }

    boolean denoises() {
        return masks.stream().anyMatch(m -> m.acts() && m.amounts().denoises());
    }

    boolean sharpens() {
        return masks.stream().anyMatch(m -> m.acts() && m.amounts().sharpens());
    }

    boolean keepsDetail() {
        return masks.stream()
                .anyMatch(m -> m.acts()
                        && m.amounts().detailPercent() != null
                        && m.amounts().detailPercent() > 0);
    }

    /** What changes the pixels that Denoise gives. */
    List<Mask> denoising() {
        return masks.stream().filter(m -> m.acts() && m.amounts().denoises()).toList();
    }

    /** The amounts of each pixel of a region as shares, 0 to 1. */
    final class Amounts {
        private final Region region;
        private final float[][] strengths;

        /** @param sharpening for Sharpen's amounts, else for Denoise's */
        Amounts(Region region, boolean sharpening) {
            this.region = region;
            strengths = new float[masks.size()][];
            for (int k = 0; k < strengths.length; k++) {
                Mask mask = masks.get(k);
                boolean asked =
                        sharpening ? mask.amounts().sharpens() : mask.amounts().denoises();
                strengths[k] = mask.acts() && asked ? strength(mask, region) : null;
            }
        }

        Region region() {
            return region;
        }

        /**
         * @param percent what holds without masks
         * @param own a mask's amount; NaN where it leaves it
         */
        float[] of(double percent, ToDoubleFunction<MaskAmounts> own) {
            float[] out = new float[Math.toIntExact(region.area())];
            java.util.Arrays.fill(out, (float) (percent / 100));
            for (int k = 0; k < strengths.length; k++) {
                double wanted = own.applyAsDouble(masks.get(k).amounts());
                if (strengths[k] == null || Double.isNaN(wanted)) {
                    continue;
                }
                float share = (float) (wanted / 100);
                for (int i = 0; i < out.length; i++) {
                    out[i] += strengths[k][i] * (share - out[i]);
                }
            }
            return out;
        }
    }

    Amounts denoiseAmounts(Region region) {
        return new Amounts(region, false);
    }

    Amounts sharpenAmounts(Region region) {
        return new Amounts(region, true);
    }

    static double orNaN(Double percent) {
        return percent == null ? Double.NaN : percent;
    }
}
