/**
 * What is worked on: a mosaic or a picture as it was captured, planes of single precision over a region, sources of pixels that answer for any region.
 *
 * <p>May know: nothing of the other packages.
 */
package org.rainsieve.frame;
