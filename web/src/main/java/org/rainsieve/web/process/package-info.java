/**
 * The command line: the same steps without pages or database.
 *
 * <p>May know: core, files, forms of returns.
 */
package org.rainsieve.web.process;
