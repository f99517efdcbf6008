/**
 * Enlarging: natural edges by a windowed sinc, learned ones by a network, drawn ones of earlier versions, block edges of compressed pictures.
 *
 * <p>May know: frames, noise laws, networks.
 */
package org.rainsieve.enlarge;
