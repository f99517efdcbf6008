package org.rainsieve.web.bench;

import java.util.List;
import java.util.Map;

/**
 * How a frame's steps stand, as the bench shows them and takes them over after a change.
 *
 * @param version of the camera's page
 * @param at changes whenever the frame's own settings do
 * @param follows whether the frame takes its amounts from its camera's page
 * @param fields of the step form, by name: text, or whether a box is ticked
 * @param bookFields the same as the camera's page has them, of the steps that it holds
 * @param bookWords the page's denoising and sharpening, in words
 * @param undo what would be taken back; null for nothing
 * @param redo likewise
 * @param said what was just done; empty for nothing
 */
public record BenchState(
        long version,
        int at,
        boolean follows,
        Map<String, Object> fields,
        Map<String, Object> bookFields,
        Map<String, String> bookWords,
        List<FrameChanges.Target> targets,
        String undo,
        String redo,
        String said) {}
