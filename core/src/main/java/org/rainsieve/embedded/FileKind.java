package org.rainsieve.embedded;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.rainsieve.file.FileBytes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffReader;

/** What a file is, told by its content and never by its name's ending. */
public enum FileKind {
    DNG(""),
    MAKERS_RAW(""),
    JPEG(""),
    PNG(""),
    TIFF(""),
    JPEG_XL("This is a JPEG XL picture, a kind that is not read."),
    HEIF("This is a HEIF or AVIF picture, a kind that is not read."),
    WEBP("This is a WebP picture, a kind that is not read."),
    OTHER_PICTURE("This is a GIF, BMP or layered picture, a kind that is not read. Save it as TIFF, PNG or JPEG."),
    BIG_TIFF("This is a BigTIFF, a kind that is not read. Save it as TIFF."),
    MOVING("This is a moving picture; only stills are read."),
    DOCUMENT("This is a PDF document."),
    TEXT("This is a text file, whatever its name says."),
    UNKNOWN("This is neither a raw file nor a picture of a kind that is known.");

    /** TIFF compressions that only raw data have: makers' own and TIFF/EP's. */
    private static final Set<Long> RAW_COMPRESSIONS = Set.of(32767L, 32769L, 32770L, 34713L, 65000L, 65535L);

    private final String refusal;

    FileKind(String refusal) {
        this.refusal = refusal;
    }

    /** Why such a file is not taken, in plain words; empty for kinds that are read. */
    public String refusal() {
        return refusal;
    }

    public static FileKind of(byte[] data) {
        return of(FileBytes.of(data));
    }

    /** The same of a file that is not held in memory. */
    public static FileKind of(FileBytes file) {
        byte[] data = file.slice(0, 512);
        if (starts(data, 0, "\u00ff\u00d8\u00ff")) {
            return JPEG;
        }
        if (starts(data, 0, "\u0089PNG")) {
            return PNG;
        }
        if (starts(data, 0, "\u00ff\n") || starts(data, 4, "JXL ")) {
            return JPEG_XL;
        }
        if (starts(data, 4, "ftypcrx")) {
            return MAKERS_RAW;
        }
        if (starts(data, 4, "ftyp")) {
            return starts(data, 8, "hei") || starts(data, 8, "hev") || starts(data, 8, "mif1") || starts(data, 8, "avi")
                    ? HEIF
                    : MOVING;
        }
        if (starts(data, 0, "RIFF")) {
            return starts(data, 8, "WEBP") ? WEBP : starts(data, 8, "AVI ") ? MOVING : UNKNOWN;
        }
        if (starts(data, 0, "GIF8")
                || starts(data, 0, "8BPS")
                || starts(data, 0, "BM") && starts(data, 6, "\0\0\0\0")) {
            return OTHER_PICTURE;
        }
        if (starts(data, 0, "II+\0") || starts(data, 0, "MM\0+")) {
            return BIG_TIFF;
        }
        if (starts(data, 0, "%PDF")) {
            return DOCUMENT;
        }
        for (String head : List.of("FUJIFILMCCD-RAW", "IIU\0", "IIRO", "IIRS", "MMOR", "\0MRM", "FOVb", "ARRI")) {
            if (starts(data, 0, head)) {
                return MAKERS_RAW;
            }
        }
        if (starts(data, 6, "HEAPCCDR") || starts(data, 4, "ARECOYK") || starts(data, 25, "ARECOYK")) {
            return MAKERS_RAW;
        }
        if (TiffReader.looksLikeTiff(data)) {
            return tiff(data, file);
        }
        int text = 0;
        int looked = Math.min(data.length, 512);
        for (int i = 0; i < looked; i++) {
            text += data[i] >= 32 || data[i] == '\n' || data[i] == '\r' || data[i] == '\t' ? 1 : 0;
        }
        return text == looked ? TEXT : UNKNOWN;
    }

    private static FileKind tiff(byte[] data, FileBytes file) {
        try {
            List<TiffDirectory> all = new ArrayList<>(TiffReader.read(file, 0));
            if (all.get(0).has(Tag.DNG_VERSION)) {
                return DNG;
            }
            if (starts(data, 8, "CR\u0002") || starts(data, 8, "IIII")) {
                return MAKERS_RAW;
            }
            List.copyOf(all).forEach(directory -> all.addAll(directory.subDirectories()));
            boolean raw = all.stream()
                    .anyMatch(d -> d.number(Tag.PHOTOMETRIC, 0) == Tag.PHOTOMETRIC_CFA
                            || RAW_COMPRESSIONS.contains(d.number(Tag.COMPRESSION, 1)));
            return raw ? MAKERS_RAW : TIFF;
        } catch (RefusedException e) {
            return UNKNOWN;
        }
    }

    private static boolean starts(byte[] data, int from, String head) {
        return EmbeddedTags.starts(data, from, head);
    }
}
