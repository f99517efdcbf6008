/**
 * Lens corrections: the open database, matching a lens by its name, distortion, fringes and shading as a map of places.
 *
 * <p>May know: frames only.
 */
package org.rainsieve.optics;
