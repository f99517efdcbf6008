package org.rainsieve.web.shoot;

/** Whether the step Optics can do what was chosen for a lens. */
public interface KnownLenses {
    /**
     * @param reported as the camera reported the lens; may be empty
     * @return true when Optics is on for that pair and the lens that is meant is not in the database
     */
    boolean wantedAndMissing(String camera, String reported, Double focalLengthMm);
}
