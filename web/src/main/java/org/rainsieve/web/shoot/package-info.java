/**
 * Shoots and their frames: contact sheet, spread, strays.
 *
 * <p>May know: book, files.
 */
package org.rainsieve.web.shoot;
