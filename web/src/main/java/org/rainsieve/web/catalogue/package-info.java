/**
 * What a catalogue tells of returns that it took, and the demo catalogue’s page.
 *
 * <p>May know: files, runs.
 */
package org.rainsieve.web.catalogue;
