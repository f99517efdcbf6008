/**
 * The camera book's pages and where it is kept.
 *
 * <p>May know: core rules of the book; no shoots.
 */
package org.rainsieve.web.book;
