package org.rainsieve.dng;

import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.ShotInfo;

/**
 * An opened mosaic DNG.
 *
 * @param main the first directory with every tag of the file
 * @param rawDirectory the directory of the mosaic, possibly the same
 * @param mosaic the mosaic trimmed to its active area
 * @param noiseProfile values of the NoiseProfile tag, or empty
 */
public record DngFrame(
        TiffDirectory main,
        TiffDirectory rawDirectory,
        Mosaic mosaic,
        CameraColour colour,
        ShotInfo shot,
        List<Double> noiseProfile) {}
