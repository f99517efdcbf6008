/**
 * Corrections that a DNG asks for, one class each. (DNG specification 1.4, chapter 7.)
 *
 * <p>May know: frames, TIFF fields, corrections of lenses.
 */
package org.rainsieve.opcode;
