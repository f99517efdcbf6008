/**
 * Enlarging: natural edges by a windowed sinc, drawn edges, block edges of compressed pictures.
 *
 * <p>May know: frames only.
 */
package org.rainsieve.enlarge;
