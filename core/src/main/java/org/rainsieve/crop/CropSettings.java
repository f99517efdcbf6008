package org.rainsieve.crop;

/**
 * The part of the frame that is kept, after optics, in the sensor's orientation: as shares of the frame, so that it means
 * the same for every size. The picture may be turned about its centre first.
 *
 * @param left 0 at the frame's left edge, 1 at its right
 * @param top 0 at the upper edge
 * @param turnDegrees by how much the picture is turned clockwise to set it straight
 * @param aspect the ratio that the crop keeps while it is changed, for showing; such as {@code 3:2} or {@code free}
 */
public record CropSettings(
        boolean on, double left, double top, double width, double height, double turnDegrees, String aspect) {
    public static final CropSettings WHOLE = new CropSettings(false, 0, 0, 1, 1, 0, "free");
    public static final double MOST_DEGREES = 45;
    private static final double LEAST_SIDE = 0.02;

    public CropSettings {
        boolean inside = left >= 0 && top >= 0 && left + width <= 1 + 1e-9 && top + height <= 1 + 1e-9;
        if (!inside || !(width >= LEAST_SIDE && height >= LEAST_SIDE)) {
            throw new IllegalArgumentException(
                    "The crop must lie inside the frame and be at least 2 % of it wide and high");
        }
        if (!(Math.abs(turnDegrees) <= MOST_DEGREES)) {
            throw new IllegalArgumentException("A picture can be straightened by up to 45°, not " + turnDegrees);
        }
        aspect = aspect == null ? "free" : aspect;
    }

    public boolean idle() {
        return !on || left == 0 && top == 0 && width == 1 && height == 1 && turnDegrees == 0;
    }

    /** Of a crop that is carried out. */
    public int widthPx(int frameWidth) {
        return (int) Math.max(1, Math.floor(width * frameWidth + 1e-6));
    }

    public int heightPx(int frameHeight) {
        return (int) Math.max(1, Math.floor(height * frameHeight + 1e-6));
    }

    /** Whether pixels have to be moved, not only left out. */
    public boolean turns() {
        return on && turnDegrees != 0;
    }

    /**
     * The same crop made just so much smaller about its centre that, turned, it holds nothing from outside the frame.
     *
     * @param frameWidth of the frame in px
     */
    public CropSettings fitted(int frameWidth, int frameHeight) {
        if (!turns()) {
            return this;
        }
        double cx = (left + width / 2 - 0.5) * frameWidth;
        double cy = (top + height / 2 - 0.5) * frameHeight;
        double factor = 0;
        for (double half = 0.5; half > 1e-7; half /= 2) {
            if (holds(cx, cy, factor + half, frameWidth, frameHeight)) {
                factor += half;
            }
        }
        if (holds(cx, cy, 1, frameWidth, frameHeight)) {
            return this;
        }
        if (factor < LEAST_SIDE) {
            throw new IllegalArgumentException("Turned so far, the crop lies outside the picture. Move it inwards.");
        }
        double w = width * factor;
        double h = height * factor;
        return new CropSettings(
                on,
                Math.max(0, left + (width - w) / 2),
                Math.max(0, top + (height - h) / 2),
                w,
                h,
                turnDegrees,
                aspect);
    }

    /**
     * The largest part of that aspect about the middle of this crop; a turn stays.
     *
     * @param name {@code camera}, {@code 3:2}, {@code 4:3}, {@code 1:1}, {@code 16:9} or {@code ISO paper}; upright frames are
     *     cut upright
     */
    public CropSettings withAspect(String name, int frameWidth, int frameHeight) {
        double named = switch (name) {
            case "camera" -> (double) Math.max(frameWidth, frameHeight) / Math.min(frameWidth, frameHeight);
            case "3:2" -> 1.5;
            case "4:3" -> 4.0 / 3;
            case "1:1" -> 1;
            case "16:9" -> 16.0 / 9;
            case "ISO paper" -> Math.sqrt(2);
            default -> throw new IllegalArgumentException("Choose an aspect that frames can share, not " + name);
        };
        double wanted = frameWidth >= frameHeight ? named : 1 / named;
        double cx = on ? left + width / 2 : 0.5;
        double cy = on ? top + height / 2 : 0.5;
        double w = 2 * Math.min(cx, 1 - cx);
        double h = 2 * Math.min(cy, 1 - cy);
        // Of what lies about the middle, as shares of the frame.
        double shares = wanted * frameHeight / frameWidth;
        double wide = Math.min(w, h * shares);
        double tall = wide / shares;
        return new CropSettings(
                true, Math.max(0, cx - wide / 2), Math.max(0, cy - tall / 2), wide, tall, on ? turnDegrees : 0, name);
    }

    private boolean holds(double cx, double cy, double factor, int frameWidth, int frameHeight) {
        double cos = Math.cos(Math.toRadians(turnDegrees));
        double sin = Math.sin(Math.toRadians(turnDegrees));
        for (int corner = 0; corner < 4; corner++) {
            double x = cx + factor * width * frameWidth * ((corner & 1) - 0.5);
            double y = cy + factor * height * frameHeight * ((corner >> 1) - 0.5);
            double sx = x * cos + y * sin;
            double sy = -x * sin + y * cos;
            if (Math.abs(sx) > frameWidth / 2.0 + 1e-6 || Math.abs(sy) > frameHeight / 2.0 + 1e-6) {
                return false;
            }
        }
        return true;
    }
}
