package org.rainsieve.book;

import java.util.ArrayList;
import java.util.List;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.sharpen.SharpenSettings;

/** A change of settings made on one frame, written to its page. */
public final class Change {
    /** What a change applies to. */
    public enum Target {
        /** The nearest rung. */
        RUNG,
        /** A rung at the frame's own exposure index. */
        NEW_RUNG,
        /** The whole camera: amounts as an offset, what is not an amount on every rung. */
        CAMERA
    }

    private Change() {}

    /**
     * @param ei the frame's exposure index
     * @param wanted what the frame is to come out with
     * @param sharpen the same for the step Sharpen
     * @param from where it was chosen, for the rung's origin
     */
    public static Page apply(
            Page page, Target target, double ei, DenoiseSettings wanted, SharpenSettings sharpen, String from) {
        return switch (target) {
            case RUNG ->
                page.withRung(new Rung(
                        page.nearest(ei).ei(),
                        withoutOffset(page, wanted),
                        sharpen,
                        page.nearest(ei).masks(),
                        Origin.chosen(from)));
            case NEW_RUNG ->
                page.withRung(new Rung(
                        (int) Math.max(1, Math.round(ei)),
                        withoutOffset(page, wanted),
                        sharpen,
                        page.masksAt(ei),
                        Origin.chosen(from)));
            case CAMERA -> wholeCamera(page, ei, wanted, sharpen);
        };
    }

    /** Rungs hold amounts before the camera's offset. */
    private static DenoiseSettings withoutOffset(Page page, DenoiseSettings wanted) {
        return new DenoiseSettings(
                wanted.on(),
                wanted.method(),
                Page.within(wanted.grainKeptPercent() - page.offset().grainKeptPoints()),
                Page.within(wanted.colourNoiseKeptPercent() - page.offset().colourNoiseKeptPoints()),
                wanted.detailPercent());
    }

    /** Detail and sharpening are no offsets: where they are changed, every rung takes them as they are. */
    private static Page wholeCamera(Page page, double ei, DenoiseSettings wanted, SharpenSettings sharpen) {
        DenoiseSettings now = page.withOffset(Offset.NONE).at(ei);
        List<Rung> rungs = new ArrayList<>();
        boolean switched = now.on() != wanted.on() || !now.method().equals(wanted.method());
        boolean detailed = !now.detailPercent().equals(wanted.detailPercent());
        boolean sharpened = !page.sharpenAt(ei).equals(sharpen);
        for (Rung rung : page.rungs()) {
            DenoiseSettings own = rung.denoise();
            DenoiseSettings denoise = new DenoiseSettings(
                    switched ? wanted.on() : own.on(),
                    switched ? wanted.method() : own.method(),
                    own.grainKeptPercent(),
                    own.colourNoiseKeptPercent(),
                    detailed ? wanted.detailPercent() : own.detailPercent());
            rungs.add(new Rung(rung.ei(), denoise, sharpened ? sharpen : rung.sharpen(), rung.masks(), rung.origin()));
        }
        return page.withRungs(rungs)
                .withOffset(new Offset(
                        wanted.grainKeptPercent() - now.grainKeptPercent(),
                        wanted.colourNoiseKeptPercent() - now.colourNoiseKeptPercent()));
    }
}
