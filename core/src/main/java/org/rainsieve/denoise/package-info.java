/**
 * The methods that take noise out, and what is kept of it: wavelets (Quick), like blocks (Patch), a trained network (Learned), each for 2×2 and 6×6 mosaics and for pictures in full colour.
 *
 * <p>May know: frames, demosaicing, noise, defects, networks; no tiles, no files.
 */
package org.rainsieve.denoise;
