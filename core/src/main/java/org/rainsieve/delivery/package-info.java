/**
 * Finished pictures, TIFF and JPEG, developed from a return.
 *
 * <p>May know: linear DNGs, colours, profiles; never the steps.
 */
package org.rainsieve.delivery;
