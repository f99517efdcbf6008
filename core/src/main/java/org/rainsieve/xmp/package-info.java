/**
 * XMP packets: what of them is carried on, and how our own properties are written. (ISO 16684-1.)
 *
 * <p>May know: bytes.
 */
package org.rainsieve.xmp;
