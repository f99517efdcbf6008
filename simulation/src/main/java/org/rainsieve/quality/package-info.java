/**
 * Measures of pictures against their truth: PSNR, SSIM, slanted edges.
 *
 * <p>May know: frames; no path of the product uses it.
 */
package org.rainsieve.quality;
