/**
 * Image primitives: means over squares, Gaussians, medians, smooth steps, and what stands for pixels beyond the border. Planes are row-major arrays, {@code width · height}
 * values; nothing is modified unless a method says so, and everything may be called by any thread.
 *
 * <p>May know: nothing of the other packages.
 */
package org.rainsieve.primitives;
