package org.rainsieve.dng;

import java.util.List;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.ShotInfo;

/**
 * An opened raw file: a DNG, or another with the tags that a DNG of it would have.
 *
 * @param main the first directory with the tags of the file
 * @param rawDirectory the directory of the mosaic, possibly the same
 * @param mosaic the mosaic trimmed to its active area
 * @param noiseProfile values of the NoiseProfile tag, or empty
 */
public record OpenedFrame(
        TiffDirectory main,
        TiffDirectory rawDirectory,
        Mosaic mosaic,
        CameraColour colour,
        ShotInfo shot,
        List<Double> noiseProfile) {}
