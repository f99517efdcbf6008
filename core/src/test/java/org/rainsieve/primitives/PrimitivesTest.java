package org.rainsieve.primitives;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.SplittableRandom;
import java.util.function.IntBinaryOperator;
import org.junit.jupiter.api.Test;

/** Each against its definition, written out the slow way. */
class PrimitivesTest {
    private static final int W = 23;
    private static final int H = 17;

    private final float[] plane = new float[W * H];

    PrimitivesTest() {
        SplittableRandom random = new SplittableRandom(5);
        for (int i = 0; i < plane.length; i++) {
            plane[i] = (float) random.nextDouble(-1, 2);
        }
    }

    private static String line(IntBinaryOperator border) {
        StringBuilder line = new StringBuilder();
        for (int at = -3; at < 7; at++) {
            line.append("abcd".charAt(border.applyAsInt(at, 4)));
        }
        return line.toString();
    }

    @Test
    void borders() {
        assertThat(line(Border::mirrorAboutPixel)).isEqualTo("dcb" + "abcd" + "cba");
        assertThat(line(Border::mirrorAboutEdge)).isEqualTo("cba" + "abcd" + "dcb");
        assertThat(line(Border::repeat)).isEqualTo("aaa" + "abcd" + "ddd");
        assertThat(Border.mirrorAboutPixel(-7, 1)).isZero();
        assertThat(Border.mirrorAboutEdge(9, 1)).isZero();
    }

    @Test
    void medians() {
        assertThat(Median.of(new double[] {9, 1, 4})).isEqualTo(4);
        double[] even = {8, 1, 4, 2};
        assertThat(Median.of(even)).isEqualTo(3);
        assertThat(even).as("not modified").containsExactly(8, 1, 4, 2);
    }

    /** Value and slope at the ends and the middle. */
    @Test
    void smoothSteps() {
        assertThat(Smoothstep.at(-3)).isZero();
        assertThat(Smoothstep.at(0.5)).isEqualTo(0.5);
        assertThat(Smoothstep.at(4)).isEqualTo(1);
        double e = 1e-6;
        assertThat(Smoothstep.at(e) / e).isCloseTo(0, within(1e-5));
        assertThat((Smoothstep.at(0.5 + e) - Smoothstep.at(0.5 - e)) / (2 * e)).isCloseTo(1.5, within(1e-6));
    }

    @Test
    void gaussians() {
        for (double sigma : new double[] {0.7, 2, 5.5}) {
            float[] kernel = Convolution.gaussian(sigma);
            double sum = 0;
            double variance = 0;
            for (int i = 0; i < kernel.length; i++) {
                int x = i - kernel.length / 2;
                sum += kernel[i];
                variance += kernel[i] * x * x;
            }
            assertThat(sum).isCloseTo(1, within(1e-6));
            // Cut off at three sigma: 2.7 % of the variance are missing (normal distribution).
            assertThat(variance).isCloseTo(sigma * sigma, within(0.04 * sigma * sigma));
        }
        float[] kernel = {0.2f, 0.5f, 0.3f};
        float[] out = Convolution.separable(plane, W, H, kernel);
        for (int i = 0; i < plane.length; i++) {
            double sum = 0;
            for (int dy = -1; dy <= 1; dy++) {
                for (int dx = -1; dx <= 1; dx++) {
                    int x = Border.repeat(i % W + dx, W);
                    int y = Border.repeat(i / W + dy, H);
                    sum += kernel[dx + 1] * kernel[dy + 1] * plane[y * W + x];
                }
            }
            assertThat(out[i]).isCloseTo((float) sum, within(1e-5f));
        }
    }

    @Test
    void meansOverSquares() {
        int radius = 3;
        float[] repeated = plane.clone();
        BoxMean.repeatBorder(repeated, W, H, radius);
        float[] anew = BoxMean.cutOffAnew(plane, W, H, radius);
        double[] wide = new double[plane.length];
        for (int i = 0; i < wide.length; i++) {
            wide[i] = plane[i];
        }
        double[] running = BoxMean.cutOff(wide, W, H, radius);
        for (int i = 0; i < plane.length; i++) {
            double withBorder = 0;
            double inside = 0;
            int n = 0;
            for (int y = i / W - radius; y <= i / W + radius; y++) {
                for (int x = i % W - radius; x <= i % W + radius; x++) {
                    withBorder += plane[Border.repeat(y, H) * W + Border.repeat(x, W)];
                    if (x >= 0 && y >= 0 && x < W && y < H) {
                        inside += plane[y * W + x];
                        n++;
                    }
                }
            }
            assertThat(repeated[i]).isCloseTo((float) (withBorder / 49), within(1e-5f));
            assertThat(anew[i]).isCloseTo((float) (inside / n), within(1e-5f));
            assertThat(running[i]).isCloseTo(inside / n, within(1e-12));
        }
    }

    @Test
    void rows() {
        float[] turned = Rows.transpose(plane, W, H);
        for (int i = 0; i < plane.length; i++) {
            assertThat(turned[i % W * H + i / W]).isEqualTo(plane[i]);
        }
        float[] line = {1, 2};
        Rows.add(line, new float[] {4, 8}, 0.25f);
        assertThat(line).containsExactly(2, 4);
    }
}
