package org.rainsieve.reading;

/**
 * The blur of a frame where it is sharpest: soft, a disc or a movement in a straight line.
 *
 * @param sigmaPx sigma of the Gaussian; beside a disc or a movement, of what is soft apart from it
 * @param discPx radius of a disc, as a missed focus makes, 0 where none can be told
 * @param linePx length of a movement in a straight line, 0 where none can be told
 * @param lineAngleDegrees its direction, 0 to 180, anticlockwise from the horizontal
 * @param cornersPx by how much sigma is larger towards the corners; NaN where that cannot be told
 * @param cells how many cells of the focus map it rests on
 */
public record Blur(double sigmaPx, double discPx, double linePx, double lineAngleDegrees, double cornersPx, int cells) {
    static Blur of(BlurShape.Shape shape, double cornersPx, int cells) {
        return new Blur(shape.sigmaPx(), shape.discPx(), shape.linePx(), shape.lineAngleDegrees(), cornersPx, cells);
    }

    public boolean moved() {
        return linePx > 0;
    }

    /** Sigma of the Gaussian that blurs as much; a disc has the variance of r/2 along each axis. */
    public double softPx() {
        return Math.sqrt(sigmaPx * sigmaPx + discPx * discPx / 4);
    }
}
