package org.rainsieve.web.shoot;

import org.rainsieve.noise.SettledLaw;

/**
 * What reading a frame found.
 *
 * @param noiseEvidence of its noise; null, as noiseJson, where neither pixels nor tags tell it
 */
public record ReadFrame(
        String sha256,
        String camera,
        int iso,
        double exposureSeconds,
        double aperture,
        double focalLengthMm,
        String lens,
        String takenAt,
        int width,
        int height,
        String pattern,
        String noiseJson,
        SettledLaw.Evidence noiseEvidence,
        String readingJson,
        String body,
        String serial,
        Double sidecarPush,
        double compensation,
        boolean pooled,
        boolean dark,
        String focusMap,
        byte[] defects,
        String ownOptics) {}
