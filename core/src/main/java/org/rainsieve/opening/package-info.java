/**
 * Opening a file of any kind that is read, and a glance at what it tells of itself.
 *
 * <p>May know: all kinds of files; no steps.
 */
package org.rainsieve.opening;
