/**
 * Bytes of files: parts of them at hand, limits while they are read, hashes.
 *
 * <p>May know: nothing of the other packages.
 */
package org.rainsieve.file;
