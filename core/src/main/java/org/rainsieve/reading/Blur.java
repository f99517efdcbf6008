package org.rainsieve.reading;

/**
 * The blur of a frame where it is sharpest.
 *
 * @param sigmaPx sigma of a Gaussian, across the direction of movement if there is one
 * @param linePx length of a movement in a straight line, 0 without one
 * @param lineAngleDegrees its direction, 0 to 180, anticlockwise from the horizontal
 * @param cornersPx by how much sigma is larger towards the corners; NaN where that cannot be told
 * @param cells how many cells of the focus map it rests on
 */
public record Blur(double sigmaPx, double linePx, double lineAngleDegrees, double cornersPx, int cells) {
    public boolean moved() {
        return linePx > 0;
    }
}
