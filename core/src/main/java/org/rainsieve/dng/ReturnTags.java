package org.rainsieve.dng;

import java.util.List;
import java.util.Set;
import org.rainsieve.frame.Region;
import org.rainsieve.opcode.OpcodeList;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/** Which tags of the original go into a return, and which do not (DNG specification 1.4; TIFF/EP). */
final class ReturnTags {
    /** How the original's pixels lie in its file, what describes its mosaic, and what is no longer true of a return. */
    private static final Set<Integer> DROPPED = Set.of(
            Tag.NEW_SUBFILE_TYPE,
            255,
            Tag.IMAGE_WIDTH,
            Tag.IMAGE_LENGTH,
            Tag.BITS_PER_SAMPLE,
            Tag.COMPRESSION,
            Tag.PHOTOMETRIC,
            266,
            Tag.STRIP_OFFSETS,
            Tag.SAMPLES_PER_PIXEL,
            Tag.ROWS_PER_STRIP,
            Tag.STRIP_BYTE_COUNTS,
            Tag.PLANAR_CONFIGURATION,
            Tag.SOFTWARE,
            317,
            Tag.TILE_WIDTH,
            Tag.TILE_LENGTH,
            Tag.TILE_OFFSETS,
            Tag.TILE_BYTE_COUNTS,
            Tag.SUB_IFDS,
            Tag.SAMPLE_FORMAT,
            513,
            514,
            529,
            530,
            531,
            532,
            Tag.XMP,
            Tag.CFA_REPEAT_DIM,
            Tag.CFA_PATTERN,
            Tag.EXIF_IFD,
            Tag.GPS_IFD,
            37393,
            37398,
            Tag.DNG_VERSION,
            Tag.DNG_BACKWARD_VERSION,
            Tag.CFA_PLANE_COLOR,
            Tag.CFA_LAYOUT,
            Tag.LINEARIZATION_TABLE,
            Tag.BLACK_LEVEL_REPEAT_DIM,
            Tag.BLACK_LEVEL,
            Tag.BLACK_LEVEL_DELTA_H,
            Tag.BLACK_LEVEL_DELTA_V,
            Tag.WHITE_LEVEL,
            Tag.BASELINE_NOISE,
            Tag.BASELINE_SHARPNESS,
            Tag.BAYER_GREEN_SPLIT,
            Tag.LINEAR_RESPONSE_LIMIT,
            Tag.CHROMA_BLUR_RADIUS,
            Tag.ANTI_ALIAS_STRENGTH,
            Tag.RAW_DATA_UNIQUE_ID,
            Tag.ORIGINAL_RAW_FILE_NAME,
            Tag.ORIGINAL_RAW_FILE_DATA,
            Tag.ORIGINAL_RAW_FILE_DIGEST,
            Tag.ACTIVE_AREA,
            Tag.MASKED_AREAS,
            Tag.EXTRA_CAMERA_PROFILES, // offsets into the original's file; what stands there is carried
            50974,
            51114, // of caches of the original's file
            52550, // statistics of its mosaic
            Tag.NOISE_REDUCTION_APPLIED,
            Tag.PREVIEW_APPLICATION_NAME,
            Tag.PREVIEW_APPLICATION_VERSION,
            50968,
            Tag.PREVIEW_SETTINGS_DIGEST,
            Tag.PREVIEW_COLOR_SPACE,
            Tag.PREVIEW_DATE_TIME,
            Tag.RAW_IMAGE_DIGEST,
            50975,
            Tag.OPCODE_LIST_1,
            Tag.OPCODE_LIST_2,
            Tag.NOISE_PROFILE,
            Tag.NEW_RAW_IMAGE_DIGEST);

    /** Tags that may stand in the mosaic's own directory and go to the return's image directory. */
    static final List<Integer> OF_IMAGE = List.of(
            Tag.DEFAULT_SCALE,
            Tag.DEFAULT_CROP_ORIGIN,
            Tag.DEFAULT_CROP_SIZE,
            Tag.BEST_QUALITY_SCALE,
            Tag.OPCODE_LIST_3,
            Tag.DEFAULT_USER_CROP);

    /** The same of later versions of the specification; not for a picture that was cut, whose places they tell in shares. */
    private static final List<Integer> OF_WHOLE_IMAGE =
            List.of(Tag.PROFILE_GAIN_TABLE_MAP, Tag.PROFILE_GAIN_TABLE_MAP_2, Tag.RAW_TO_PREVIEW_GAIN);

    /** A mosaic's private tags are a maker's own; larger ones are pictures rather than notes. */
    private static final int LARGEST_PRIVATE = 1 << 20;

    private ReturnTags() {}

    /** All tags of the original's main directory that hold for the return as well. */
    static void carryMain(TiffDirectory from, TiffDirectory to) {
        for (TiffField field : from.fields()) {
            if (!DROPPED.contains(field.tag()) && !OF_IMAGE.contains(field.tag())) {
                to.put(field);
            }
        }
        to.blocks().putAll(from.blocks());
        from.exif().ifPresent(exif -> to.setExif(exif(exif, from.number(Tag.MAKER_NOTE_SAFETY, 0) == 1)));
        from.gps().ifPresent(gps -> to.setGps(gps.copy()));
    }

    static void carryImage(TiffDirectory main, TiffDirectory raw, TiffDirectory to) {
        for (int tag : OF_IMAGE) {
            raw.field(tag).or(() -> main.field(tag)).ifPresent(to::put);
        }
        // Where there is but one directory, its tags are carried already.
        for (TiffField field : raw.fields()) {
            boolean ofImage = OF_WHOLE_IMAGE.contains(field.tag())
                    || isPrivate(field.tag()) && !mayBeOffset(field) && field.bytes().length <= LARGEST_PRIVATE;
            if (ofImage && !main.has(field.tag())) {
                to.put(field);
            }
        }
    }

    /** Beyond what TIFF, TIFF/EP, EXIF and the DNG specification number. */
    private static boolean isPrivate(int tag) {
        return tag >= 32768
                && !(tag >= 33400 && tag <= 34900)
                && !(tag >= 36864 && tag <= 42300)
                && !(tag >= 50700 && tag <= 53000);
    }

    /** Numbers of this size may be places in the original's file, which mean nothing in another. */
    private static boolean mayBeOffset(TiffField field) {
        return field.type() == TiffType.LONG || field.type() == TiffType.SLONG || field.type() == TiffType.IFD;
    }

    /**
     * Makes the tags of place right for a picture that was moved, cut or enlarged. Of opcode list 3 a picture that was only
     * enlarged keeps what is told in shares of it.
     */
    static void place(LinearDngWriter.Placement placement, int width, int height, TiffDirectory image) {
        double[] origin = image.numbers(Tag.DEFAULT_CROP_ORIGIN);
        double[] size = image.numbers(Tag.DEFAULT_CROP_SIZE);
        if (placement.lensCorrected() || placement.cropped()) {
            image.remove(Tag.OPCODE_LIST_3);
        } else if (placement.enlargedBy() != 1 && image.has(Tag.OPCODE_LIST_3)) {
            byte[] list = OpcodeList.enlarged(
                    image.field(Tag.OPCODE_LIST_3).orElseThrow().bytes());
            image.remove(Tag.OPCODE_LIST_3);
            if (list.length > 0) {
                image.put(TiffField.ofBytes(Tag.OPCODE_LIST_3, TiffType.UNDEFINED, list));
            }
        }
        if (placement.cropped() || origin.length != 2 || size.length != 2) {
            origin = new double[] {0, 0};
            size = new double[] {width, height};
        } else {
            for (int i = 0; i < 2; i++) {
                double side = i == 0 ? width : height;
                origin[i] = Math.min(side - 1, Math.round(origin[i] * placement.enlargedBy()));
                size[i] = Math.min(side - origin[i], Math.round(size[i] * placement.enlargedBy()));
            }
        }
        if (placement.cropped() || placement.enlargedBy() != 1 && image.has(Tag.DEFAULT_CROP_SIZE)) {
            image.put(TiffField.ofRationals(Tag.DEFAULT_CROP_ORIGIN, TiffType.RATIONAL, 1, origin));
            image.put(TiffField.ofRationals(Tag.DEFAULT_CROP_SIZE, TiffType.RATIONAL, 1, size));
        }
        if (placement.cropped()) {
            image.remove(Tag.DEFAULT_USER_CROP);
            image.remove(Tag.PROFILE_GAIN_TABLE_MAP);
            image.remove(Tag.PROFILE_GAIN_TABLE_MAP_2);
        }
        if (placement.crop() != null) {
            double[] crop = placement.crop();
            // Top, left, bottom, right, as shares of what DefaultCrop leaves (DNG specification 1.4, DefaultUserCrop).
            image.put(TiffField.ofRationals(
                    Tag.DEFAULT_USER_CROP,
                    TiffType.RATIONAL,
                    1_000_000,
                    share(crop[1] * height, origin[1], size[1]),
                    share(crop[0] * width, origin[0], size[0]),
                    share(crop[3] * height, origin[1], size[1]),
                    share(crop[2] * width, origin[0], size[0])));
        }
    }

    /**
     * What is to be shown of a picture: what DefaultUserCrop leaves of what DefaultCrop leaves of it (DNG specification 1.4; the
     * one in px from the upper left corner, the other as shares of that).
     */
    static Region shown(TiffDirectory image, int width, int height) {
        double[] origin = image.numbers(Tag.DEFAULT_CROP_ORIGIN);
        double[] size = image.numbers(Tag.DEFAULT_CROP_SIZE);
        if (origin.length != 2 || size.length != 2) {
            origin = new double[] {0, 0};
            size = new double[] {width, height};
        }
        double[] crop = image.numbers(Tag.DEFAULT_USER_CROP);
        if (crop.length != 4) {
            crop = new double[] {0, 0, 1, 1};
        }
        int left = within(origin[0] + crop[1] * size[0], width - 1);
        int top = within(origin[1] + crop[0] * size[1], height - 1);
        int right = within(origin[0] + crop[3] * size[0], width);
        int bottom = within(origin[1] + crop[2] * size[1], height);
        return new Region(left, top, Math.max(1, right - left), Math.max(1, bottom - top));
    }

    private static int within(double at, int most) {
        return (int) Math.max(0, Math.min(most, Math.round(at)));
    }

    private static double share(double at, double origin, double size) {
        return Math.max(0, Math.min(1, (at - origin) / size));
    }

    /** EXIF as it was; the maker's note only where the file says that it may be moved. */
    private static TiffDirectory exif(TiffDirectory exif, boolean makerNoteSafe) {
        TiffDirectory kept = exif.copy();
        if (!makerNoteSafe) {
            kept.remove(Tag.MAKER_NOTE);
        }
        return kept;
    }
}
