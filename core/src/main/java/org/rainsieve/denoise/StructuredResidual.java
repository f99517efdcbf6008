package org.rainsieve.denoise;

import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.primitives.BoxMean;

/**
 * The part of what denoising took out that follows the picture's structure: in a window around each pixel, what the residual
 * correlates with the fine detail of the estimate, as a share of that detail (a local regression). What a window of pure noise
 * would show by chance is taken off first.
 */
public final class StructuredResidual {
    /** Fine detail is what differs from the mean of (2·2 + 1)² pixels. */
    private static final int DETAIL = 2;

    private static final int WINDOW = 5;

    /** How far around a pixel is looked. */
    public static final int MARGIN = DETAIL + WINDOW;

    /** Independent values in a window: the residual of a demosaiced picture is correlated over some two pixels. */
    private static final float INDEPENDENT = (2 * WINDOW + 1) * (2 * WINDOW + 1) / 4f;

    /** Squared correlations below this many times what chance gives count as none. */
    private static final float CHANCE = 2;

    private StructuredResidual() {}

    /**
     * @param tile over the region grown by {@link #MARGIN}, but for the frame's rim
     * @param gains white-balance gains
     * @return grey, after white balance, row by row of the region
     */
    public static float[] of(DenoisedTile tile, double[] gains, Region region) {
        Region wide = tile.estimate().region();
        int w = wide.width();
        int h = wide.height();
        float[] detail = grey(tile.estimate(), gains);
        float[] rest = grey(tile.residual(), gains);
        float[] smooth = BoxMean.cutOffAnew(detail, w, h, DETAIL);
        int n = w * h;
        float[] squares = new float[n];
        float[] products = new float[n];
        float[] power = new float[n];
        for (int i = 0; i < n; i++) {
            detail[i] -= smooth[i];
            squares[i] = detail[i] * detail[i];
            products[i] = detail[i] * rest[i];
            power[i] = rest[i] * rest[i];
        }
        squares = BoxMean.cutOffAnew(squares, w, h, WINDOW);
        products = BoxMean.cutOffAnew(products, w, h, WINDOW);
        power = BoxMean.cutOffAnew(power, w, h, WINDOW);
        float[] out = new float[Math.toIntExact(region.area())];
        for (int y = 0; y < region.height(); y++) {
            int from = (region.y() + y - wide.y()) * w + region.x() - wide.x();
            int to = y * region.width();
            for (int x = 0; x < region.width(); x++) {
                float square = squares[from + x];
                float product = Math.max(0, products[from + x]);
                float likely = product * product * INDEPENDENT;
                float share = product / Math.max(square, 1e-20f);
                float kept = Math.max(0, 1 - CHANCE * square * power[from + x] / Math.max(likely, 1e-30f));
                out[to + x] = Math.min(1, share) * kept * detail[from + x];
            }
        }
        return out;
    }

    private static float[] grey(Planes planes, double[] gains) {
        float[] red = planes.channel(0);
        float[] green = planes.channel(1);
        float[] blue = planes.channel(2);
        float[] out = new float[red.length];
        float r = (float) (gains[0] / 3);
        float g = (float) (gains[1] / 3);
        float b = (float) (gains[2] / 3);
        for (int i = 0; i < out.length; i++) {
            out[i] = r * red[i] + g * green[i] + b * blue[i];
        }
        return out;
    }
}
