package org.rainsieve.optics;

/**
 * From places of the corrected picture to places of the one that was taken, colour by colour, and the light that arrived
 * there. Coordinates are those of pixel centres, (0, 0) the first. Normalisation as in lensfun 0.3: the radius is measured
 * in half short sides of the picture that was calibrated with, brought to this camera by both crop factors.
 */
public final class LensMap {
    private static final int BORDER_POINTS = 64;

    private final OpticsSettings settings;
    private final LensCorrection lens;
    private final int width;
    private final int height;
    private final double norm;
    private final double corner;
    private final double centreX;
    private final double centreY;
    private final double farthest;
    private final double shadingX;
    private final double shadingY;
    private final double shadingFarthest;
    private final double scale;

    /** @param filled true to enlarge the picture just so far that no corner stays empty */
    public LensMap(OpticsSettings settings, int width, int height, boolean filled) {
        this.settings = settings;
        this.lens = settings.correction();
        this.width = width;
        this.height = height;
        double w = Math.max(1, width - 1);
        double h = Math.max(1, height - 1);
        double shorter = Math.min(w, h);
        double aspect = Math.max(w, h) / shorter;
        corner = Math.hypot(lens.aspectRatio(), 1);
        double crop = settings.cropFactor() > 0 ? settings.cropFactor() : lens.cropFactor();
        norm = 2 / shorter / Math.hypot(aspect, 1) * lens.cropFactor() / crop * corner;
        centreX = w / 2 + lens.centreX() * shorter / 2;
        centreY = h / 2 + lens.centreY() * shorter / 2;
        farthest = farthest(centreX, centreY, w, h);
        boolean own = lens.shadingCentre() != null;
        shadingX = own ? w / 2 + lens.shadingCentre().get(0) * shorter / 2 : centreX;
        shadingY = own ? h / 2 + lens.shadingCentre().get(1) * shorter / 2 : centreY;
        shadingFarthest = farthest(shadingX, shadingY, w, h);
        // A file's own opcodes say themselves how large the picture becomes.
        scale = filled && settings.bends() && !lens.opcodes() ? filling() : 1;
    }

    /** To the corner that lies farthest away. */
    private static double farthest(double x, double y, double w, double h) {
        return Math.hypot(Math.max(x, w - x), Math.max(y, h - y));
    }

    /** By how much the corrected picture is enlarged to fill the frame. */
    public double scale() {
        return scale;
    }

    /** @param to receives x and y in the picture that was taken */
    public void map(double x, double y, int colour, double[] to) {
        mapScaled(x, y, colour, scale, to);
    }

    private void mapScaled(double x, double y, int colour, double by, double[] to) {
        double dx = (x - centreX) / by;
        double dy = (y - centreY) / by;
        if (lens.opcodes()) {
            warp(dx / farthest, dy / farthest, colour, to);
            return;
        }
        double r = Math.hypot(dx, dy) * norm;
        double factor = 1;
        if (settings.bends()) {
            factor = 1 + settings.distortionPercent() / 100 * (lens.bendAt(r) - 1);
        }
        if (colour != 1 && settings.fringes()) {
            factor *= 1 + settings.fringesPercent() / 100 * (lens.fringeAt(colour, r * factor) - 1);
        }
        to[0] = centreX + dx * factor;
        to[1] = centreY + dy * factor;
    }

    private void warp(double x, double y, int colour, double[] to) {
        lens.warp(1, x, y, to);
        double bent = settings.distortionPercent() / 100;
        double outX = x + bent * (to[0] - x);
        double outY = y + bent * (to[1] - y);
        if (colour != 1 && settings.fringes()) {
            double greenX = to[0];
            double greenY = to[1];
            lens.warp(colour, x, y, to);
            outX += settings.fringesPercent() / 100 * (to[0] - greenX);
            outY += settings.fringesPercent() / 100 * (to[1] - greenY);
        }
        to[0] = centreX + farthest * outX;
        to[1] = centreY + farthest * outY;
    }

    /** By what a value at a place of the picture that was taken is multiplied to take the shading back. */
    public double gainAt(double x, double y) {
        if (!settings.shades()) {
            return 1;
        }
        if (lens.opcodes()) {
            double gain = lens.gainAt(Math.hypot(x - shadingX, y - shadingY) / shadingFarthest);
            return 1 + settings.shadingPercent() / 100 * (gain - 1);
        }
        double light = lens.shadingAt(Math.hypot(x - shadingX, y - shadingY) * norm / corner);
        // A profile is only good where it was measured: never more than three stops.
        return 1 + settings.shadingPercent() / 100 * (1 / Math.max(light, 0.125) - 1);
    }

    private double filling() {
        double low = 0.8;
        double high = 1.6;
        for (int i = 0; i < 30; i++) {
            double middle = (low + high) / 2;
            if (fills(middle)) {
                high = middle;
            } else {
                low = middle;
            }
        }
        return high;
    }

    private boolean fills(double by) {
        double[] at = new double[2];
        for (int i = 0; i < 4 * BORDER_POINTS; i++) {
            double along = (i % BORDER_POINTS) / (BORDER_POINTS - 1.0);
            int side = i / BORDER_POINTS;
            double x = side < 2 ? along * (width - 1) : side == 2 ? 0 : width - 1;
            double y = side < 2 ? side * (height - 1) : along * (height - 1);
            for (int colour = 0; colour < 3; colour++) {
                mapScaled(x, y, colour, by, at);
                if (at[0] < -0.5 || at[0] > width - 0.5 || at[1] < -0.5 || at[1] > height - 0.5) {
                    return false;
                }
            }
        }
        return true;
    }
}
