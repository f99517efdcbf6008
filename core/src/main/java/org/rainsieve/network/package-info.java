/**
 * Trained networks: the files they ship in, and running one on planes of numbers.
 *
 * <p>May know: files' hashes only; what the planes mean is a matter of whoever packs them.
 */
package org.rainsieve.network;
