package org.rainsieve.web.shoot;

import java.nio.file.Path;
import org.rainsieve.web.files.ReturnNames;

/**
 * What a worker or a run needs to know about a frame.
 *
 * @param comesBackAsTiff a TIFF that another program handed over
 * @param mark {@code keep}, or null: what is dropped is not worked on
 * @param ownOptics the correction that the file itself asks for, as JSON; null without one
 */
public record FrameForWork(
        long id,
        long shootId,
        String path,
        String name,
        String camera,
        Integer iso,
        Integer width,
        Integer height,
        long sizeBytes,
        String sha256,
        Double push,
        String lens,
        Double focalLengthMm,
        Double aperture,
        String ownOptics,
        boolean comesBackAsTiff,
        String takenAt,
        Integer orientation,
        String pattern,
        String steps,
        String mark) {

    /** What the names of its returns can tell. */
    public ReturnNames.Frame named() {
        return new ReturnNames.Frame(name, camera == null ? "" : camera, iso, takenAt);
    }

    /** The lens as the camera reported it; empty when it did not. */
    public String reportedLens() {
        return lens == null ? "" : lens;
    }

    /** Exposure index: ISO · 2^push. */
    public double ei() {
        return ei(iso, push);
    }

    /** By how much it is shown lighter, as it will be. */
    public double pushedStops() {
        return push == null ? 0 : Math.max(0, push);
    }

    static double ei(Integer iso, Double push) {
        return Math.max(1, (iso == null ? 0 : iso) * Math.pow(2, push == null ? 0 : push));
    }

    public Path file() {
        return Path.of(path);
    }
}
