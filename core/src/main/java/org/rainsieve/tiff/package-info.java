/**
 * TIFF structure: directories, fields, their types; read and written in both byte orders. (TIFF 6.0.)
 *
 * <p>May know: bytes.
 */
package org.rainsieve.tiff;
