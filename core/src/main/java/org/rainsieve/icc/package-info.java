/**
 * Colour profiles read and written. (ICC.1:2010 and v2.)
 *
 * <p>May know: colours, bytes.
 */
package org.rainsieve.icc;
