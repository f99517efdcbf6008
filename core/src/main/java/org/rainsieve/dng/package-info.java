/**
 * Digital negatives: mosaics and linear pictures read, linear pictures written. (DNG specification 1.4.)
 *
 * <p>May know: TIFF, lossless JPEG, opcodes, sources; never the steps.
 */
package org.rainsieve.dng;
