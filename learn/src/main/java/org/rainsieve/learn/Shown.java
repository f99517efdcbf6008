package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;

/**
 * A picture as people see it, in sRGB (IEC 61966-2-1) with the exposure restored, below black and beyond white carried on.
 * Weighing errors by the slope between both scales instead, which is the same for small ones, drew much noise towards black.
 *
 * <p>Its numbers are arrays that live as long as training does. Given as plain numbers, the library makes an array of each, and
 * lets its memory go as soon as the forward pass is through; the way back still reads it, and found garbage there whenever the
 * garbage collector ran in between: one gradient in some hundred was beyond all measure.
 */
final class Shown {
    private final NDArray two;
    private final NDArray join;
    private final NDArray slope;
    private final NDArray power;
    private final NDArray scale;

    Shown(NDManager manager) {
        two = manager.create(2f);
        join = manager.create(0.0031308f);
        slope = manager.create(12.92f);
        power = manager.create((float) (1 / 2.4));
        scale = manager.create(1.055f);
    }

    /**
     * @param values in a {@link org.rainsieve.noise.RootScale} of that offset
     * @param exposure the light that is shown as white, of each example
     */
    NDArray of(NDArray values, NDArray offset, NDArray exposure) {
        NDArray black = offset.sqrt();
        NDArray knee = black.div(two);
        NDArray root = values.add(black);
        NDArray light = root.maximum(knee)
                .square()
                .add(root.minimum(knee).sub(knee).mul(knee).mul(two))
                .sub(offset)
                .div(exposure);
        return light.minimum(join)
                .mul(slope)
                .add(light.maximum(join).pow(power).mul(scale))
                .sub(0.055f + 0.04045f);
    }
}
