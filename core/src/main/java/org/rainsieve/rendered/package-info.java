/**
 * Pictures that are rendered already, JPEG, PNG and TIFF, taken back to linear light.
 *
 * <p>May know: frames, profiles, what lies inside such files.
 */
package org.rainsieve.rendered;
