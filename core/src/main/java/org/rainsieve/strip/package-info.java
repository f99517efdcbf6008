/**
 * Test strips: which candidates are compared, where in the frame, and the figures below each cell.
 *
 * <p>May know: steps and readings; no pages.
 */
package org.rainsieve.strip;
