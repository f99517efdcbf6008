/**
 * Runs: what one would do, its start, its items until they are returned, versions, and the morning page.
 *
 * <p>May know: shoots, book, files.
 */
package org.rainsieve.web.run;
