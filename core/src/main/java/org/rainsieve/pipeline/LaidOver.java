package org.rainsieve.pipeline;

import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/**
 * A picture of the same view at another size, laid over a frame for comparing: middle on middle, no larger than the frame. What
 * it does not cover is black. For looking only: between pixels lie straight lines, and what is reduced is averaged.
 *
 * @param width of the frame, in px
 * @param scale pixels of the frame for one of the picture
 */
record LaidOver(PixelSource picture, int width, int height, double scale) implements PixelSource {
    /** Renderings often leave out a rim of the sensor; sizes so much alike mean that, not another scale. */
    private static final double ALIKE = 0.03;

    /** Pixels of a frame for one of a picture. */
    static double scale(int pictureWidth, int pictureHeight, int width, int height) {
        double across = (double) width / pictureWidth;
        double down = (double) height / pictureHeight;
        return Math.abs(across - 1) < ALIKE && Math.abs(down - 1) < ALIKE ? 1 : Math.min(across, down);
    }

    @Override
    public int channels() {
        return 3;
    }

    @Override
    public Region inputRegion(Region out) {
        double reach = reach() + 1;
        int x = (int) Math.floor(place(out.x(), width, picture.width()) - reach);
        int y = (int) Math.floor(place(out.y(), height, picture.height()) - reach);
        int right = (int) Math.ceil(place(out.right() - 1, width, picture.width()) + reach) + 1;
        int bottom = (int) Math.ceil(place(out.bottom() - 1, height, picture.height()) + reach) + 1;
        return new Region(x, y, right - x, bottom - y).intersect(picture.bounds());
    }

    /** Where a pixel of the frame lies along an axis of the picture. */
    private double place(int at, int size, int pictureSize) {
        return (at + 0.5 - size / 2.0) / scale + pictureSize / 2.0 - 0.5;
    }

    /** Half the width of the weights' triangle, in pixels of the picture. */
    private double reach() {
        return Math.max(1, 1 / scale);
    }

    @Override
    public void fill(Planes out) {
        Region place = inputRegion(out.region());
        if (place.isEmpty()) {
            return;
        }
        Planes from = new Planes(place, 3);
        picture.fill(from);
        Region r = out.region();
        float[][] across = new float[r.width()][];
        int[] firstX = new int[r.width()];
        for (int i = 0; i < r.width(); i++) {
            double x = place(r.x() + i, width, picture.width());
            firstX[i] = (int) Math.floor(x - reach()) + 1;
            across[i] = weights(x, firstX[i], picture.width());
        }
        for (int y = r.y(); y < r.bottom(); y++) {
            double at = place(y, height, picture.height());
            int firstY = (int) Math.floor(at - reach()) + 1;
            float[] down = weights(at, firstY, picture.height());
            for (int i = 0; i < r.width() && down.length > 0; i++) {
                for (int c = 0; c < 3 && across[i].length > 0; c++) {
                    out.channel(c)[out.index(r.x() + i, y)] = sum(from, c, firstX[i], across[i], firstY, down);
                }
            }
        }
    }

    /** Of the pixels from the first on, summing to 1; none outside the picture. */
    private float[] weights(double at, int first, int size) {
        if (at < -0.5 || at > size - 0.5) {
            return new float[0];
        }
        float[] weights = new float[(int) Math.ceil(at + reach()) - first];
        float sum = 0;
        for (int k = 0; k < weights.length; k++) {
            boolean inside = first + k >= 0 && first + k < size;
            weights[k] = inside ? (float) Math.max(0, 1 - Math.abs(first + k - at) / reach()) : 0;
            sum += weights[k];
        }
        for (int k = 0; k < weights.length; k++) {
            weights[k] /= sum;
        }
        return weights;
    }

    private static float sum(Planes from, int c, int firstX, float[] across, int firstY, float[] down) {
        float sum = 0;
        for (int j = 0; j < down.length; j++) {
            for (int k = 0; k < across.length && down[j] > 0; k++) {
                if (across[k] > 0) {
                    sum += down[j] * across[k] * from.at(c, firstX + k, firstY + j);
                }
            }
        }
        return sum;
    }
}
