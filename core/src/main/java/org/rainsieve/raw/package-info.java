/**
 * Makers' raw files, decoded behind a fence in a process of its own.
 *
 * <p>May know: frames, TIFF, sources.
 */
package org.rainsieve.raw;
