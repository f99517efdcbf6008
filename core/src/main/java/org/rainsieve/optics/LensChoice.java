package org.rainsieve.optics;

import java.util.Optional;

/**
 * What was chosen for a lens on a camera, remembered for all frames of that pair.
 *
 * @param profile {@link #MATCHED} for the lens that the camera reports, {@link #NONE}, {@link #FILE} for what the file itself asks
 *     for, or a lens's name in the database
 */
public record LensChoice(
        boolean on, String profile, double distortionPercent, double fringesPercent, double shadingPercent) {
    public static final String MATCHED = "matched";
    public static final String NONE = "none";
    public static final String FILE = "file";

    /** Off: most catalogues correct lenses themselves, and twice would be wrong. */
    public static final LensChoice UNTOUCHED = new LensChoice(false, MATCHED, 100, 100, 100);

    public LensChoice {
        profile = profile == null || profile.isBlank() ? MATCHED : profile.strip();
        // Checks the amounts.
        new OpticsSettings(on, null, 0, distortionPercent, fringesPercent, shadingPercent);
    }

    /** The lens that is meant; empty for none or one that was not found. */
    public Optional<LensProfile> lens(LensDatabase database, String camera, String reported, double focalMm) {
        return switch (profile) {
            case NONE, FILE -> Optional.empty();
            case MATCHED -> database.match(camera, reported, focalMm).map(LensDatabase.Candidate::lens);
            default -> database.named(profile, focalMm);
        };
    }

    /** The step's settings where the file's own correction was chosen; null for a file without one. */
    public OpticsSettings settings(LensCorrection own) {
        return new OpticsSettings(on && own != null, own, 0, distortionPercent, fringesPercent, shadingPercent);
    }

    /** The step's settings for one frame: what the chosen lens does at its focal length, aperture and distance. */
    public OpticsSettings settings(
            LensDatabase database, String camera, String reported, double focalMm, double aperture) {
        LensCorrection correction = lens(database, camera, reported, focalMm)
                .map(lens -> lens.at(Double.isNaN(focalMm) ? lens.shortestMm() : focalMm, aperture, LensProfile.FAR_M))
                .orElse(null);
        return new OpticsSettings(
                on && correction != null,
                correction,
                database.cropFactor(camera),
                distortionPercent,
                fringesPercent,
                shadingPercent);
    }
}
