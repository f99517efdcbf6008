/**
 * A file as a source of a frame: its pixels with the tags that tell camera, shot and colour, and what a sidecar says.
 *
 * <p>May know: frames, colours, TIFF, XMP.
 */
package org.rainsieve.source;
