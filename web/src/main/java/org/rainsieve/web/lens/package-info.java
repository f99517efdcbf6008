/**
 * Which correction a lens on a camera gets.
 *
 * <p>May know: core optics.
 */
package org.rainsieve.web.lens;
