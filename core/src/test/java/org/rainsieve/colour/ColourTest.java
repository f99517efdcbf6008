package org.rainsieve.colour;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ColourTest {
    /** Test data of Sharma, Wu, Dalal, Color Research and Application 30(1), 2005, table 1 (pairs from memory). */
    @ParameterizedTest
    @CsvSource({
        "50,2.6772,-79.7751, 50,0,-82.7485, 2.0425",
        "50,3.1571,-77.2803, 50,0,-82.7485, 2.8615",
        "50,2.8361,-74.0200, 50,0,-82.7485, 3.4412",
        "50,-1.3802,-84.2814, 50,0,-82.7485, 1.0000",
        "50,0,0, 50,-1,2, 2.3669",
        "50,2.49,-0.001, 50,-2.49,0.0009, 7.1792",
        "50,2.49,-0.001, 50,-2.49,0.0011, 7.2195",
        "50,-0.001,2.49, 50,0.0009,-2.49, 4.8045",
        "50,-0.001,2.49, 50,0.0011,-2.49, 4.7461",
        "50,2.5,0, 50,0,-2.5, 4.3065",
        "50,2.5,0, 73,25,-18, 27.1492",
        "50,2.5,0, 61,-5,29, 22.8977",
        "50,2.5,0, 56,-27,-3, 31.9030",
        "50,2.5,0, 58,24,15, 19.4535",
        "60.2574,-34.0099,36.2677, 60.4626,-34.1751,39.4387, 1.2644",
        "63.0109,-31.0961,-5.8663, 62.8187,-29.7946,-4.0864, 1.2630",
        "35.0831,-44.1164,3.7933, 35.0232,-40.0716,1.5901, 1.8645",
        "22.7233,20.0904,-46.6940, 23.0331,14.9730,-42.5619, 2.0373",
        "90.9257,-0.5406,-0.9208, 88.6381,-0.8985,-0.7239, 1.5381",
        "6.7747,-0.2908,-2.4247, 5.8714,-0.0985,-2.2286, 0.6377",
        "2.0776,0.0795,-1.1350, 0.9033,-0.0636,-0.5514, 0.9082"
    })
    void ciede2000(double l1, double a1, double b1, double l2, double a2, double b2, double expected) {
        assertThat(new Lab(l1, a1, b1).ciede2000(new Lab(l2, a2, b2))).isCloseTo(expected, within(5e-5));
        assertThat(new Lab(l2, a2, b2).ciede2000(new Lab(l1, a1, b1))).isCloseTo(expected, within(5e-5));
    }

    /** sRGB to XYZ under D50 by Bradford, as published by the ICC in its sRGB profile notes and by B. Lindbloom (mem.). */
    @Test
    void srgbMatrix() {
        double[] published = {
            0.4360747, 0.3850649, 0.1430804, 0.2225045, 0.7168786, 0.0606169, 0.0139322, 0.0971045, 0.7141733
        };
        double[] ours = RgbSpace.SRGB.toXyzD50().m();
        for (int i = 0; i < 9; i++) {
            assertThat(ours[i]).isCloseTo(published[i], within(2e-4));
        }
        double[] back =
                RgbSpace.SRGB.fromXyzD50().times(RgbSpace.SRGB.toXyzD50().times(0.2, 0.5, 0.7));
        assertThat(back).containsExactly(new double[] {0.2, 0.5, 0.7}, within(1e-9));
    }

    /** Correlated colour temperatures of CIE standard illuminants (CIE 15). */
    @Test
    void colourTemperature() {
        assertThat(new White(0.44757, 0.40745).temperatureK()).isCloseTo(2856, within(10.0));
        assertThat(White.D65.temperatureK()).isCloseTo(6504, within(15.0));
    }
}
