package org.rainsieve.web.shoot;

/** What reading a frame found. */
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
