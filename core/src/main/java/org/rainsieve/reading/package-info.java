/**
 * What is measured on a frame when it is taken in: noise, blur and its shape, focus over the frame, clipping.
 *
 * <p>May know: frames, noise, defects, colours.
 */
package org.rainsieve.reading;
