package org.rainsieve.book;

import java.util.Locale;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.sharpen.SharpenSettings;

/** Takes a choice made at one exposure index over to a page's other rungs, so that their frames look alike. */
public final class SameLook {
    private SameLook() {}

    /**
     * Every rung gets the method, and keeps as much grain as leaves the same noise as shown: sd at mid-grey after push. Noise
     * is never added, so a rung with less noise of its own keeps all of it. Bites are taken over, the blur is each rung's own.
     *
     * @param ei where it was chosen
     * @param law of the camera
     */
    public static Page of(Page page, double ei, DenoiseSettings chosen, SharpenSettings sharpen, NoiseLaw law) {
        double left = chosen.grainKeptPercent() * Starter.noisePercent(law, ei);
        double colourLeft = chosen.colourNoiseKeptPercent() * Starter.noisePercent(law, ei);
        String from = String.format(Locale.ROOT, "same look as at EI %,.0f", ei);
        return page.withOffset(Offset.NONE)
                .withRungs(page.rungs().stream()
                        .map(rung -> {
                            double noise = Starter.noisePercent(law, rung.ei());
                            SharpenSettings own = rung.sharpen();
                            return new Rung(
                                    rung.ei(),
                                    new DenoiseSettings(
                                            chosen.on(),
                                            chosen.method(),
                                            Page.within(left / noise),
                                            Page.within(colourLeft / noise),
                                            chosen.detailPercent()),
                                    new SharpenSettings(
                                            sharpen.on(),
                                            own.spread(),
                                            own.cornersPx(),
                                            sharpen.biteFinePercent(),
                                            sharpen.biteCoarsePercent(),
                                            sharpen.rimLimitPercent(),
                                            sharpen.method(),
                                            sharpen.model()),
                                    rung.masks(),
                                    Origin.chosen(from));
                        })
                        .toList());
    }
}
