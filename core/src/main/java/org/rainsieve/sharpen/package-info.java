/**
 * Sharpening against a known blur by regularised deconvolution, with limits for grain and rims.
 *
 * <p>May know: frames only.
 */
package org.rainsieve.sharpen;
