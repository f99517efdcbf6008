package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.GainField;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.optics.LensCorrection;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;

/**
 * Corrections that a DNG asks for before demosaicing (DNG specification 1.4, chapter 7): list 1 works on the samples as
 * stored, list 2 on linear values. Gains and shading are not worked into the samples but handed on, see
 * {@link GainField}. What is not known and not marked as optional is refused by name.
 */
public final class OpcodeList {
    private static final int WARP_RECTILINEAR = 1;
    private static final int WARP_FISHEYE = 2;
    private static final int FIX_VIGNETTE_RADIAL = 3;
    private static final int FIX_BAD_PIXELS_CONSTANT = 4;
    private static final int FIX_BAD_PIXELS_LIST = 5;
    private static final int MAP_TABLE = 7;
    private static final int MAP_POLYNOMIAL = 8;
    private static final int GAIN_MAP = 9;

    private static final List<String> NAMES = List.of(
            "",
            "WarpRectilinear",
            "WarpFisheye",
            "FixVignetteRadial",
            "FixBadPixelsConstant",
            "FixBadPixelsList",
            "TrimBounds",
            "MapTable",
            "MapPolynomial",
            "GainMap",
            "DeltaPerRow",
            "DeltaPerColumn",
            "ScalePerRow",
            "ScalePerColumn");

    private static final int MOST_OPCODES = 256;
    private static final int MOST_POINTS = 1 << 22;
    /** Linear values are laid into 16 bits above this level, so that noise below black stays. */
    public static final int BLACK = 2048;

    public static final int WHITE = 65535;

    /** Where 0 and 1 are told by {@link #BLACK} and {@link #WHITE}; what is not a number is black. */
    public static short linear(double value) {
        return Double.isNaN(value) ? BLACK : laid(BLACK + value * (WHITE - BLACK));
    }

    /** Shading is smooth: a grid this fine follows it to 1e-4. */
    private static final int SHADING_POINTS = 65;

    private static final double[] NO_WARP = {1, 0, 0, 0, 0, 0};

    /** @param version of the DNG specification that it needs */
    private record Opcode(int id, int version, int flags, byte[] data) {
        boolean optional() {
            return (flags & 1) == 1;
        }

        ByteBuffer buffer() {
            return ByteBuffer.wrap(data);
        }
    }

    private final List<Opcode> opcodes;

    private OpcodeList(List<Opcode> opcodes) {
        this.opcodes = opcodes;
    }

    /** Lists 1 and 2. */
    public static OpcodeList parse(byte[] bytes) throws RefusedException {
        List<Opcode> opcodes = new ArrayList<>();
        for (Opcode opcode : all(bytes)) {
            if (isKnown(opcode)) {
                opcodes.add(opcode);
            } else if (!opcode.optional()) {
                String name = name(opcode).isEmpty() ? "opcode " + opcode.id : name(opcode);
                boolean warps = opcode.id == WARP_RECTILINEAR || opcode.id == WARP_FISHEYE;
                throw new RefusedException("The DNG asks for a correction before demosaicing that is not read yet ("
                        + name + (warps ? ", which belongs after it" : "") + ").");
            }
        }
        return new OpcodeList(opcodes);
    }

    /**
     * List 3: the lens's distortion, colour fringes and shading, as far as they are told by one WarpRectilinear and one
     * FixVignetteRadial, each about a centre of its own.
     *
     * @param width of the picture in px
     * @return empty for a list that asks for neither, for several of one kind, or for something else that cannot be left out
     */
    public static Optional<LensCorrection> lens(byte[] bytes, int width, int height) throws RefusedException {
        double[][] warp = null;
        double[] gain = null;
        double[] centre = null;
        double[] shadingCentre = null;
        for (Opcode opcode : all(bytes)) {
            ByteBuffer in = opcode.buffer();
            if (opcode.id == WARP_RECTILINEAR && warp == null) {
                warp = warp(in);
                centre = centre(in, width, height);
            } else if (opcode.id == FIX_VIGNETTE_RADIAL && gain == null) {
                gain = numbers(in, 5);
                shadingCentre = centre(in, width, height);
            } else if (!opcode.optional() || opcode.id == WARP_RECTILINEAR || opcode.id == FIX_VIGNETTE_RADIAL) {
                return Optional.empty();
            }
        }
        if (warp == null && gain == null) {
            return Optional.empty();
        }
        return Optional.of(LensCorrection.ofOpcodes(
                warp == null ? new double[][] {NO_WARP, NO_WARP, NO_WARP} : warp,
                gain == null ? new double[5] : gain,
                centre == null ? shadingCentre : centre,
                shadingCentre == null ? centre : shadingCentre));
    }

    /** Six numbers each for red, green and blue. */
    private static double[][] warp(ByteBuffer in) throws RefusedException {
        int planes = in.remaining() < 4 ? 0 : in.getInt();
        if (planes != 1 && planes != 3) {
            throw damaged();
        }
        double[][] warp = new double[3][];
        for (int plane = 0; plane < planes; plane++) {
            warp[plane] = numbers(in, 6);
        }
        return planes == 3 ? warp : new double[][] {warp[0], warp[0], warp[0]};
    }

    /** Told as shares of the picture; from its middle in half short sides. */
    private static double[] centre(ByteBuffer in, int width, int height) throws RefusedException {
        double[] share = numbers(in, 2);
        double[] side = {Math.max(1, width - 1), Math.max(1, height - 1)};
        double half = Math.min(side[0], side[1]) / 2;
        double[] centre = new double[2];
        for (int i = 0; i < 2; i++) {
            if (!(share[i] >= 0 && share[i] <= 1)) {
                throw damaged();
            }
            centre[i] = (share[i] - 0.5) * side[i] / half;
        }
        return centre;
    }

    /**
     * List 3 of a picture that was only enlarged: warps and radial light are told in shares of the picture and stay; what is told
     * in pixels does not. Empty where nothing stays, or where something that must not be left out would not.
     */
    public static byte[] enlarged(byte[] bytes) {
        try {
            List<Opcode> kept = new ArrayList<>();
            for (Opcode opcode : all(bytes)) {
                boolean relative =
                        opcode.id == WARP_RECTILINEAR || opcode.id == WARP_FISHEYE || opcode.id == FIX_VIGNETTE_RADIAL;
                if (relative) {
                    kept.add(opcode);
                } else if (!opcode.optional()) {
                    return new byte[0];
                }
            }
            return kept.isEmpty() ? new byte[0] : list(kept);
        } catch (RefusedException e) {
            return new byte[0];
        }
    }

    private static byte[] list(List<Opcode> opcodes) {
        int size = 4;
        for (Opcode opcode : opcodes) {
            size += 16 + opcode.data.length;
        }
        ByteBuffer out = ByteBuffer.allocate(size).putInt(opcodes.size());
        for (Opcode opcode : opcodes) {
            out.putInt(opcode.id).putInt(opcode.version).putInt(opcode.flags);
            out.putInt(opcode.data.length).put(opcode.data);
        }
        return out.array();
    }

    private static double[] numbers(ByteBuffer in, int count) throws RefusedException {
        double[] numbers = new double[count];
        if (in.remaining() < 8 * count) {
            throw damaged();
        }
        for (int i = 0; i < count; i++) {
            numbers[i] = in.getDouble();
            if (!(Math.abs(numbers[i]) < 100)) {
                throw damaged();
            }
        }
        return numbers;
    }

    /** What of a file's lists is left out, in plain words. */
    public static List<String> remarks(TiffDirectory raw, TiffDirectory main) {
        List<String> remarks = new ArrayList<>();
        int[] tags = {Tag.OPCODE_LIST_1, Tag.OPCODE_LIST_2, Tag.OPCODE_LIST_3};
        for (int list = 1; list <= 3; list++) {
            int tag = tags[list - 1];
            byte[] bytes = raw.field(tag)
                    .or(() -> tag == Tag.OPCODE_LIST_3 ? main.field(tag) : Optional.empty())
                    .map(TiffField::bytes)
                    .orElse(new byte[0]);
            try {
                for (Opcode opcode : all(bytes)) {
                    boolean done = list < 3
                            ? isKnown(opcode)
                            : opcode.id == WARP_RECTILINEAR || opcode.id == FIX_VIGNETTE_RADIAL;
                    if (!done) {
                        remarks.add("Opcode " + opcode.id + (name(opcode).isEmpty() ? "" : " (" + name(opcode) + ")")
                                + " of list " + list
                                + (list == 3
                                        ? " is handed on as it is and not carried out here; straightened, cut and lens-corrected"
                                                + " returns lose it."
                                        : " is not known; it is optional and was left out."));
                    }
                }
            } catch (RefusedException e) {
                remarks.add("List " + list + " of the file's corrections is damaged and was left out.");
            }
        }
        return remarks;
    }

    private static boolean isKnown(Opcode opcode) {
        return opcode.id >= FIX_VIGNETTE_RADIAL && opcode.id <= GAIN_MAP && opcode.id != 6;
    }

    private static String name(Opcode opcode) {
        return opcode.id > 0 && opcode.id < NAMES.size() ? NAMES.get(opcode.id) : "";
    }

    /** Opcodes are big-endian whatever the file's byte order is. */
    private static List<Opcode> all(byte[] bytes) throws RefusedException {
        List<Opcode> opcodes = new ArrayList<>();
        if (bytes.length == 0) {
            return opcodes;
        }
        ByteBuffer in = ByteBuffer.wrap(bytes);
        int count = bytes.length < 4 ? -1 : in.getInt();
        if (count < 0 || count > MOST_OPCODES) {
            throw damaged();
        }
        for (int i = 0; i < count; i++) {
            if (in.remaining() < 16) {
                throw damaged();
            }
            int id = in.getInt();
            int version = in.getInt();
            int flags = in.getInt();
            int size = in.getInt();
            if (size < 0 || size > in.remaining()) {
                throw damaged();
            }
            byte[] data = new byte[size];
            in.get(data);
            opcodes.add(new Opcode(id, version, flags, data));
        }
        return opcodes;
    }

    private static RefusedException damaged() {
        return new RefusedException("The DNG's list of corrections is damaged.");
    }

    /** Works list 1 into samples as they were stored. */
    public void onStored(short[] samples, int width, CfaPattern pattern) throws RefusedException {
        for (Opcode opcode : opcodes) {
            switch (opcode.id) {
                case FIX_BAD_PIXELS_CONSTANT, FIX_BAD_PIXELS_LIST -> repair(opcode, samples, width, pattern);
                case MAP_TABLE, MAP_POLYNOMIAL -> map(opcode, samples, width, 0, WHITE);
                default ->
                    throw new RefusedException("The DNG asks for " + NAMES.get(opcode.id)
                            + " on samples as they were stored, which is not read.");
            }
        }
    }

    /** List 2: works maps into linear samples and hands gains on. */
    public Mosaic onLinear(Mosaic mosaic) throws RefusedException {
        if (opcodes.isEmpty()) {
            return mosaic;
        }
        int width = mosaic.width();
        int height = mosaic.height();
        short[] samples = new short[width * height];
        boolean relaid = opcodes.stream().anyMatch(o -> o.id == MAP_TABLE || o.id == MAP_POLYNOMIAL);
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                int sample = mosaic.sample(x, y);
                int laid = Math.round(BLACK + mosaic.at(x, y) * (WHITE - BLACK));
                samples[y * width + x] = (short)
                        (!relaid ? sample : mosaic.clippedAt(x, y) ? WHITE : Math.max(0, Math.min(WHITE - 1, laid)));
            }
        }
        GainField gains = new GainField(width, height);
        for (Opcode opcode : opcodes) {
            boolean gainsBefore = !gains.isEmpty();
            switch (opcode.id) {
                case FIX_BAD_PIXELS_CONSTANT, FIX_BAD_PIXELS_LIST -> repair(opcode, samples, width, mosaic.pattern());
                case MAP_TABLE, MAP_POLYNOMIAL -> {
                    if (gainsBefore) {
                        throw new RefusedException("The DNG asks for " + NAMES.get(opcode.id)
                                + " after gains; this order of corrections is not read.");
                    }
                    map(opcode, samples, width, BLACK, WHITE);
                }
                case GAIN_MAP -> gainMap(opcode, mosaic.pattern(), width, height, gains);
                default -> shading(opcode, width, height, gains);
            }
        }
        return relaid
                ? new Mosaic(
                        width, height, samples, mosaic.pattern(), new float[] {BLACK}, 1, 1, WHITE, null, null, gains)
                : mosaic.with(samples, gains);
    }

    public void refuseForPictures() throws RefusedException {
        for (Opcode opcode : opcodes) {
            throw new RefusedException(
                    "The DNG asks for " + NAMES.get(opcode.id) + " before its picture is linear, which is not read.");
        }
    }

    /** List 2 for a picture in full colour, whose samples lie as {@link #BLACK} and {@link #WHITE} say. */
    public void onPicture(short[][] planes, int width) throws RefusedException {
        for (Opcode opcode : opcodes) {
            if (opcode.id != MAP_TABLE && opcode.id != MAP_POLYNOMIAL) {
                throw new RefusedException(
                        "The DNG asks for " + NAMES.get(opcode.id) + " on a linear picture, which is not read yet.");
            }
            Area area = Area.of(opcode.buffer());
            for (int c = Math.max(0, area.plane); c < Math.min(3, area.plane + area.planes); c++) {
                map(opcode, planes[c], width, BLACK, WHITE);
            }
        }
    }

    private record Area(
            int top, int left, int bottom, int right, int plane, int planes, int rowPitch, int columnPitch) {
        static Area of(ByteBuffer in) throws RefusedException {
            if (in.remaining() < 32) {
                throw damaged();
            }
            Area area = new Area(
                    in.getInt(),
                    in.getInt(),
                    in.getInt(),
                    in.getInt(),
                    in.getInt(),
                    in.getInt(),
                    in.getInt(),
                    in.getInt());
            if (area.top < 0 || area.left < 0 || area.rowPitch < 1 || area.columnPitch < 1 || area.planes < 1) {
                throw damaged();
            }
            return area;
        }

        boolean covers(int x, int y) {
            return (y - top) % rowPitch == 0 && (x - left) % columnPitch == 0;
        }
    }

    private static void map(Opcode opcode, short[] samples, int width, int black, int white) throws RefusedException {
        ByteBuffer in = opcode.buffer();
        Area area = Area.of(in);
        short[] table = new short[65536];
        if (opcode.id == MAP_TABLE) {
            int size = in.remaining() < 4 ? 0 : in.getInt();
            if (size < 1 || size > 65536 || in.remaining() < 2 * size) {
                throw damaged();
            }
            int[] values = new int[size];
            for (int i = 0; i < size; i++) {
                values[i] = in.getShort() & 0xffff;
            }
            for (int i = 0; i < table.length; i++) {
                // The table speaks of values from 0 to 65,535; below black it has nothing to say.
                int value = Math.round((float) (i - black) * 65535 / (white - black));
                float mapped = value < 0 ? value : values[Math.min(size - 1, value)];
                table[i] = laid(black + mapped / 65535 * (white - black));
            }
        } else {
            int degree = in.remaining() < 4 ? -1 : in.getInt();
            if (degree < 0 || degree > 8 || in.remaining() < 8 * (degree + 1)) {
                throw damaged();
            }
            double[] coefficients = new double[degree + 1];
            for (int i = 0; i <= degree; i++) {
                coefficients[i] = in.getDouble();
            }
            for (int i = 0; i < table.length; i++) {
                double x = (double) (i - black) / (white - black);
                double sum = 0;
                for (int k = degree; k >= 0; k--) {
                    sum = sum * x + coefficients[k];
                }
                table[i] = laid(black + sum * (white - black));
            }
        }
        int height = samples.length / width;
        for (int y = area.top; y < Math.min(height, area.bottom); y += area.rowPitch) {
            for (int x = area.left; x < Math.min(width, area.right); x += area.columnPitch) {
                samples[y * width + x] = table[samples[y * width + x] & 0xffff];
            }
        }
    }

    private static short laid(double value) {
        return (short) Math.max(0, Math.min(WHITE, Math.round(value)));
    }

    private static void repair(Opcode opcode, short[] samples, int width, CfaPattern pattern) throws RefusedException {
        ByteBuffer in = opcode.buffer();
        int height = samples.length / width;
        boolean[] bad = new boolean[samples.length];
        if (in.remaining() < 8) {
            throw damaged();
        }
        if (opcode.id == FIX_BAD_PIXELS_CONSTANT) {
            int constant = in.getInt();
            for (int i = 0; i < samples.length; i++) {
                bad[i] = (samples[i] & 0xffff) == constant;
            }
        } else {
            in.getInt(); // the phase of the pattern, which the file tells already
            int points = in.getInt();
            int rectangles = in.remaining() < 4 ? -1 : in.getInt();
            if (points < 0 || rectangles < 0 || in.remaining() < 8L * points + 16L * rectangles) {
                throw damaged();
            }
            for (int i = 0; i < points; i++) {
                int row = in.getInt();
                int column = in.getInt();
                if (row >= 0 && row < height && column >= 0 && column < width) {
                    bad[row * width + column] = true;
                }
            }
            for (int i = 0; i < rectangles; i++) {
                int top = Math.max(0, in.getInt());
                int left = Math.max(0, in.getInt());
                int bottom = Math.min(height, in.getInt());
                int right = Math.min(width, in.getInt());
                for (int y = top; y < bottom; y++) {
                    Arrays.fill(bad, y * width + left, Math.max(y * width + left, y * width + right), true);
                }
            }
        }
        short[] whole = samples.clone();
        for (int i = 0; i < samples.length; i++) {
            if (bad[i]) {
                samples[i] = likeNeighbours(whole, bad, width, height, i % width, i / width, pattern);
            }
        }
    }

    /** The mean of the nearest good photosites of the same colour, in ever wider squares. */
    private static short likeNeighbours(
            short[] samples, boolean[] bad, int width, int height, int x, int y, CfaPattern pattern) {
        int colour = pattern.colourAt(x, y);
        for (int reach = 2; reach <= 16; reach += 2) {
            long sum = 0;
            int count = 0;
            for (int py = Math.max(0, y - reach); py <= Math.min(height - 1, y + reach); py++) {
                for (int px = Math.max(0, x - reach); px <= Math.min(width - 1, x + reach); px++) {
                    if (!bad[py * width + px] && pattern.colourAt(px, py) == colour) {
                        sum += samples[py * width + px] & 0xffff;
                        count++;
                    }
                }
            }
            if (count >= 2) {
                return (short) (sum / count);
            }
        }
        return samples[y * width + x];
    }

    private static void gainMap(Opcode opcode, CfaPattern pattern, int width, int height, GainField field)
            throws RefusedException {
        ByteBuffer in = opcode.buffer();
        Area area = Area.of(in);
        if (in.remaining() < 44) {
            throw damaged();
        }
        int down = in.getInt();
        int across = in.getInt();
        double spacingY = in.getDouble();
        double spacingX = in.getDouble();
        double originY = in.getDouble();
        double originX = in.getDouble();
        int planes = in.getInt();
        if (down < 1
                || across < 1
                || planes < 1
                || (long) down * across * planes > MOST_POINTS
                || in.remaining() < 4L * down * across * planes) {
            throw damaged();
        }
        if (area.top > pattern.height()
                || area.left > pattern.width()
                || area.bottom < height - pattern.height()
                || area.right < width - pattern.width()) {
            throw new RefusedException("The DNG has gains for part of the picture only, which is not read.");
        }
        float[] gains = new float[down * across];
        for (int i = 0; i < gains.length; i++) {
            gains[i] = in.getFloat();
            if (!(gains[i] > 0 && gains[i] < 1000)) {
                throw damaged();
            }
            in.position(in.position() + 4 * (planes - 1)); // a mosaic has one plane
        }
        GainField.Grid grid = new GainField.Grid(across, down, originX, originY, spacingX, spacingY, gains);
        for (int colour = 0; colour < 3; colour++) {
            List<GainField.Grid> of = new ArrayList<>();
            for (int i = 0; i < pattern.width() * pattern.height(); i++) {
                int x = i % pattern.width();
                int y = i / pattern.width();
                if (pattern.colourAt(x, y) == colour) {
                    of.add(area.covers(x, y) ? grid : null);
                }
            }
            if (of.stream().anyMatch(g -> g != null)) {
                field.multiply(colour, of);
            }
        }
    }

    /** FixVignetteRadial: gain = 1 + k0·r² + k1·r⁴ + … + k4·r¹⁰, r = 1 at the corner farthest from the centre. */
    private static void shading(Opcode opcode, int width, int height, GainField field) throws RefusedException {
        ByteBuffer in = opcode.buffer();
        if (in.remaining() < 56) {
            throw damaged();
        }
        double[] k = new double[5];
        for (int i = 0; i < 5; i++) {
            k[i] = in.getDouble();
        }
        double centreX = in.getDouble() * width;
        double centreY = in.getDouble() * height;
        double farthest = Math.hypot(Math.max(centreX, width - centreX), Math.max(centreY, height - centreY));
        int n = SHADING_POINTS;
        float[] gains = new float[n * n];
        for (int i = 0; i < gains.length; i++) {
            double dx = (double) (i % n) / (n - 1) * width - centreX;
            double dy = (double) (i / n) / (n - 1) * height - centreY;
            double r2 = (dx * dx + dy * dy) / (farthest * farthest);
            gains[i] = (float) (1 + r2 * (k[0] + r2 * (k[1] + r2 * (k[2] + r2 * (k[3] + r2 * k[4])))));
            if (!(gains[i] > 0 && gains[i] < 1000)) {
                throw damaged();
            }
        }
        GainField.Grid grid = new GainField.Grid(n, n, 0, 0, 1.0 / (n - 1), 1.0 / (n - 1), gains);
        for (int colour = 0; colour < 3; colour++) {
            field.multiply(colour, grid);
        }
    }
}
