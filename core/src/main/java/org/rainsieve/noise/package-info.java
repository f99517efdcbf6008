/**
 * Laws of noise: what a sensor adds at each brightness, how it is read from one frame, fitted where samples are cut, and settled over many frames.
 *
 * <p>May know: frames only; places on a sensor are of package defect.
 */
package org.rainsieve.noise;
