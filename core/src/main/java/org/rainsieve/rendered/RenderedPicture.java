package org.rainsieve.rendered;

import com.twelvemonkeys.imageio.plugins.tiff.TIFFImageReaderSpi;
import java.awt.image.BufferedImage;
import java.awt.image.Raster;
import java.awt.image.RenderedImage;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Iterator;
import java.util.List;
import javax.imageio.ImageIO;
import javax.imageio.ImageReader;
import javax.imageio.stream.ImageInputStream;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.embedded.EmbeddedTags;
import org.rainsieve.embedded.FileKind;
import org.rainsieve.embedded.JpegMetadata;
import org.rainsieve.file.BoundedInput;
import org.rainsieve.file.FileBytes;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.icc.IccProfile;
import org.rainsieve.icc.ProfileTables;
import org.rainsieve.jpeg.JpegTraces;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.source.ShotTags;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffReader;
import org.rainsieve.tiff.TiffType;

/**
 * A JPEG, PNG or TIFF as a frame: made linear by its own colour profile, with the tags that a linear DNG of it has. The
 * space of its profile takes the place of the camera's.
 */
public final class RenderedPicture {
    private static final long MOST_PIXELS = 100_000_000;
    private static final int LONGEST_PROGRAM = 40;
    private static final int D50 = 23;
    private static final int ICC_PROFILE = 34675;
    private static final int EXIF_COLOUR_SPACE = 40961;
    private static final int PROFILE_TONE_CURVE = 50940;
    private static final int IMAGE_RESOURCES = 34377;

    private final byte[] file;
    private final FileKind kind;

    private RenderedPicture(byte[] file, FileKind kind) {
        this.file = file;
        this.kind = kind;
    }

    /** @param kind JPEG, PNG or TIFF */
    public static OpenedFrame of(byte[] file, FileKind kind) throws RefusedException {
        return new RenderedPicture(file, kind).frame();
    }

    private OpenedFrame frame() throws RefusedException {
        TiffDirectory found = tags();
        IccProfile profile = profile(found);
        Picture picture = picture(found, profile);
        TiffDirectory main = described(found, kind);
        double[] matrix = profile.toXyzD50().inverse().m();
        main.put(TiffField.ofShorts(Tag.CALIBRATION_ILLUMINANT_1, D50));
        main.put(TiffField.ofRationals(Tag.COLOR_MATRIX_1, TiffType.SRATIONAL, 10_000, matrix));
        main.put(TiffField.ofRationals(Tag.FORWARD_MATRIX_1, TiffType.SRATIONAL, 10_000, adapted(profile)));
        main.put(TiffField.ofRationals(Tag.AS_SHOT_NEUTRAL, TiffType.RATIONAL, 1, 1, 1, 1));
        // The picture was developed before: its tones are to be shown as they are.
        main.put(TiffField.ofLongs(Tag.DEFAULT_BLACK_RENDER, 1));
        ByteBuffer curve = ByteBuffer.allocate(16).order(java.nio.ByteOrder.LITTLE_ENDIAN);
        curve.putFloat(0).putFloat(0).putFloat(1).putFloat(1);
        main.put(new TiffField(PROFILE_TONE_CURVE, TiffType.FLOAT, 4, curve.array(), java.nio.ByteOrder.LITTLE_ENDIAN));
        List<String> notes = new ArrayList<>();
        notes.add("a rendered picture: noise reduction and sharpening may be in it already");
        if (kind == FileKind.JPEG) {
            notes.addAll(JpegTraces.of(file, picture));
        }
        return new OpenedFrame(
                main, main, picture, ShotTags.colour(main), ShotTags.shot(main), List.of(), notes, profile, List.of());
    }

    /** A forward matrix takes white to D50 exactly, which rounded profiles miss a little. */
    private static double[] adapted(IccProfile profile) {
        Matrix3 m = profile.toXyzD50();
        double[] white = m.times(1, 1, 1);
        double[] d50 = {0.96422, 1, 0.82521};
        return Matrix3.diagonal(d50[0] / white[0], d50[1] / white[1], d50[2] / white[2])
                .times(m)
                .m();
    }

    /** The tags of a picture that its returns have, too. */
    public static TiffDirectory described(TiffDirectory found, FileKind kind) {
        TiffDirectory main = new TiffDirectory();
        for (int tag : new int[] {
            Tag.MAKE,
            Tag.MODEL,
            Tag.DATE_TIME,
            270,
            315,
            33432,
            Tag.XMP,
            Tag.IPTC,
            Tag.ORIENTATION,
            Tag.X_RESOLUTION,
            Tag.Y_RESOLUTION,
            Tag.RESOLUTION_UNIT
        }) {
            found.field(tag).ifPresent(main::put);
        }
        found.exif().ifPresent(main::setExif);
        found.gps().ifPresent(main::setGps);
        String model = (main.text(Tag.MAKE) + " " + main.text(Tag.MODEL)).strip();
        main.put(TiffField.ofText(
                Tag.UNIQUE_CAMERA_MODEL, model.isEmpty() ? ofNoCamera(found, kind) : model + ", rendered"));
        return main;
    }

    /** Pictures that tell no camera are at least those of one program apart from another's: their noise has nothing in common. */
    private static String ofNoCamera(TiffDirectory found, FileKind kind) {
        String program = found.text(Tag.SOFTWARE).strip();
        return kind + " of no camera"
                + (program.isEmpty() ? "" : ", " + program.substring(0, Math.min(LONGEST_PROGRAM, program.length())));
    }

    private TiffDirectory tags() {
        TiffDirectory found;
        try {
            byte[] exif = kind == FileKind.PNG ? png().exif() : null;
            found = switch (kind) {
                case JPEG -> EmbeddedTags.ofJpeg(FileBytes.of(file), 0).get(0);
                case TIFF -> TiffReader.read(file).get(0);
                default ->
                    exif == null ? new TiffDirectory() : TiffReader.read(exif).get(0);
            };
        } catch (RefusedException | RuntimeException e) {
            found = new TiffDirectory(); // a picture without readable tags is still a picture
        }
        byte[] xmp = kind == FileKind.JPEG
                ? JpegMetadata.xmp(FileBytes.of(file))
                : kind == FileKind.PNG ? png().xmp() : new byte[0];
        byte[] iptc = switch (kind) {
            case JPEG -> JpegMetadata.iptc(FileBytes.of(file));
            case PNG -> png().iptc();
            default -> found.has(Tag.IPTC) ? new byte[0] : JpegMetadata.iptc(bytes(found, IMAGE_RESOURCES));
        };
        if (xmp.length > 0) {
            found.put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, xmp));
        }
        if (iptc.length > 0) {
            found.put(TiffField.ofBytes(Tag.IPTC, TiffType.UNDEFINED, iptc));
        }
        return found;
    }

    private PngChunks png() {
        return new PngChunks(file);
    }

    private static byte[] bytes(TiffDirectory directory, int tag) {
        return directory.field(tag).map(TiffField::bytes).orElse(new byte[0]);
    }

    private IccProfile profile(TiffDirectory tags) throws RefusedException {
        if (kind == FileKind.PNG) {
            return png().profile();
        }
        byte[] icc = kind == FileKind.JPEG
                ? JpegMetadata.profile(file)
                : tags.field(ICC_PROFILE).map(TiffField::bytes).orElse(null);
        if (icc != null) {
            return IccProfile.parse(icc);
        }
        long space = tags.exif().map(exif -> exif.number(EXIF_COLOUR_SPACE, 1)).orElse(1L);
        // DCF: a camera's Adobe RGB is marked as uncalibrated.
        return kind == FileKind.JPEG && space == 65535 ? IccProfile.ADOBE_RGB : IccProfile.SRGB;
    }

    private Picture picture(TiffDirectory found, IccProfile profile) throws RefusedException {
        ImageReader reader = reader();
        if (reader == null) {
            throw new RefusedException("Pictures of this kind are not read on this machine.");
        }
        try (ImageInputStream in = BoundedInput.of(pixels())) {
            reader.setInput(in, true, true);
            int width = reader.getWidth(0);
            int height = reader.getHeight(0);
            if (width < 16 || height < 16 || (long) width * height > MOST_PIXELS) {
                throw new RefusedException(
                        "The picture is said to be " + width + " x " + height + " pixels, which is not read.");
            }
            RenderedImage image = reader.readAsRenderedImage(0, null);
            // A copy of the whole would be as large again.
            Raster raster = image instanceof BufferedImage held ? held.getRaster() : image.getData();
            return linear(raster, image, profile, storedBits(found));
        } catch (IOException | IndexOutOfBoundsException | IllegalArgumentException e) {
            throw new RefusedException("The picture is damaged or cut short, or of a form that is not read.", e);
        } finally {
            reader.dispose();
        }
    }

    private byte[] pixels() {
        return kind == FileKind.JPEG ? JpegMetadata.withoutProfile(file) : file;
    }

    /**
     * Bits of a sample as they are stored, which a reader may hand on in larger ones; 0 where the reader knows.
     *
     * @throws RefusedException for samples that are not read
     */
    private int storedBits(TiffDirectory found) throws RefusedException {
        if (kind != FileKind.TIFF) {
            return 0;
        }
        double[] bits = found.numbers(Tag.BITS_PER_SAMPLE);
        double[] formats = found.numbers(Tag.SAMPLE_FORMAT);
        int stored = bits.length == 0 ? 1 : (int) bits[0];
        int format = formats.length == 0 ? 1 : (int) formats[0];
        boolean whole = format == 1 && (stored == 8 || stored == 10 || stored == 12 || stored == 14 || stored == 16);
        if (!whole && !(format == 3 && stored == 32) || Arrays.stream(bits).anyMatch(b -> b != stored)) {
            throw new RefusedException("The picture has samples of " + stored + " bits"
                    + (format == 3 ? " of floating point" : format == 2 ? " with a sign" : "")
                    + "; whole numbers of 8, 10, 12, 14 or 16 bits, or floating point of 32, are read.");
        }
        return stored;
    }

    private ImageReader reader() {
        if (kind == FileKind.TIFF) {
            return new TIFFImageReaderSpi().createReaderInstance(null);
        }
        // The readers of the Java platform itself, whatever else may have been added to it.
        ImageReader reader = null;
        String format = kind.name().toLowerCase(java.util.Locale.ROOT);
        for (Iterator<ImageReader> readers = ImageIO.getImageReadersByFormatName(format); readers.hasNext(); ) {
            ImageReader next = readers.next();
            reader = next.getClass().getModule().isNamed() ? next : reader;
        }
        return reader;
    }

    private Picture linear(Raster raster, RenderedImage image, IccProfile profile, int storedBits)
            throws RefusedException {
        int bands = raster.getNumBands();
        int type = raster.getSampleModel().getDataType();
        boolean floats = type == java.awt.image.DataBuffer.TYPE_FLOAT;
        int held = raster.getSampleModel().getSampleSize(0);
        boolean palette = image.getColorModel() instanceof java.awt.image.IndexColorModel;
        if (palette || bands != 1 && bands != 3 || !floats && held != 8 && held != 16) {
            throw new RefusedException("The picture has " + bands + " channels of " + held
                    + (palette ? " bits from a palette" : " bits")
                    + "; one or three of 8 or 16 bits are read. Save it without transparency and as RGB.");
        }
        int width = raster.getWidth();
        int height = raster.getHeight();
        short[][] samples = new short[3][width * height];
        if (profile.tables() != null) {
            if (floats || bands != 3) {
                throw new RefusedException(
                        "The picture's colour profile rests on tables, which are read for RGB of 8 or 16 bits"
                                + " only. Save it with a plain profile such as sRGB.");
            }
            ProfileTables.linear(raster, storedBits == 0 ? held : storedBits, profile.tables(), samples);
            return new Picture(width, height, samples, 0, 65535, true);
        }
        for (int c = 0; c < 3; c++) {
            if (bands == 1 && c > 0) {
                samples[c] = samples[0];
                continue;
            }
            IccProfile.Curve curve = profile.curve(c);
            short[] table = floats ? null : table(curve, storedBits == 0 ? held : storedBits);
            int band = bands == 1 ? 0 : c;
            float[] real = new float[width];
            int[] whole = new int[width];
            for (int y = 0; y < height; y++) {
                if (floats) {
                    raster.getSamples(raster.getMinX(), raster.getMinY() + y, width, 1, band, real);
                } else {
                    raster.getSamples(raster.getMinX(), raster.getMinY() + y, width, 1, band, whole);
                }
                for (int x = 0; x < width; x++) {
                    samples[c][y * width + x] =
                            floats ? stored(curve.linear(real[x])) : table[Math.min(table.length - 1, whole[x])];
                }
            }
        }
        return new Picture(width, height, samples, 0, 65535, true);
    }

    private static short[] table(IccProfile.Curve curve, int bits) {
        short[] table = new short[1 << bits];
        for (int i = 0; i < table.length; i++) {
            table[i] = stored(curve.linear(i / (table.length - 1.0)));
        }
        return table;
    }

    private static short stored(double linear) {
        return (short) Math.max(0, Math.min(65535, Math.round(linear * 65535)));
    }
}
