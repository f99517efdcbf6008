package org.rainsieve.web.shoot;

import org.rainsieve.opening.Glance;

/**
 * What a glance at a frame told.
 *
 * @param camera name of its page of the camera book; null when the file does not tell
 * @param pictured whether a small picture of it is kept
 */
public record GlancedFrame(long id, Glance glance, String camera, boolean pictured) {}
