package org.rainsieve.enlarge;

import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** Makes a picture that came out larger than asked smaller again, in light, as a lens and photosites would. */
final class Reducing implements Enlarging {
    private static final int MARGIN_PX = 2;

    private final int width;
    private final int height;
    private final EnlargeSettings.Size to;

    /** Old pixels a new one covers. */
    private final double factorX;

    private final double factorY;

    Reducing(int width, int height, EnlargeSettings.Size to) {
        this.width = width;
        this.height = height;
        this.to = to;
        factorX = (double) width / to.width();
        factorY = (double) height / to.height();
    }

    @Override
    public int width() {
        return to.width();
    }

    @Override
    public int height() {
        return to.height();
    }

    @Override
    public Region inputRegion(Region out) {
        int x0 = (int) Math.floor(out.x() * factorX) - MARGIN_PX;
        int y0 = (int) Math.floor(out.y() * factorY) - MARGIN_PX;
        int x1 = (int) Math.ceil(out.right() * factorX) + MARGIN_PX;
        int y1 = (int) Math.ceil(out.bottom() * factorY) + MARGIN_PX;
        return new Region(x0, y0, x1 - x0, y1 - y0).intersect(new Region(0, 0, width, height));
    }

    @Override
    public void fill(Planes large, Planes out) {
        Region r = out.region();
        Resampling across = Resampling.smaller(r.x(), r.width(), factorX);
        Resampling down = Resampling.smaller(r.y(), r.height(), factorY);
        for (int c = 0; c < large.channels(); c++) {
            float[] values = Resampling.apply(large.channel(c), large.region(), across, down);
            System.arraycopy(values, 0, out.channel(c), 0, values.length);
        }
    }
}
