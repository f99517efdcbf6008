package org.rainsieve.scene;

import org.rainsieve.frame.Planes;

/**
 * A drawn scene and what is known about it.
 *
 * @param srgb clean linear sRGB as the lens throws it on the sensor; values above 1 are lamps
 * @param depth distance in metres, one channel
 * @param blur radius of the disc of confusion in pixels, one channel
 * @param focusMetres distance that is sharp
 */
public record SceneTruth(Planes srgb, Planes depth, Planes blur, double focusMetres) {}
