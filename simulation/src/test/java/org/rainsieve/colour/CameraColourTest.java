package org.rainsieve.colour;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.scene.SimulatedCamera;

/** The DNG specification 1.4, chapter 6, by what must hold of any right reading of it. */
class CameraColourTest {
    private static final Matrix3 A = SimulatedCamera.ONDREL_24.colourA();
    private static final Matrix3 D65 = SimulatedCamera.ONDREL_24.colourD65();

    private static CameraColour camera(double[] neutral, Matrix3 forward, double[] balance) {
        return new CameraColour(
                17, 21, A, D65, forward, forward, Matrix3.identity(), Matrix3.identity(), balance, neutral, 0);
    }

    /** A neutral becomes the white of D50 exactly, whatever light it was seen by and whichever matrices there are. */
    @ParameterizedTest
    @CsvSource({"0.44757, 0.40745", "0.34567, 0.35850", "0.3127, 0.3290", "0.29, 0.30", "0.38, 0.38"})
    void neutralsBecomeWhite(double x, double y) {
        double[] white = White.D50.xyz();
        Matrix3 forward = Matrix3.of(0.6, 0.25, 0.11422, 0.28, 0.66, 0.06, 0.02, 0.10, 0.70521);
        for (Matrix3 chosen : new Matrix3[] {null, forward}) {
            for (double[] balance : new double[][] {{1, 1, 1}, {1.3, 1, 0.9}}) {
                double[] neutral = D65.times(new White(x, y).xyz());
                CameraColour colour = camera(neutral, chosen, balance);
                double[] seen = colour.toXyzD50().times(colour.white());
                for (int c = 0; c < 3; c++) {
                    assertThat(seen[c]).isCloseTo(white[c], within(chosen == null ? 1e-6 : 0.002));
                }
                assertThat(colour.toLinearSrgb().times(colour.white()))
                        .containsExactly(new double[] {1, 1, 1}, within(0.01));
            }
        }
    }

    /**
     * Lights by temperature and tint: illuminant A and 4,000 K on the Planckian locus (CIE 15, tables), D65 as 6,504 K and 0.0032
     * above it (ANSI C78.377, from memory). A camera told the white it has as shot changes nothing.
     */
    @ParameterizedTest
    @CsvSource({"2856, 0, 0.44757, 0.40745", "4000, 0, 0.3805, 0.3768", "6504, 9.6, 0.3127, 0.3290"})
    void lightsByTemperatureAndTint(double kelvin, double tint, double x, double y) {
        White light = White.ofTemperature(kelvin, tint);
        assertThat(light.x()).isCloseTo(x, within(5e-4));
        assertThat(light.y()).isCloseTo(y, within(5e-4));
        CameraColour colour = camera(new double[] {0.5, 1, 0.7}, null, new double[] {1, 1, 1});
        assertThat(colour.withNeutralOf(light).whiteStops(light)).containsExactly(new double[] {0, 0}, within(1e-9));
        // Under redder light red needs less of a gain.
        assertThat(colour.whiteStops(White.ofTemperature(2500, 0))[0])
                .isLessThan(colour.whiteStops(White.ofTemperature(9000, 0))[0] - 0.5);
    }

    /** A neutral that is told as the chromaticity of its light: by both matrices, in proportion to 1/T, and with the analog balance. */
    @Test
    void neutralsAreToldByTheirLight() {
        double[] balance = {1.3, 1, 0.9};
        // 4,000 K on the Planckian locus (CIE 15, tables), where both matrices share: (1/2850 - 1/4000) / (1/2850 -
        // 1/6500).
        double[][] lights = {{0.44757, 0.40745, 0}, {0.3805, 0.3768, 0.512}, {0.3127, 0.3290, 1}};
        for (double[] light : lights) {
            White white = new White(light[0], light[1]);
            Matrix3 mixed = A.mixedWith(D65, light[2]);
            double[] wanted = Matrix3.diagonal(balance[0], balance[1], balance[2])
                    .times(mixed)
                    .times(white.xyz());
            double[] told = camera(new double[] {1, 1, 1}, null, balance)
                    .withNeutralOf(white)
                    .neutral();
            for (int c = 0; c < 3; c++) {
                assertThat(told[c]).isCloseTo(wanted[c], within(0.004 * wanted[c]));
            }
        }
    }

    /** Under each of its own two lights a camera answers by that light's matrix alone. */
    @Test
    void eachLightHasItsOwnMatrix() {
        White incandescent = new White(0.44757, 0.40745);
        double[] xyz = {0.3, 0.25, 0.1};
        for (int k = 0; k < 2; k++) {
            Matrix3 matrix = k == 0 ? A : D65;
            White light = k == 0 ? incandescent : White.D65;
            CameraColour colour = camera(matrix.times(light.xyz()), null, new double[] {1, 1, 1});
            double largest = 0;
            for (double value : matrix.times(light.xyz())) {
                largest = Math.max(largest, value);
            }
            double[] camera = matrix.times(xyz);
            double[] scaled = {camera[0] / largest, camera[1] / largest, camera[2] / largest};
            double[] expected = light.adaptTo(White.D50).times(xyz);
            double[] seen = colour.toXyzD50().times(scaled);
            for (int c = 0; c < 3; c++) {
                assertThat(seen[c]).isCloseTo(expected[c], within(0.004));
            }
        }
    }

    /** Bradford's cone responses adapt A's white to D65's (Lindbloom's published matrix, 4 decimals; mem.). */
    @Test
    void bradfordAsPublished() {
        double[] published = {
            0.8446965, -0.1179225, 0.3948108, -0.1366303, 1.1041226, 0.1291718, 0.0798489, -0.1348999, 3.1924009
        };
        double[] ours = new White(0.44757, 0.40745).adaptTo(White.D65).m();
        for (int i = 0; i < 9; i++) {
            assertThat(ours[i]).isCloseTo(published[i], within(3e-3));
        }
    }

    @Test
    void matricesInvertOrSaySo() {
        Matrix3 back = A.times(A.inverse());
        assertThat(back.m()).containsExactly(Matrix3.identity().m(), within(1e-12));
        assertThatThrownBy(() -> Matrix3.of(1, 2, 3, 2, 4, 6, 0, 0, 1).inverse())
                .isInstanceOf(IllegalArgumentException.class);
    }

    /** Clipped in all colours is white on screen; a grey is grey; a stop of lift doubles light before the curve. */
    @Test
    void viewIsNeutralAndLiftIsOneStop() {
        CameraColour colour = SimulatedCamera.ONDREL_24.colour();
        Planes planes = new Planes(new Region(0, 0, 3, 1), 3);
        for (int c = 0; c < 3; c++) {
            planes.channel(c)[0] = 1;
            planes.channel(c)[1] = (float) (0.1 * colour.white()[c]);
            planes.channel(c)[2] = -0.01f;
        }
        byte[] plain = new ViewRendering(colour, ViewLook.PLAIN).render(planes);
        byte[] lifted = new ViewRendering(colour, ViewLook.lifted(1)).render(planes);
        for (int c = 0; c < 3; c++) {
            assertThat(plain[c] & 255).isEqualTo(255);
            assertThat(plain[3 + c] & 255).isCloseTo((int) Math.round(255 * RgbSpace.encode(0.1)), within(1));
            assertThat(lifted[3 + c] & 255).isCloseTo((int) Math.round(255 * RgbSpace.encode(0.2)), within(1));
            assertThat(plain[6 + c]).isZero();
        }
    }

    /** Another white makes colours lighter against each other, and none of them darker: what is clipped stays white. */
    @Test
    void whiteForTheEye() {
        CameraColour colour = SimulatedCamera.ONDREL_24.colour();
        Planes planes = new Planes(new Region(0, 0, 2, 1), 3);
        for (int c = 0; c < 3; c++) {
            planes.channel(c)[0] = 1;
            planes.channel(c)[1] = (float) (0.1 * colour.white()[c]);
        }
        byte[] seen = new ViewRendering(colour, new ViewLook(0, 0, 0, 0, false, -1, 0.5)).render(planes);
        double[] light = {0.1, 0.2, 0.2 * Math.sqrt(2)};
        for (int c = 0; c < 3; c++) {
            assertThat(seen[c] & 255).isEqualTo(255);
            assertThat(seen[3 + c] & 255).isCloseTo((int) Math.round(255 * RgbSpace.encode(light[c])), within(1));
        }
    }

    @Test
    void srgbCurveReturns() {
        for (double v = 0; v <= 1; v += 0.001) {
            assertThat(RgbSpace.decode(RgbSpace.encode(v))).isCloseTo(v, within(1e-4));
        }
    }
}
