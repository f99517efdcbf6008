package org.rainsieve.dng;

import org.rainsieve.frame.RefusedException;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;

/**
 * What was done to the rows of a tile before compression: differences of neighbours (TIFF 6.0 section 14), or of the bytes
 * of floating-point samples (TIFF technical note 3), also over two or four pixels (DNG specification 1.4, Predictor).
 */
record Predictor(boolean floating, int stride, int perPixel, int bits) {
    static Predictor of(TiffDirectory raw, int perPixel, int bits) throws RefusedException {
        int kind = (int) raw.number(Tag.PREDICTOR, 1);
        int pixels = switch (kind) {
            case 1 -> 0;
            case 2, 3 -> 1;
            case 34892, 34894 -> 2;
            case 34893, 34895 -> 4;
            default -> -1;
        };
        boolean floating = kind == 3 || kind == 34894 || kind == 34895;
        if (pixels < 0
                || floating != RawSamples.hasFloats(raw) && kind != 1
                || !floating && kind != 1 && bits % 8 != 0) {
            throw new RefusedException("The picture's samples were prepared in a way that is not read (predictor "
                    + kind + " on " + bits + " bits).");
        }
        return new Predictor(floating, pixels * perPixel, perPixel, bits);
    }

    /** @return whether the bytes of a sample now run from high to low */
    boolean undo(byte[] tile, int rowBytes, boolean big) {
        if (stride == 0) {
            return big;
        }
        byte[] row = new byte[rowBytes];
        int bytes = bits / 8;
        int samples = rowBytes / bytes;
        for (int from = 0; from + rowBytes <= tile.length; from += rowBytes) {
            if (floating) {
                for (int i = stride; i < rowBytes; i++) {
                    tile[from + i] += tile[from + i - stride];
                }
                System.arraycopy(tile, from, row, 0, rowBytes);
                for (int i = 0; i < samples; i++) {
                    for (int b = 0; b < bytes; b++) {
                        tile[from + i * bytes + b] = row[b * samples + i];
                    }
                }
            } else if (bytes == 1) {
                for (int i = stride; i < rowBytes; i++) {
                    tile[from + i] += tile[from + i - stride];
                }
            } else {
                int high = big ? 0 : 1;
                for (int i = stride; i < samples; i++) {
                    int at = from + 2 * i;
                    int before = at - 2 * stride;
                    int sum = ((tile[at + high] & 255) << 8 | tile[at + 1 - high] & 255)
                            + ((tile[before + high] & 255) << 8 | tile[before + 1 - high] & 255);
                    tile[at + high] = (byte) (sum >> 8);
                    tile[at + 1 - high] = (byte) sum;
                }
            }
        }
        return floating || big;
    }
}
