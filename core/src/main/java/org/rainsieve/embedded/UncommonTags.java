package org.rainsieve.embedded;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.rainsieve.file.FileBytes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/**
 * What older kinds of raw files that are no TIFF at heart tell of the shot, as EXIF would: CIFF heaps, X3F properties, and
 * one with fixed places whose texts run backwards. Their layouts are from memory and checked against ExifTool.
 */
final class UncommonTags {
    private static final int DEEPEST_HEAP = 4;
    private static final int MOST_ENTRIES = 512;
    private static final long LARGEST_ENTRY = 1 << 20;

    private final TiffDirectory main = new TiffDirectory();
    private final TiffDirectory exif = new TiffDirectory();
    private int focalLength;
    /** Units of a millimetre that focal lengths are told in. */
    private int focalUnits = 1;

    private String serial = "";

    private UncommonTags() {
        main.setExif(exif);
    }

    /** @return null for other kinds */
    static TiffDirectory of(FileBytes file) throws RefusedException {
        byte[] head = file.slice(0, 128);
        UncommonTags tags = new UncommonTags();
        if (EmbeddedTags.starts(head, 6, "HEAPCCDR")) {
            ByteOrder order = head[0] == 'I' ? ByteOrder.LITTLE_ENDIAN : ByteOrder.BIG_ENDIAN;
            long start = ByteBuffer.wrap(head).order(order).getInt(2) & 0xffffffffL;
            tags.heap(file, start, file.length(), order, 0);
            tags.rational(Tag.FOCAL_LENGTH, tags.focalLength, tags.focalUnits);
            // Of the maker's compact cameras the same record means something else.
            if (tags.main.text(Tag.MODEL).contains("EOS")) {
                tags.text(tags.exif, Tag.BODY_SERIAL_NUMBER, tags.serial);
            }
            return tags.main;
        }
        if (EmbeddedTags.starts(head, 0, "FOVb")) {
            return tags.properties(file);
        }
        if (EmbeddedTags.starts(head, 25, "ARECOYK")) {
            tags.backwards(ByteBuffer.wrap(file.slice(0, 256)));
            return tags.main;
        }
        return null;
    }

    /** A heap ends with the place of its directory: records of tag, size and place, some of which are heaps again. */
    private void heap(FileBytes file, long from, long to, ByteOrder order, int depth) {
        if (depth > DEEPEST_HEAP || to - from < 6 || to > file.length()) {
            return;
        }
        long directory =
                from + (ByteBuffer.wrap(file.slice(to - 4, 4)).order(order).getInt() & 0xffffffffL);
        ByteBuffer records =
                ByteBuffer.wrap(file.slice(directory, 2 + 10 * MOST_ENTRIES)).order(order);
        int count = records.remaining() < 2 ? 0 : Math.min(MOST_ENTRIES, records.getShort() & 0xffff);
        for (int i = 0; i < count && records.remaining() >= 10; i++) {
            int tag = records.getShort() & 0xffff;
            long size = records.getInt() & 0xffffffffL;
            long at = from + (records.getInt() & 0xffffffffL);
            int type = tag & 0x3800;
            if ((tag & 0x4000) != 0) {
                byte[] inside = new byte[8];
                records.get(records.position() - 8, inside);
                record(tag & 0x3fff, ByteBuffer.wrap(inside).order(order));
            } else if (type == 0x2800 || type == 0x3000) {
                heap(file, at, at + size, order, depth + 1);
            } else if (size <= LARGEST_ENTRY) {
                record(tag & 0x3fff, ByteBuffer.wrap(file.slice(at, (int) size)).order(order));
            }
        }
    }

    private void record(int tag, ByteBuffer value) {
        int bytes = value.remaining();
        switch (tag) {
            case 0x080a -> {
                String[] names = new String(value.array(), StandardCharsets.ISO_8859_1).split("\0");
                text(main, Tag.MAKE, names[0]);
                text(main, Tag.MODEL, names.length > 1 ? names[1] : "");
            }
            case 0x180e -> time(bytes < 4 ? 0 : value.getInt(0) & 0xffffffffL);
            case 0x180b -> serial = bytes < 4 ? "" : Long.toString(value.getInt(0) & 0xffffffffL);
            case 0x1029 -> focalLength = bytes < 4 ? 0 : value.getShort(2) & 0xffff;
            case 0x102d -> {
                if (bytes >= 52 && value.getShort(50) > 0) {
                    focalUnits = value.getShort(50);
                }
            }
            case 0x102a -> {
                if (bytes >= 6) {
                    // In steps of 1/32: what the camera added by itself, and what was set.
                    double automatic = Math.pow(2, value.getShort(2) / 32.0);
                    iso((int) Math.round(automatic * Math.pow(2, value.getShort(4) / 32.0) * 100 / 32));
                }
                if (bytes >= 46) {
                    rational(Tag.F_NUMBER, Math.pow(2, steps(value.getShort(42)) / 2), 1);
                    rational(Tag.EXPOSURE_TIME, Math.pow(2, -steps(value.getShort(44))), 1);
                }
            }
            default -> {}
        }
    }

    /** APEX values in steps of 1/32, of which thirds stand as 12 and 20. */
    private static double steps(int value) {
        int fraction = Math.abs(value) % 32;
        double third = fraction == 12 ? 32 / 3.0 : fraction == 20 ? 64 / 3.0 : fraction;
        return Math.signum(value) * ((Math.abs(value) - fraction + third) / 32);
    }

    /** Names and values in UTF-16; without them, the tags of the JPEG in the file. */
    private TiffDirectory properties(FileBytes file) throws RefusedException {
        ByteBuffer end = little(file.slice(file.length() - 4, 4));
        long directory = end.remaining() < 4 ? 0 : end.getInt(0) & 0xffffffffL;
        ByteBuffer sections = little(file.slice(directory, 12 + 12 * MOST_ENTRIES));
        if (!EmbeddedTags.starts(sections.array(), 0, "SECd")) {
            return null;
        }
        int count = Math.min(MOST_ENTRIES, sections.getInt(8));
        TiffDirectory ofJpeg = null;
        for (int i = 0; i < count && 24 + 12 * i <= sections.capacity(); i++) {
            long at = sections.getInt(12 + 12 * i) & 0xffffffffL;
            long size = Math.min(LARGEST_ENTRY, sections.getInt(16 + 12 * i) & 0xffffffffL);
            String kind = new String(sections.array(), 20 + 12 * i, 4, StandardCharsets.US_ASCII);
            if (kind.equals("PROP")) {
                named(little(file.slice(at, (int) size)));
            } else if (kind.equals("IMA2") && EmbeddedTags.starts(file.slice(at + 28, 3), 0, "\u00ff\u00d8\u00ff")) {
                ofJpeg = EmbeddedTags.ofJpeg(file, at + 28).get(0);
            }
        }
        return main.text(Tag.MODEL).isEmpty() && ofJpeg != null ? ofJpeg : main;
    }

    private void named(ByteBuffer section) {
        if (section.capacity() < 24) {
            return;
        }
        int count = Math.min(MOST_ENTRIES, section.getInt(8));
        Charset utf16 = StandardCharsets.UTF_16LE;
        Map<String, String> values = new HashMap<>();
        int texts = 24 + 8 * count;
        for (int i = 0; i < count && texts <= section.capacity(); i++) {
            values.put(
                    upToZero(section, texts + 2 * section.getInt(24 + 8 * i), utf16),
                    upToZero(section, texts + 2 * section.getInt(28 + 8 * i), utf16));
        }
        text(main, Tag.MAKE, values.getOrDefault("CAMMANUF", ""));
        text(main, Tag.MODEL, values.getOrDefault("CAMMODEL", ""));
        text(exif, Tag.BODY_SERIAL_NUMBER, values.getOrDefault("CAMSERIAL", ""));
        iso((int) number(values.get("ISO")));
        rational(Tag.EXPOSURE_TIME, number(values.get("SHUTTER")), 1);
        rational(Tag.F_NUMBER, number(values.get("APERTURE")), 1);
        rational(Tag.FOCAL_LENGTH, number(values.get("FLENGTH")), 1);
        time((long) number(values.get("TIME")));
    }

    private static String upToZero(ByteBuffer section, int from, Charset charset) {
        int to = from;
        while (from >= 0 && to + 1 < section.capacity() && section.getShort(to) != 0) {
            to += 2;
        }
        return from < 0 || from > section.capacity() ? "" : new String(section.array(), from, to - from, charset);
    }

    private static double number(String text) {
        try {
            return text == null ? 0 : Double.parseDouble(text.strip());
        } catch (NumberFormatException e) {
            return 0;
        }
    }

    private void backwards(ByteBuffer head) {
        if (head.capacity() < 160) {
            return;
        }
        text(main, Tag.MAKE, reversed(head, 25, 7));
        text(main, Tag.MODEL, reversed(head, 12, 12));
        text(exif, Tag.DATE_TIME_ORIGINAL, reversed(head, 33, 20));
        text(exif, Tag.LENS_MODEL, reversed(head, 0x7c, 32));
        int iso = head.getInt(0x34);
        // Thirds of a stop, of which the seventh is ISO 25.
        iso(iso > 0 && iso < 30 ? nearest(25 * Math.pow(2, (iso - 7) / 3.0)) : 0);
        rational(Tag.EXPOSURE_TIME, Math.pow(2, head.getInt(0x38) / 8.0) / 16000, 1);
        rational(Tag.F_NUMBER, Math.pow(2, head.getInt(0x58) / 16.0), 1);
        rational(Tag.FOCAL_LENGTH, head.getInt(0x70), 1);
    }

    /** The usual number of a sensitivity (ISO 12232, table of rounded values). */
    private static int nearest(double iso) {
        int best = 0;
        for (int usual :
                List.of(25, 32, 40, 50, 64, 80, 100, 125, 160, 200, 250, 320, 400, 500, 640, 800, 1600, 3200)) {
            best = Math.abs(usual - iso) < Math.abs(best - iso) ? usual : best;
        }
        return best;
    }

    private static String reversed(ByteBuffer head, int from, int count) {
        String text = new String(head.array(), from, count, StandardCharsets.ISO_8859_1);
        return new StringBuilder(text).reverse().toString().replace("\0", "");
    }

    private static ByteBuffer little(byte[] data) {
        return ByteBuffer.wrap(data).order(ByteOrder.LITTLE_ENDIAN);
    }

    private static void text(TiffDirectory to, int tag, String value) {
        if (!value.isBlank()) {
            to.put(TiffField.ofText(tag, value.strip()));
        }
    }

    private void iso(int value) {
        if (value > 0) {
            exif.put(TiffField.ofShorts(Tag.ISO_SPEED, Math.min(65535, value)));
        }
    }

    private void rational(int tag, double value, int units) {
        double plain = value / Math.max(1, units);
        if (plain > 0 && plain < 4000) {
            exif.put(TiffField.ofRationals(tag, TiffType.RATIONAL, 1_000_000, plain));
        }
    }

    private void time(long unixSeconds) {
        if (unixSeconds > 0) {
            LocalDateTime time = LocalDateTime.ofInstant(Instant.ofEpochSecond(unixSeconds), ZoneOffset.UTC);
            text(exif, Tag.DATE_TIME_ORIGINAL, time.format(DateTimeFormatter.ofPattern("yyyy:MM:dd HH:mm:ss")));
        }
    }
}
