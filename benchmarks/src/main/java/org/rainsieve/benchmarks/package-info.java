/**
 * Speed and quality, by hand: ./sieve benchmark. Nothing here is a test.
 *
 * <p>May know: core and simulation.
 */
package org.rainsieve.benchmarks;
