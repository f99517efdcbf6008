package org.rainsieve.embedded;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.TreeMap;
import org.rainsieve.file.FileBytes;
import org.rainsieve.jpeg.JpegSegments;
import org.rainsieve.xmp.Xmp;

/** What segments of a JPEG tell beside EXIF: XMP (its specification, part 3, section 1.1.3), IPTC and the ICC profile. */
public final class JpegMetadata {
    private static final String XMP_HEAD = "http://ns.adobe.com/xap/1.0/\0";
    private static final String EXTENSION_HEAD = "http://ns.adobe.com/xmp/extension/\0";
    private static final String RESOURCES_HEAD = "Photoshop 3.0\0";
    private static final String PROFILE_HEAD = "ICC_PROFILE\0";
    private static final int APP1 = 0xe1;
    private static final int APP2 = 0xe2;
    private static final int APP13 = 0xed;
    private static final int GUID = 32;
    private static final int IPTC_RESOURCE = 0x0404;

    /** Metadata come first; more than this is not looked at. */
    private static final int HEAD = 1 << 18;

    private static final int LONG_HEAD = 16 << 20;

    private JpegMetadata() {}

    /** The XMP packet, joined with what did not fit its segment; empty without one. */
    public static byte[] xmp(FileBytes file) {
        byte[] head = file.slice(0, HEAD);
        byte[] packet = content(head, APP1, XMP_HEAD);
        String guid = packet.length == 0 ? "" : Xmp.extendedBy(packet);
        if (guid.isEmpty()) {
            return packet;
        }
        return Xmp.merged(packet, extension(file.slice(0, LONG_HEAD), guid));
    }

    /** Pieces of the extension of that name, each with its place in the whole; empty where one is missing. */
    private static byte[] extension(byte[] head, String guid) {
        TreeMap<Integer, byte[]> pieces = new TreeMap<>();
        int length = 0;
        for (JpegSegments.Segment segment : JpegSegments.of(head, 0)) {
            int at = segment.from() + EXTENSION_HEAD.length();
            if (segment.marker() == APP1
                    && segment.to() <= head.length
                    && segment.to() > at + GUID + 8
                    && EmbeddedTags.starts(head, segment.from(), EXTENSION_HEAD + guid)) {
                length = ByteBuffer.wrap(head).getInt(at + GUID);
                pieces.put(
                        ByteBuffer.wrap(head).getInt(at + GUID + 4),
                        Arrays.copyOfRange(head, at + GUID + 8, segment.to()));
            }
        }
        if (length < 0 || length > LONG_HEAD) {
            return new byte[0];
        }
        byte[] whole = new byte[length];
        int filled = 0;
        for (var piece : pieces.entrySet()) {
            if (piece.getKey() != filled || piece.getValue().length > length - filled) {
                return new byte[0];
            }
            System.arraycopy(piece.getValue(), 0, whole, filled, piece.getValue().length);
            filled += piece.getValue().length;
        }
        return filled == length ? whole : new byte[0];
    }

    /** The IPTC block; empty without one. */
    public static byte[] iptc(FileBytes file) {
        return iptc(content(file.slice(0, HEAD), APP13, RESOURCES_HEAD));
    }

    /** The IPTC block among image resources (each: 8BIM, number, name of even length, size, content of even length). */
    public static byte[] iptc(byte[] resources) {
        ByteBuffer in = ByteBuffer.wrap(resources);
        while (in.remaining() >= 12 && in.getInt() == 0x3842494d) {
            int number = in.getShort() & 0xffff;
            int name = in.get(in.position()) & 0xff;
            int skip = name + 1 + (name + 1 & 1);
            if (in.remaining() < skip + 4) {
                break;
            }
            in.position(in.position() + skip);
            int size = in.getInt();
            if (size < 0 || size > in.remaining()) {
                break;
            }
            if (number == IPTC_RESOURCE) {
                byte[] block = new byte[size];
                in.get(block);
                return block;
            }
            in.position(Math.min(in.limit(), in.position() + size + (size & 1)));
        }
        return new byte[0];
    }

    /** The profile's chunks, joined in the order of their numbers (ICC.1:2010, annex B.4); null without one. */
    public static byte[] profile(byte[] file) {
        TreeMap<Integer, byte[]> chunks = new TreeMap<>();
        int size = 0;
        for (JpegSegments.Segment segment : JpegSegments.of(file, 0)) {
            if (isProfile(file, segment)) {
                byte[] chunk = Arrays.copyOfRange(file, segment.from() + PROFILE_HEAD.length() + 2, segment.to());
                chunks.put(file[segment.from() + PROFILE_HEAD.length()] & 0xff, chunk);
                size += chunk.length;
            }
        }
        ByteBuffer joined = ByteBuffer.allocate(size);
        chunks.values().forEach(chunk -> {
            if (chunk.length <= joined.remaining()) {
                joined.put(chunk);
            }
        });
        return size == 0 ? null : joined.array();
    }

    /**
     * The JPEG without its profile. The platform's reader takes pictures with one to sRGB, or changes nothing, by rules of its
     * own; without one it gives values as they are stored.
     */
    public static byte[] withoutProfile(byte[] file) {
        byte[] out = new byte[file.length];
        int filled = 0;
        int at = 0;
        for (JpegSegments.Segment segment : JpegSegments.of(file, 0)) {
            if (isProfile(file, segment)) {
                int until = segment.from() - 4;
                System.arraycopy(file, at, out, filled, until - at);
                filled += until - at;
                at = segment.to();
            }
        }
        System.arraycopy(file, at, out, filled, file.length - at);
        return Arrays.copyOf(out, filled + file.length - at);
    }

    private static boolean isProfile(byte[] file, JpegSegments.Segment segment) {
        return segment.marker() == APP2
                && segment.to() <= file.length
                && segment.to() - segment.from() > PROFILE_HEAD.length() + 2
                && EmbeddedTags.starts(file, segment.from(), PROFILE_HEAD);
    }

    /** What follows a segment's head; empty without such a segment. */
    private static byte[] content(byte[] head, int marker, String begins) {
        for (JpegSegments.Segment segment : JpegSegments.of(head, 0)) {
            if (segment.marker() == marker
                    && segment.to() <= head.length
                    && EmbeddedTags.starts(head, segment.from(), begins)) {
                return Arrays.copyOfRange(
                        head, segment.from() + begins.getBytes(StandardCharsets.US_ASCII).length, segment.to());
            }
        }
        return new byte[0];
    }
}
