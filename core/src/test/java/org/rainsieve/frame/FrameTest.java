package org.rainsieve.frame;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import org.junit.jupiter.api.Test;

class FrameTest {
    @Test
    void regionsMeetAndGrow() {
        Region a = new Region(2, 3, 10, 8);
        assertThat(a.intersect(new Region(5, 0, 4, 5))).isEqualTo(new Region(5, 3, 4, 2));
        assertThat(a.intersect(new Region(12, 3, 5, 5)).isEmpty()).isTrue();
        assertThat(a.grow(2)).isEqualTo(new Region(0, 1, 14, 12));
        assertThat(a.grow(2).contains(a)).isTrue();
        assertThat(a.contains(a.grow(1))).isFalse();
        assertThat(new Region(0, 0, 65535, 65535).area()).isEqualTo(65535L * 65535);
        assertThatThrownBy(() -> new Region(0, 0, -1, 2)).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void onlyRealBayerPatternsCount() {
        for (String good : new String[] {"RGGB", "BGGR", "GRBG", "GBRG"}) {
            assertThat(CfaPattern.of(good).isBayer()).as(good).isTrue();
            assertThat(CfaPattern.of(good).shifted(1, 0).shifted(1, 0)).isEqualTo(CfaPattern.of(good));
            assertThat(CfaPattern.of(good).shifted(1, 1).isBayer()).isTrue();
        }
        for (String bad : new String[] {"RGBG", "GGGG", "RRBB", "GRRG", "GBBG", "RGGR", "GGRB"}) {
            assertThat(CfaPattern.of(bad).isBayer()).as(bad).isFalse();
        }
        assertThat(CfaPattern.RGGB.shifted(1, 0)).isEqualTo(CfaPattern.GRBG);
        assertThat(CfaPattern.RGGB.shifted(0, 1)).isEqualTo(CfaPattern.GBRG);
        assertThatThrownBy(() -> new CfaPattern(2, 2, new byte[] {0, 1, 1, 3}))
                .isInstanceOf(IllegalArgumentException.class);
    }

    /** Black levels by position, clipping at 1, and colours that stay in place when the picture is mirrored. */
    @Test
    void mosaicValuesAndItsMirroredBorder() {
        short[] samples = new short[8 * 6];
        for (int y = 0; y < 6; y++) {
            for (int x = 0; x < 8; x++) {
                samples[y * 8 + x] = (short) (1000 + 100 * CfaPattern.GRBG.colourAt(x, y) + x + 10 * y);
            }
        }
        samples[5 * 8 + 7] = (short) 40000;
        Mosaic mosaic = new Mosaic(8, 6, samples, CfaPattern.GRBG, new float[] {500, 600, 700, 800}, 2, 2, 40000);
        assertThat(mosaic.at(0, 0)).isCloseTo((1100 - 500) / 39500f, within(1e-6f));
        assertThat(mosaic.at(1, 0)).isCloseTo((1001 - 600) / 39400f, within(1e-6f));
        assertThat(mosaic.at(0, 1)).isCloseTo((1210 - 700) / 39300f, within(1e-6f));
        assertThat(mosaic.clippedAt(7, 5)).isTrue();
        assertThat(mosaic.at(7, 5)).isEqualTo(1f);
        Planes around = new Planes(mosaic.bounds().grow(5), 1);
        mosaic.fill(around);
        for (int y = -5; y < 11; y++) {
            for (int x = -5; x < 13; x++) {
                int sx = x < 0 ? -x : x > 7 ? 14 - x : x;
                int sy = y < 0 ? -y : y > 5 ? 10 - y : y;
                assertThat(around.at(0, x, y)).isEqualTo(mosaic.at(sx, sy));
                assertThat(CfaPattern.GRBG.colourAt(x, y)).isEqualTo(CfaPattern.GRBG.colourAt(sx, sy));
            }
        }
        assertThatThrownBy(() -> new Mosaic(8, 6, samples, CfaPattern.GRBG, new float[] {40000}, 1, 1, 40000))
                .isInstanceOf(IllegalArgumentException.class);
    }

    /** Whatever the size and wherever the pattern begins, a pixel outside has a stand-in of its own colour nearby. */
    @Test
    void sixBySixMirrorsInColour() {
        for (int shift = 0; shift < 36; shift++) {
            CfaPattern pattern = CfaPattern.SIX.shifted(shift % 6, shift / 6);
            assertThat(pattern.isSixBySix()).isTrue();
            assertThat(CfaPattern.parse(pattern.toString())).isEqualTo(pattern);
            int width = 24 + shift % 7;
            Mosaic mosaic = new Mosaic(width, 25, new short[width * 25], pattern, new float[] {-1}, 1, 1, 100);
            for (int y = -20; y < 45; y++) {
                for (int x = -20; x < width + 20; x++) {
                    int sx = mosaic.column(x);
                    int sy = mosaic.row(y);
                    assertThat(mosaic.bounds().contains(new Region(sx, sy, 1, 1)))
                            .isTrue();
                    assertThat(pattern.colourAt(x, y)).isEqualTo(pattern.colourAt(sx, sy));
                    if (x < 0) {
                        assertThat(sx).isLessThanOrEqualTo(4 - x);
                    }
                }
            }
        }
        assertThat(CfaPattern.RGGB.isSixBySix()).isFalse();
        assertThat(new CfaPattern(6, 6, new byte[36]).isSixBySix()).isFalse();
    }

    @Test
    void camerasAreNamedOnce() {
        assertThat(shot("Ondrel", "Ondrel 24").camera()).isEqualTo("Ondrel 24");
        assertThat(shot("Kesvik", "M").camera()).isEqualTo("Kesvik M");
        assertThat(shot("", "Pilbo S").camera()).isEqualTo("Pilbo S");
        assertThat(shot("", "").camera()).isEqualTo("Unknown camera");
    }

    private static ShotInfo shot(String make, String model) {
        return new ShotInfo(make, model, "", 100, 0.01, 5, 50, "", "", 1, Double.NaN);
    }
}
