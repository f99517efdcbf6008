package org.rainsieve.sharpen;

import org.rainsieve.frame.Region;

/**
 * What deconvolution found in one region, from which any bite is put back: luminance, its fine and coarse detail where it
 * stands out of the noise, and the darkest and brightest luminance around each pixel.
 */
public record SharpenTile(
        Region region, float[] luminance, float[] fine, float[] coarse, float[] darkest, float[] brightest) {}
