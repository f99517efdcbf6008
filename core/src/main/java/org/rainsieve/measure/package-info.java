/**
 * What the product itself measures on pictures: evenness of a burst, overshoot beside edges, histograms.
 *
 * <p>May know: frames only.
 */
package org.rainsieve.measure;
