package org.rainsieve.book;

import java.util.ArrayList;
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
 * @param leavesMasks whether the masks of its rung are left out in this frame; null, in what was stored before, is false
 */
public record FrameSteps(
        DenoiseSettings denoise, SharpenSettings sharpen, CropSettings crop, List<Mask> masks, Boolean leavesMasks) {
    public static final FrameSteps NONE = new FrameSteps(null, null, CropSettings.WHOLE, List.of(), false);

    public FrameSteps {
        leavesMasks = Boolean.TRUE.equals(leavesMasks);
        crop = crop == null ? CropSettings.WHOLE : crop;
        masks = Mask.checked(masks);
    }

    public boolean followsRung() {
        return denoise == null && sharpen == null;
    }

    public FrameSteps following() {
        return new FrameSteps(null, null, crop, masks, leavesMasks);
    }

    public FrameSteps with(List<Mask> other) {
        return new FrameSteps(denoise, sharpen, crop, other, leavesMasks);
    }

    /** With settings of its own, or null for those of its rung. */
    public FrameSteps with(DenoiseSettings ownDenoise, SharpenSettings ownSharpen, CropSettings ownCrop) {
        return new FrameSteps(ownDenoise, ownSharpen, ownCrop, masks, leavesMasks);
    }

    public FrameSteps leavingMasks(boolean leaves) {
        return new FrameSteps(denoise, sharpen, crop, masks, leaves);
    }

    /** Those of its rung, as far as it takes them, and its own over them. */
    public List<Mask> masksWith(List<Mask> ofRung) {
        if (leavesMasks || ofRung.isEmpty()) {
            return masks;
        }
        List<Mask> all = new ArrayList<>(ofRung);
        all.addAll(masks);
        return all;
    }

    public FrameSteps withDenoise(DenoiseSettings own) {
        return new FrameSteps(own, sharpen, crop, masks, leavesMasks);
    }
}
