package org.rainsieve.strip;

import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * One row of a test strip.
 *
 * @param words what sets it apart from the others, for people
 * @param model name of the trained model that denoises; empty for the one that the camera's page is bound to
 */
public record Candidate(
        String words, DenoiseSettings denoise, SharpenSettings sharpen, EnlargeSettings enlarge, String model) {}
