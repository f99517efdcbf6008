package org.rainsieve.dng;

import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.ShotInfo;

/**
 * An opened file: a DNG, or another with the tags that a DNG of it would have.
 *
 * @param main the first directory with the tags of the file
 * @param rawDirectory the directory of the mosaic, possibly the same
 * @param capture the mosaic, or the picture in full colour, trimmed to its active area
 * @param noiseProfile values of the NoiseProfile tag, or empty
 * @param notes what was done to the picture before, in plain words; empty for mosaics
 */
public record OpenedFrame(
        TiffDirectory main,
        TiffDirectory rawDirectory,
        Capture capture,
        CameraColour colour,
        ShotInfo shot,
        List<Double> noiseProfile,
        List<String> notes) {

    /** Whose page of the camera book it belongs to: pictures that are no longer a sensor's mosaic have one of their own. */
    public String body() {
        if (capture instanceof Picture picture) {
            return shot.camera() + (picture.rendered() ? " (rendered)" : " (linear)");
        }
        return shot.camera();
    }

    /** The mosaic of a frame that is known to have one. */
    public Mosaic mosaic() {
        return (Mosaic) capture;
    }
}
