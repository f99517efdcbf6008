package org.rainsieve.colour;

/**
 * What a maker's baseline exposure makes of linear values, 1 = white. Lightened, values are multiplied, and what passes white is
 * white. Darkened, values up to a quarter are multiplied; from there a parabola, with the same slope where they meet, leads to
 * white: what the sensor clipped stays white instead of turning grey. (The shoulder is common practice of renderers of DNG; its
 * form is from memory.)
 */
public final class BaselineTone {
    private static final float KNEE = 0.25f;

    private final float factor;
    private final float a;
    private final float b;
    private final float c;
    private final boolean darkens;

    public BaselineTone(double stops) {
        darkens = stops < 0;
        factor = (float) Math.pow(2, stops);
        // a·x² + b·x + c with a·x + b·x + c = 1 at 1, and value and slope of factor·x at the knee.
        a = 16 / 9f * (1 - factor);
        b = factor - 0.5f * a;
        c = 1 - a - b;
    }

    public boolean darkens() {
        return darkens;
    }

    /** By what values are multiplied, or those below the shoulder. */
    public float factor() {
        return factor;
    }

    public float of(float linear) {
        return darkens && linear > KNEE ? linear >= 1 ? 1 : (a * linear + b) * linear + c : factor * linear;
    }
}
