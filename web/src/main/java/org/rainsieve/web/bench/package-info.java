/**
 * The bench: one frame, its steps and masks, what is shown of it, and undoing in one order.
 *
 * <p>May know: book, lenses, shoots, pictures of the worker.
 */
package org.rainsieve.web.bench;
