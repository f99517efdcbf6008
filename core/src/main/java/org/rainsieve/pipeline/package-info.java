/**
 * The steps in their order, tile by tile: denoise, sharpen, optics, crop, enlarge; the settings that a return is made with; writing a return, looking it over, and verifying it.
 *
 * <p>May know: every step and every file format; no pages, no database.
 */
package org.rainsieve.pipeline;
