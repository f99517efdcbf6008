/**
 * Training of the networks, and their files. Built with -P learn only.
 *
 * <p>May know: core and simulation.
 */
package org.rainsieve.learn;
