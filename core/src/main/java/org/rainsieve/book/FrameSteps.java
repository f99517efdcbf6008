package org.rainsieve.book;

import java.util.List;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.mask.Mask;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * What one frame holds of its own.
 *
 * @param denoise null where it follows its rung
 * @param sharpen the same
 * @param crop of this frame; never anybody else's
 * @param masks of this frame; those of its burst get copies when asked for
 */
public record FrameSteps(DenoiseSettings denoise, SharpenSettings sharpen, CropSettings crop, List<Mask> masks) {
    public static final FrameSteps NONE = new FrameSteps(null, null, CropSettings.WHOLE, List.of());

    public FrameSteps {
        crop = crop == null ? CropSettings.WHOLE : crop;
        masks = Mask.checked(masks);
    }

    public boolean followsRung() {
        return denoise == null && sharpen == null;
    }

    public FrameSteps following() {
        return new FrameSteps(null, null, crop, masks);
    }

    public FrameSteps with(List<Mask> other) {
        return new FrameSteps(denoise, sharpen, crop, other);
    }

    public FrameSteps withDenoise(DenoiseSettings own) {
        return new FrameSteps(own, sharpen, crop, masks);
    }
}
