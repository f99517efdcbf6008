/**
 * Colour: spaces, matrices from camera to display, how a frame is shown.
 *
 * <p>May know: nothing of the other packages.
 */
package org.rainsieve.colour;
