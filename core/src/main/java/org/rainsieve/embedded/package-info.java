/**
 * What lies inside picture files beside their pixels: tags, previews, XMP and IPTC, and of which kind a file is by its first bytes.
 *
 * <p>May know: bytes, TIFF, JPEG, XMP.
 */
package org.rainsieve.embedded;
