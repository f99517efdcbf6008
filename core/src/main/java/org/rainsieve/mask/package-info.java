/**
 * Masks: shapes and strokes, areas found by focus, colour and brightness, and what amounts hold within.
 *
 * <p>May know: frames, readings; no files.
 */
package org.rainsieve.mask;
