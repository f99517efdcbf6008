package org.rainsieve.learn;

import java.util.Locale;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.sharpen.LearnedDetail;

/**
 * What a network is trained for: two kinds of mosaic (see {@link SimulatedPatch}), of which 2×2 has a network of its own for
 * little noise, and pictures in full colour (see {@link RenderedSource}); and pictures to be enlarged by two (see
 * {@link EnlargeSource}), or whose blur is to be taken back (see {@link SharpenSource}).
 */
enum Form {
    BAYER(11, 12, "bayer"),
    LITTLE(11, 12, "little"),
    SIX_BY_SIX(23, 12, "six"),
    PICTURE(24, 12, "picture"),
    ENLARGE(12 + EnlargeSource.TOLD, 12, "enlarge"),
    SHARPEN(LearnedDetail.PLANES_IN, LearnedDetail.PLANES_OUT, "sharpen");

    /** Planes that tell the noise of a mosaic, the last ones. */
    static final int TOLD = 7;

    final int inputs;

    /** Planes out: four positions for each of R, G, B, or of luminance alone. */
    final int outputs;

    final String file;

    Form(int inputs, int outputs, String file) {
        this.inputs = inputs;
        this.outputs = outputs;
        this.file = file;
    }

    /** Such as add to what another method made, and begin from nothing. */
    boolean refines() {
        return this == ENLARGE || this == SHARPEN;
    }

    /** A 2×2 mosaic. */
    boolean isBayer() {
        return this == BAYER || this == LITTLE;
    }

    static Form of(String name) {
        return valueOf(name.toUpperCase(Locale.ROOT));
    }

    /**
     * The fixed 1×1 layer that makes the nearest-colour picture of the planes in, outputs × inputs. 2×2: at each position
     * the mosaic's own green; all others: they are planes in already.
     */
    float[] nearestColour() {
        float[] weight = new float[outputs * inputs];
        for (int k = 0; k < outputs && !isBayer(); k++) {
            weight[k * inputs + k] = 1;
        }
        for (int k = 0; k < 4 && isBayer(); k++) {
            weight[k * inputs] = 1;
            float first = k == 1 ? 1 : k == 2 ? 0 : 0.5f;
            weight[(4 + k) * inputs + 1] = first;
            weight[(4 + k) * inputs + 2] = 1 - first;
            weight[(8 + k) * inputs + 3] = 1;
        }
        return weight;
    }

    /** A mosaic's colours, beginning anywhere: 0 to 35. */
    CfaPattern pattern(int phase) {
        return isBayer() ? CfaPattern.RGGB : CfaPattern.SIX.shifted(phase % 6, phase / 6);
    }

    /**
     * The first layer of a state that was told less, in later days' shape: planes that it did not know begin with nothing.
     *
     * @param values of the layer's weights or of what the optimiser keeps of them
     */
    float[] widened(float[] values, int outs) {
        int ins = values.length / (9 * outs);
        if (ins >= inputs) {
            return values;
        }
        float[] own = new float[outs * inputs * 9];
        for (int o = 0; o < outs; o++) {
            System.arraycopy(values, o * ins * 9, own, o * inputs * 9, ins * 9);
        }
        return own;
    }

    /**
     * The first layer made from that of a 2×2 network, which knows edges and noise already: each colour's planes share
     * what its photosites were worth; planes that a mosaic does not have begin with nothing.
     */
    float[] firstLayerFromBayer(float[] bayer, int outs) {
        if (isBayer()) {
            return bayer;
        }
        int noise = this == SIX_BY_SIX ? 16 : 12;
        int ins = bayer.length / (9 * outs);
        float[] own = new float[outs * inputs * 9];
        for (int o = 0; o < outs; o++) {
            for (int k = 0; k < 9; k++) {
                for (int p = 0; p < 12; p++) {
                    int c = p / 4;
                    int position = p % 4;
                    float from = switch (c) {
                        case 0 -> bayer[(o * ins) * 9 + k] / 4;
                        case 1 -> position == 1 || position == 2 ? bayer[(o * ins + position) * 9 + k] : 0;
                        default -> bayer[(o * ins + 3) * 9 + k] / 4;
                    };
                    own[(o * inputs + p) * 9 + k] = from;
                }
                for (int p = 0; p < 6; p++) {
                    own[(o * inputs + noise + p) * 9 + k] = bayer[(o * ins + 4 + p) * 9 + k];
                }
            }
        }
        return own;
    }
}
