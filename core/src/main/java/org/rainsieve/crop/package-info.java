/**
 * What is cut and turned.
 *
 * <p>May know: nothing of the other packages.
 */
package org.rainsieve.crop;
