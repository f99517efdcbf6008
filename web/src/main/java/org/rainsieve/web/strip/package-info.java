/**
 * Test strips on pages.
 *
 * <p>May know: bench, book, shoots.
 */
package org.rainsieve.web.strip;
