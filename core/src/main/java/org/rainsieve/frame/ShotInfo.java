package org.rainsieve.frame;

/**
 * What the file says about how it was taken; empty strings and NaN where it does not say.
 *
 * @param iso sensor sensitivity, 0 when unknown
 * @param exposureSeconds exposure time
 * @param takenAt local date and time as {@code yyyy-MM-ddTHH:mm:ss[.fff][+hh:mm]}
 * @param orientation TIFF orientation, 1 to 8
 * @param compensationStops exposure compensation set on the camera
 */
public record ShotInfo(
        String make,
        String model,
        String serial,
        int iso,
        double exposureSeconds,
        double aperture,
        double focalLengthMm,
        String lens,
        String takenAt,
        int orientation,
        double compensationStops) {

    /** The name of the body as the camera book shows it: maker and model without saying the maker twice. */
    public String camera() {
        if (model.isEmpty()) {
            return make.isEmpty() ? "Unknown camera" : make;
        }
        return make.isEmpty() || model.toLowerCase().startsWith(make.toLowerCase()) ? model : make + " " + model;
    }
}
