package org.rainsieve.web.rendering;

/**
 * What a return says of how it was made; empty where it does not.
 *
 * @param settings as JSON
 */
public record HowMade(String engine, String settings, String originalSha256) {}
