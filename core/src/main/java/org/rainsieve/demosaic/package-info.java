/**
 * Interpolating a mosaic to three colours at each pixel.
 *
 * <p>May know: frames only.
 */
package org.rainsieve.demosaic;
