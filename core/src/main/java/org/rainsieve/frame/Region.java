package org.rainsieve.frame;

/** A rectangle of pixels: origin included, far edges excluded. May lie partly outside a picture. */
public record Region(int x, int y, int width, int height) {
    public Region {
        if (width < 0 || height < 0) {
            throw new IllegalArgumentException("A region cannot have a negative size: " + width + " x " + height);
        }
    }

    public int right() {
        return x + width;
    }

    public int bottom() {
        return y + height;
    }

    public long area() {
        return (long) width * height;
    }

    public boolean isEmpty() {
        return width == 0 || height == 0;
    }

    public Region grow(int pixels) {
        return new Region(x - pixels, y - pixels, width + 2 * pixels, height + 2 * pixels);
    }

    public Region intersect(Region other) {
        int left = Math.max(x, other.x);
        int top = Math.max(y, other.y);
        int w = Math.min(right(), other.right()) - left;
        int h = Math.min(bottom(), other.bottom()) - top;
        return w <= 0 || h <= 0 ? new Region(left, top, 0, 0) : new Region(left, top, w, h);
    }

    public boolean contains(Region other) {
        return other.x >= x && other.y >= y && other.right() <= right() && other.bottom() <= bottom();
    }
}
