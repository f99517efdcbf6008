/**
 * Sensor defects: hot and dead photosites, lines that are brighter than their neighbours, banding; and the map of them that frames of one sensor pool.
 *
 * <p>May know: frames and laws of noise.
 */
package org.rainsieve.defect;
