package org.rainsieve.mask;

/**
 * One shape of a mask and how it is put on what is there.
 *
 * @param inverted everything but the shape
 */
public record MaskPart(MaskShape shape, Join join, boolean inverted) {
    /** Add; take away; keep only where both are. */
    public enum Join {
        ADD,
        TAKE,
        OVERLAP
    }

    public MaskPart {
        if (shape == null) {
            throw new IllegalArgumentException("A part of a mask needs a shape");
        }
        join = join == null ? Join.ADD : join;
    }
}
