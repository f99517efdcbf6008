/**
 * Sharpening against a known blur by regularised deconvolution and what a network makes of it, with limits for grain and rims.
 *
 * <p>May know: frames, noise laws, networks.
 */
package org.rainsieve.sharpen;
