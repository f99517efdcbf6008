/**
 * Drawn scenes, and cameras whose noise, colours and lens are known: sources of frames with truth, for tests, training, benchmarks and the demo.
 *
 * <p>May know: the core; no path of the product but the demo uses it.
 */
package org.rainsieve.scene;
