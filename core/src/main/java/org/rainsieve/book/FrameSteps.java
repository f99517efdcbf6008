package org.rainsieve.book;

import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * What one frame holds of its own.
 *
 * @param denoise null where it follows its rung
 * @param sharpen the same
 * @param crop of this frame; never anybody else's
 */
public record FrameSteps(DenoiseSettings denoise, SharpenSettings sharpen, CropSettings crop) {
    public static final FrameSteps NONE = new FrameSteps(null, null, CropSettings.WHOLE);

    public FrameSteps {
        crop = crop == null ? CropSettings.WHOLE : crop;
    }

    public boolean followsRung() {
        return denoise == null && sharpen == null;
    }

    public FrameSteps following() {
        return new FrameSteps(null, null, crop);
    }

    public FrameSteps withDenoise(DenoiseSettings own) {
        return new FrameSteps(own, sharpen, crop);
    }
}
