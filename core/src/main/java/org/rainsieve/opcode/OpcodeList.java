package org.rainsieve.opcode;

import java.util.ArrayList;
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
    /** Linear values are laid into 16 bits above this level, so that noise below black stays. */
    public static final int BLACK = 2048;

    public static final int WHITE = 65535;

    /** Where 0 and 1 are told by {@link #BLACK} and {@link #WHITE}; what is not a number is black. */
    public static short linear(double value) {
        return Double.isNaN(value) ? BLACK : laid(BLACK + value * (WHITE - BLACK));
    }

    static short laid(double value) {
        return (short) Math.max(0, Math.min(WHITE, Math.round(value)));
    }

    private final List<Opcode> opcodes;

    private OpcodeList(List<Opcode> opcodes) {
        this.opcodes = opcodes;
    }

    /** Lists 1 and 2. */
    public static OpcodeList parse(byte[] bytes) throws RefusedException {
        List<Opcode> opcodes = new ArrayList<>();
        for (Opcode opcode : Opcode.all(bytes)) {
            if (isCarriedOut(opcode)) {
                opcodes.add(opcode);
            } else if (!opcode.stored().optional()) {
                String name = opcode.stored().name();
                throw new RefusedException("The DNG asks for a correction before demosaicing that is not read yet ("
                        + (name.isEmpty() ? "opcode " + opcode.stored().id() : name)
                        + (warps(opcode) ? ", which belongs after it" : "") + ").");
            }
        }
        return new OpcodeList(opcodes);
    }

    private static boolean warps(Opcode opcode) {
        return opcode instanceof Warp || opcode.stored().id() == Opcode.WARP_FISHEYE;
    }

    /**
     * List 3: the lens's distortion, colour fringes and shading, as far as they are told by one WarpRectilinear and one
     * FixVignetteRadial, each about a centre of its own.
     *
     * @param width of the picture in px
     * @return empty for a list that asks for neither, for several of one kind, or for something else that cannot be left out
     */
    public static Optional<LensCorrection> lens(byte[] bytes, int width, int height) throws RefusedException {
        Warp.Told warp = null;
        RadialShading.Told shading = null;
        for (Opcode opcode : Opcode.all(bytes)) {
            if (opcode instanceof Warp of && warp == null) {
                warp = of.told(width, height);
            } else if (opcode instanceof RadialShading of && shading == null) {
                shading = of.told(width, height);
            } else if (!opcode.stored().optional() || isOfLens(opcode)) {
                return Optional.empty();
            }
        }
        if (warp == null && shading == null) {
            return Optional.empty();
        }
        return Optional.of(LensCorrection.ofOpcodes(
                warp == null ? new double[][] {Warp.NONE, Warp.NONE, Warp.NONE} : warp.coefficients(),
                shading == null ? new double[5] : shading.k(),
                warp == null ? shading.centre() : warp.centre(),
                shading == null ? warp.centre() : shading.centre()));
    }

    private static boolean isOfLens(Opcode opcode) {
        return opcode instanceof Warp || opcode instanceof RadialShading;
    }

    /**
     * List 3 of a picture that was only enlarged: warps and radial light are told in shares of the picture and stay; what is told
     * in pixels does not. Empty where nothing stays, or where something that must not be left out would not.
     */
    public static byte[] enlarged(byte[] bytes) {
        try {
            List<Opcode> kept = new ArrayList<>();
            for (Opcode opcode : Opcode.all(bytes)) {
                if (warps(opcode) || opcode instanceof RadialShading) {
                    kept.add(opcode);
                } else if (!opcode.stored().optional()) {
                    return new byte[0];
                }
            }
            return kept.isEmpty() ? new byte[0] : Opcode.list(kept);
        } catch (RefusedException e) {
            return new byte[0];
        }
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
                for (Opcode opcode : Opcode.all(bytes)) {
                    if (!(list < 3 ? isCarriedOut(opcode) : isOfLens(opcode))) {
                        String name = opcode.stored().name();
                        remarks.add("Opcode " + opcode.stored().id() + (name.isEmpty() ? "" : " (" + name + ")")
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

    /** In lists 1 and 2. */
    private static boolean isCarriedOut(Opcode opcode) {
        return !(opcode instanceof UnknownOpcode || opcode instanceof Warp);
    }

    /** Works list 1 into samples as they were stored. */
    public void onStored(short[] samples, int width, CfaPattern pattern) throws RefusedException {
        for (Opcode opcode : opcodes) {
            if (opcode instanceof BadPixels bad) {
                bad.repair(samples, width, pattern);
            } else if (opcode instanceof ValueMap map) {
                map.map(samples, width, 0, WHITE);
            } else {
                throw new RefusedException("The DNG asks for " + opcode.stored().name()
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
        boolean relaid = opcodes.stream().anyMatch(ValueMap.class::isInstance);
        short[] samples = relaid ? relaid(mosaic) : stored(mosaic);
        GainField gains = new GainField(width, height);
        for (Opcode opcode : opcodes) {
            if (opcode instanceof BadPixels bad) {
                bad.repair(samples, width, mosaic.pattern());
            } else if (opcode instanceof ValueMap map) {
                if (!gains.isEmpty()) {
                    throw new RefusedException("The DNG asks for "
                            + opcode.stored().name() + " after gains; this order of corrections is not read.");
                }
                map.map(samples, width, BLACK, WHITE);
            } else if (opcode instanceof GainMap map) {
                map.multiply(gains, mosaic.pattern(), width, height);
            } else if (opcode instanceof RadialShading shading) {
                shading.multiply(gains, width, height);
            }
        }
        return relaid
                ? new Mosaic(
                        width, height, samples, mosaic.pattern(), new float[] {BLACK}, 1, 1, WHITE, null, null, gains)
                : mosaic.with(samples, gains);
    }

    private static short[] stored(Mosaic mosaic) {
        short[] samples = new short[mosaic.width() * mosaic.height()];
        for (int y = 0, i = 0; y < mosaic.height(); y++) {
            for (int x = 0; x < mosaic.width(); x++, i++) {
                samples[i] = (short) mosaic.sample(x, y);
            }
        }
        return samples;
    }

    private static short[] relaid(Mosaic mosaic) {
        short[] samples = new short[mosaic.width() * mosaic.height()];
        for (int y = 0, i = 0; y < mosaic.height(); y++) {
            for (int x = 0; x < mosaic.width(); x++, i++) {
                int laid = Math.round(BLACK + mosaic.at(x, y) * (WHITE - BLACK));
                samples[i] = (short) (mosaic.clippedAt(x, y) ? WHITE : Math.max(0, Math.min(WHITE - 1, laid)));
            }
        }
        return samples;
    }

    public void refuseForPictures() throws RefusedException {
        for (Opcode opcode : opcodes) {
            throw new RefusedException(
                    "The DNG asks for " + opcode.stored().name() + " before its picture is linear, which is not read.");
        }
    }

    /** List 2 for a picture in full colour, whose samples lie as {@link #BLACK} and {@link #WHITE} say. */
    public void onPicture(short[][] planes, int width) throws RefusedException {
        for (Opcode opcode : opcodes) {
            if (!(opcode instanceof ValueMap map)) {
                throw new RefusedException(
                        "The DNG asks for " + opcode.stored().name() + " on a linear picture, which is not read yet.");
            }
            Area area = map.area();
            for (int c = Math.max(0, area.plane()); c < Math.min(3, area.plane() + area.planes()); c++) {
                map.map(planes[c], width, BLACK, WHITE);
            }
        }
    }
}
