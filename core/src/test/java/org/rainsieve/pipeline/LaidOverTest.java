package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.PlanesSource;
import org.rainsieve.frame.Region;

class LaidOverTest {
    private static final int WIDTH = 300;
    private static final int HEIGHT = 200;

    /** A slope across and down over the view, sampled at the middle of each pixel. */
    private static Planes slope(int width, int height, double scale) {
        Planes planes = new Planes(new Region(0, 0, width, height), 3);
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                double across = (x + 0.5 - width / 2.0) * scale;
                double down = (y + 0.5 - height / 2.0) * scale;
                planes.channel(0)[planes.index(x, y)] = (float) across;
                planes.channel(1)[planes.index(x, y)] = (float) down;
                planes.channel(2)[planes.index(x, y)] = 1;
            }
        }
        return planes;
    }

    /** A slope stays what it is at every size to a tenth of a pixel, wherever the picture is asked for. */
    @ParameterizedTest
    @CsvSource({"292, 196, 1", "150, 100, 2", "600, 400, 0.5", "450, 300, 0.6666666666", "100, 100, 2"})
    void theSameSpotLiesAtTheSamePlace(int width, int height, double scale) {
        assertThat(LaidOver.scale(width, height, WIDTH, HEIGHT)).isCloseTo(scale, within(1e-6));
        LaidOver laid = new LaidOver(new PlanesSource(slope(width, height, scale)), WIDTH, HEIGHT, scale);
        Planes truth = slope(WIDTH, HEIGHT, 1);
        for (Region place : new Region[] {laid.bounds(), new Region(140, 90, 31, 17)}) {
            Planes out = new Planes(place, 3);
            laid.fill(out);
            for (int y = place.y(); y < place.bottom(); y++) {
                for (int x = place.x(); x < place.right(); x++) {
                    double fromX = Math.abs(truth.at(0, x, y)) - width * scale / 2;
                    double fromY = Math.abs(truth.at(1, x, y)) - height * scale / 2;
                    if (Math.max(fromX, fromY) > 0) {
                        assertThat(out.at(2, x, y)).as("outside").isZero();
                    } else if (Math.max(fromX, fromY) < -3) {
                        assertThat(out.at(0, x, y)).isCloseTo(truth.at(0, x, y), within(0.1f));
                        assertThat(out.at(1, x, y)).isCloseTo(truth.at(1, x, y), within(0.1f));
                        assertThat(out.at(2, x, y)).isCloseTo(1, within(1e-5f));
                    }
                }
            }
        }
    }

    /** What is reduced is averaged: no pixel of a fine pattern is left out. */
    @Test
    void aFinePatternBecomesItsMean() {
        Planes pattern = new Planes(new Region(0, 0, 2 * WIDTH, 2 * HEIGHT), 3);
        for (int i = 0; i < pattern.channel(0).length; i++) {
            pattern.channel(0)[i] = i & 1;
        }
        LaidOver laid = new LaidOver(new PlanesSource(pattern), WIDTH, HEIGHT, 0.5);
        Planes out = new Planes(new Region(100, 100, 20, 20), 3);
        laid.fill(out);
        for (float value : out.channel(0)) {
            assertThat(value).isCloseTo(0.5f, within(1e-5f));
        }
    }
}
