/**
 * The camera book: amounts for each camera and ISO, how they are interpolated between rungs, what is suggested at first, and which frames stray from it.
 *
 * <p>May know: noise laws and the settings of the steps; no files, no pixels.
 */
package org.rainsieve.book;
