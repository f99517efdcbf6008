package org.rainsieve.rendered;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.zip.DataFormatException;
import java.util.zip.Inflater;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.colour.White;
import org.rainsieve.embedded.JpegMetadata;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.icc.IccProfile;

/** What the chunks of a PNG tell of its colours and of the picture (PNG, third edition, chapter 11). */
final class PngChunks {
    private static final int LARGEST = 16 << 20;

    private final byte[] file;

    PngChunks(byte[] file) {
        this.file = file;
    }

    /** The directories of the eXIf chunk; null without one. */
    byte[] exif() {
        return chunk("eXIf");
    }

    /** XMP stands in an iTXt chunk of its own (XMP specification, part 3, section 1.1.5); empty without one. */
    byte[] xmp() {
        for (int at = next(8, "iTXt"); at > 0; at = next(at + 12 + length(at), "iTXt")) {
            byte[] chunk = Arrays.copyOfRange(file, at + 8, at + 8 + length(at));
            String keyword = upToZero(chunk, 0);
            int flags = keyword.length() + 1;
            if (!keyword.equals("XML:com.adobe.xmp") || flags + 2 > chunk.length) {
                continue;
            }
            int text = flags + 2;
            for (int skipped = 0; skipped < 2; skipped++) { // language and translated keyword
                text += upToZero(chunk, text).length() + 1;
            }
            if (text > chunk.length) {
                return new byte[0];
            }
            byte[] rest = Arrays.copyOfRange(chunk, text, chunk.length);
            return chunk[flags] == 1 ? inflated(rest) : rest;
        }
        return new byte[0];
    }

    /** IPTC as several programs write it: hexadecimal digits in a compressed text (common practice); empty without. */
    byte[] iptc() {
        for (int at = next(8, "zTXt"); at > 0; at = next(at + 12 + length(at), "zTXt")) {
            byte[] chunk = Arrays.copyOfRange(file, at + 8, at + 8 + length(at));
            String keyword = upToZero(chunk, 0);
            if (keyword.equals("Raw profile type iptc") && keyword.length() + 2 <= chunk.length) {
                String text = new String(
                        inflated(Arrays.copyOfRange(chunk, keyword.length() + 2, chunk.length)),
                        StandardCharsets.ISO_8859_1);
                String[] lines = text.strip().split("\n", 3); // its kind, its length, its digits
                try {
                    byte[] block = HexFormat.of().parseHex(lines.length < 3 ? "" : lines[2].replaceAll("\\s", ""));
                    return block.length > 4 && block[0] == '8' ? JpegMetadata.iptc(block) : block;
                } catch (IllegalArgumentException e) {
                    return new byte[0];
                }
            }
        }
        return new byte[0];
    }

    /**
     * What its values mean: by cICP, else iCCP, else sRGB, else gAMA and cHRM.
     *
     * @throws RefusedException for values that are no picture's but a display's, and for damaged profiles
     */
    IccProfile profile() throws RefusedException {
        byte[] code = chunk("cICP");
        if (code != null && code.length == 4) {
            return coded(code[0] & 0xff, code[1] & 0xff);
        }
        byte[] icc = chunk("iCCP");
        if (icc != null) {
            int name = upToZero(icc, 0).length();
            byte[] profile = inflated(Arrays.copyOfRange(icc, Math.min(icc.length, name + 2), icc.length));
            if (profile.length == 0) {
                throw new RefusedException("The picture's colour profile is damaged.");
            }
            return IccProfile.parse(profile);
        }
        byte[] gamma = chunk("gAMA");
        byte[] primaries = chunk("cHRM");
        if (chunk("sRGB") != null || gamma == null && primaries == null) {
            return IccProfile.SRGB;
        }
        return IccProfile.of(
                primaries == null ? RgbSpace.SRGB : space(primaries), gamma == null ? RgbSpace::decode : power(gamma));
    }

    private static IccProfile.Curve power(byte[] gamma) throws RefusedException {
        int told = gamma.length == 4 ? ByteBuffer.wrap(gamma).getInt() : 0;
        if (told < 1000 || told > 1_000_000) {
            throw new RefusedException("The picture tells a gamma that makes no sense: it is damaged.");
        }
        // 0.45455 is what programs write for sRGB, whose curve it roughly is.
        return value -> Math.pow(Math.max(0, value), 100_000.0 / told);
    }

    private static RgbSpace space(byte[] chromaticities) throws RefusedException {
        double[] xy = new double[8];
        ByteBuffer in = ByteBuffer.wrap(chromaticities);
        for (int i = 0; i < 8 && in.remaining() >= 4; i++) {
            xy[i] = in.getInt() / 100_000.0;
        }
        try {
            RgbSpace space = RgbSpace.of(new White(xy[0], xy[1]), xy[2], xy[3], xy[4], xy[5], xy[6], xy[7]);
            if (Arrays.stream(space.toXyzD50().m()).allMatch(Double::isFinite)) {
                return space;
            }
        } catch (ArithmeticException | IllegalArgumentException e) {
            // told below
        }
        throw new RefusedException("The picture tells primaries that make no sense: it is damaged.");
    }

    /** Numbers of ITU-T H.273, tables 2 and 3. */
    private static IccProfile coded(int primaries, int transfer) throws RefusedException {
        RgbSpace space = switch (primaries) {
            case 1 -> RgbSpace.SRGB;
            case 9 -> RgbSpace.of(White.D65, 0.708, 0.292, 0.170, 0.797, 0.131, 0.046);
            case 11 -> RgbSpace.of(new White(0.314, 0.351), 0.680, 0.320, 0.265, 0.690, 0.150, 0.060);
            case 12 -> RgbSpace.DISPLAY_P3;
            default -> throw refusal(primaries, transfer);
        };
        IccProfile.Curve curve = switch (transfer) {
            case 1, 6, 14, 15 ->
                v -> v < 4.5 * 0.018053968510807
                        ? v / 4.5
                        : Math.pow((v + 0.099296826809443) / 1.099296826809443, 1 / 0.45);
            case 4 -> v -> Math.pow(v, 2.2);
            case 5 -> v -> Math.pow(v, 2.8);
            case 8 -> v -> v;
            case 13 -> RgbSpace::decode;
            default -> throw refusal(primaries, transfer);
        };
        return primaries == 1 && transfer == 13 ? IccProfile.SRGB : IccProfile.of(space, curve);
    }

    private static RefusedException refusal(int primaries, int transfer) {
        return new RefusedException(
                transfer == 16 || transfer == 18
                        ? "The picture's values are those of a high dynamic range display (PQ or HLG), which are not read."
                                + " Save it with a plain profile such as sRGB."
                        : "The picture's colours are told by numbers that are not read (cICP " + primaries + ", "
                                + transfer + "). Save it with a plain profile such as sRGB.");
    }

    private byte[] chunk(String name) {
        int at = next(8, name);
        return at < 0 ? null : Arrays.copyOfRange(file, at + 8, at + 8 + length(at));
    }

    /** Where the next chunk of that name begins; -1 without one. */
    private int next(int from, String name) {
        for (int at = from; at + 12 <= file.length; at += 12 + length(at)) {
            if (length(at) < 0 || length(at) > file.length - at - 12) {
                return -1;
            }
            if (name.equals(new String(file, at + 4, 4, StandardCharsets.US_ASCII))) {
                return at;
            }
        }
        return -1;
    }

    private int length(int at) {
        return ByteBuffer.wrap(file).getInt(at);
    }

    private static String upToZero(byte[] chunk, int from) {
        int to = Math.min(chunk.length, from);
        while (to < chunk.length && chunk[to] != 0) {
            to++;
        }
        return new String(chunk, Math.min(from, to), to - Math.min(from, to), StandardCharsets.ISO_8859_1);
    }

    /** Empty where it is damaged. */
    private static byte[] inflated(byte[] packed) {
        Inflater inflater = new Inflater();
        try {
            inflater.setInput(packed);
            ByteArrayOutputStream out = new ByteArrayOutputStream();
            byte[] part = new byte[1 << 14];
            int n;
            while (out.size() < LARGEST && (n = inflater.inflate(part)) > 0) {
                out.write(part, 0, n);
            }
            return out.toByteArray();
        } catch (DataFormatException e) {
            return new byte[0];
        } finally {
            inflater.end();
        }
    }
}
