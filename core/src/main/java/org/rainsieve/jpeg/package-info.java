/**
 * JPEG streams: their segments, traces of earlier compression, and the lossless kind (ITU-T T.81, process 14).
 *
 * <p>May know: bytes.
 */
package org.rainsieve.jpeg;
