package org.rainsieve.opcode;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.List;
import org.rainsieve.frame.RefusedException;

/**
 * One correction of a list (DNG specification 1.4, chapter 7). What it says is read when it is carried out: lists that are only handed
 * on may hold what is not known here.
 */
sealed interface Opcode permits BadPixels, GainMap, RadialShading, UnknownOpcode, ValueMap, Warp {
    int WARP_RECTILINEAR = 1;
    int WARP_FISHEYE = 2;
    int FIX_VIGNETTE_RADIAL = 3;
    int FIX_BAD_PIXELS_CONSTANT = 4;
    int FIX_BAD_PIXELS_LIST = 5;
    int MAP_TABLE = 7;
    int MAP_POLYNOMIAL = 8;
    int GAIN_MAP = 9;

    List<String> NAMES = List.of(
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

    int MOST_OPCODES = 256;

    /**
     * As it stands in the list.
     *
     * @param version of the DNG specification that it needs
     */
    record Stored(int id, int version, int flags, byte[] data) {
        boolean optional() {
            return (flags & 1) == 1;
        }

        ByteBuffer buffer() {
            return ByteBuffer.wrap(data);
        }

        /** Empty for one that the specification does not name. */
        String name() {
            return id > 0 && id < NAMES.size() ? NAMES.get(id) : "";
        }
    }

    Stored stored();

    static Opcode of(Stored stored) {
        return switch (stored.id) {
            case WARP_RECTILINEAR -> new Warp(stored);
            case FIX_VIGNETTE_RADIAL -> new RadialShading(stored);
            case FIX_BAD_PIXELS_CONSTANT, FIX_BAD_PIXELS_LIST -> new BadPixels(stored);
            case MAP_TABLE, MAP_POLYNOMIAL -> new ValueMap(stored);
            case GAIN_MAP -> new GainMap(stored);
            default -> new UnknownOpcode(stored);
        };
    }

    /** Opcodes are big-endian whatever the file's byte order is. */
    static List<Opcode> all(byte[] bytes) throws RefusedException {
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
            opcodes.add(of(new Stored(id, version, flags, data)));
        }
        return opcodes;
    }

    static byte[] list(List<Opcode> opcodes) {
        int size = 4;
        for (Opcode opcode : opcodes) {
            size += 16 + opcode.stored().data.length;
        }
        ByteBuffer out = ByteBuffer.allocate(size).putInt(opcodes.size());
        for (Opcode opcode : opcodes) {
            Stored stored = opcode.stored();
            out.putInt(stored.id).putInt(stored.version).putInt(stored.flags);
            out.putInt(stored.data.length).put(stored.data);
        }
        return out.array();
    }

    static double[] numbers(ByteBuffer in, int count) throws RefusedException {
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

    /** Told as shares of the picture; from its middle in half short sides. */
    static double[] centre(ByteBuffer in, int width, int height) throws RefusedException {
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

    static RefusedException damaged() {
        return new RefusedException("The DNG's list of corrections is damaged.");
    }
}
