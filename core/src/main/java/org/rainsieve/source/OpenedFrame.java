package org.rainsieve.source;

import java.util.List;
import java.util.Optional;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.icc.IccProfile;
import org.rainsieve.opcode.OpcodeList;
import org.rainsieve.optics.LensCorrection;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;

/**
 * An opened file: a DNG, or another with the tags that a DNG of it would have.
 *
 * @param main the first directory with the tags of the file
 * @param rawDirectory the directory of the mosaic, possibly the same
 * @param capture the mosaic, or the picture in full colour, trimmed to its active area
 * @param noiseProfile values of the NoiseProfile tag, or empty
 * @param profile of a rendered picture's colours; null for raw files
 * @param notes what was done to the picture before, in plain words; empty for mosaics
 * @param remarks what the file holds or asks for that was left out, in plain words
 */
public record OpenedFrame(
        TiffDirectory main,
        TiffDirectory rawDirectory,
        Capture capture,
        CameraColour colour,
        ShotInfo shot,
        List<Double> noiseProfile,
        List<String> notes,
        IccProfile profile,
        List<String> remarks) {

    /** A raw file, whose colours are told by matrices alone. */
    public OpenedFrame(
            TiffDirectory main,
            TiffDirectory rawDirectory,
            Capture capture,
            CameraColour colour,
            ShotInfo shot,
            List<Double> noiseProfile,
            List<String> notes) {
        this(main, rawDirectory, capture, colour, shot, noiseProfile, notes, null, List.of());
    }

    public OpenedFrame withRemarks(List<String> told) {
        return new OpenedFrame(
                main, rawDirectory, capture, colour, shot, noiseProfile, notes, profile, List.copyOf(told));
    }

    /** The same as its sidecar tells of the shot, see {@link SidecarTags}. */
    public OpenedFrame withSidecar(byte[] sidecar) {
        TiffDirectory told = SidecarTags.applied(main, sidecar);
        return told == main
                ? this
                : new OpenedFrame(
                        told,
                        rawDirectory,
                        capture,
                        colour,
                        ShotTags.shot(told),
                        noiseProfile,
                        notes,
                        profile,
                        remarks);
    }

    /** What its pixels take, in bytes: two a sample. */
    public long bytes() {
        return 2L * capture.width() * capture.height() * capture.channels();
    }

    /** Whose page of the camera book it belongs to: pictures that are no longer a sensor's mosaic have one of their own. */
    public String body() {
        if (capture instanceof Picture picture) {
            return shot.camera() + (picture.rendered() ? " (rendered)" : " (linear)");
        }
        return shot.camera();
    }

    /** What the file itself asks to have corrected after demosaicing; empty without it, or where it cannot be done here. */
    public Optional<LensCorrection> ownCorrection() {
        byte[] list = rawDirectory
                .field(Tag.OPCODE_LIST_3)
                .or(() -> main.field(Tag.OPCODE_LIST_3))
                .map(TiffField::bytes)
                .orElse(new byte[0]);
        try {
            return OpcodeList.lens(list, capture.width(), capture.height());
        } catch (RefusedException e) {
            return Optional.empty();
        }
    }

    /** The mosaic of a frame that is known to have one. */
    public Mosaic mosaic() {
        return (Mosaic) capture;
    }
}
