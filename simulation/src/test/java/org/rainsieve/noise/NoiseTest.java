package org.rainsieve.noise;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;

class NoiseTest {
    /**
     * The mean of transformed draws, inverted, is the signal (Mäkitalo, Foi 2013): within 0.5 % of y or 0.005 sd over
     * brightness and read noise. A million draws know the mean of the transform to 0.001, so 0.0035 sd is allowed for
     * chance on top.
     */
    @ParameterizedTest
    @ValueSource(doubles = {0, 0.5, 1, 2, 5})
    void inverseIsUnbiased(double sigma) {
        double a = 0.002;
        double b = sigma * sigma * a * a;
        StabilisingTransform transform = new StabilisingTransform(a, b, 1.0);
        SplittableRandom random = new SplittableRandom(7);
        for (double y : new double[] {0.05, 0.3, 1, 3, 10, 35, 120, 1 / a}) {
            double sum = 0;
            int draws = 1_000_000;
            for (int i = 0; i < draws; i++) {
                sum += transform.forward((float) ((Chance.photons(y, random) + sigma * Chance.normal(random)) * a));
            }
            double back = transform.inverse((float) (sum / draws)) / a;
            double sd = Math.sqrt(y + sigma * sigma);
            assertThat(back)
                    .as("y %s, σ %s", y, sigma)
                    .isCloseTo(y, within(Math.max(0.005 * y, 0.005 * sd) + 0.0035 * sd));
        }
    }

    /** EMVA 1288: the slope of temporal variance over mean of two flats is the gain; here a in units of clipping. */
    @Test
    void simulatedFlatsFollowTheLaw() {
        double a = 0.003;
        double b = 4e-5;
        SimulatedSensor sensor = new SimulatedSensor(org.rainsieve.frame.CfaPattern.RGGB, 2048, 16383);
        double[] levels = {0.05, 0.2, 0.45};
        double[] variances = new double[3];
        for (int k = 0; k < 3; k++) {
            Planes flat = new Planes(new Region(0, 0, 900, 900), 3);
            for (int c = 0; c < 3; c++) {
                java.util.Arrays.fill(flat.channel(c), (float) levels[k]);
            }
            Mosaic first = sensor.expose(flat, a, b, 1);
            Mosaic second = sensor.expose(flat, a, b, 2);
            double sum = 0;
            for (int i = 0; i < 900 * 900; i++) {
                double d = first.at(i % 900, i / 900) - second.at(i % 900, i / 900);
                sum += d * d;
            }
            variances[k] = sum / (900 * 900) / 2;
        }
        double slope = (variances[2] - variances[0]) / (levels[2] - levels[0]);
        assertThat(slope).isCloseTo(a, within(0.01 * a));
        assertThat(variances[1]).isCloseTo(a * levels[1] + b, within(0.01 * variances[1]));
    }

    /** The first simple reading: the sd at mid-grey within 5 %, in the shadows within 15 %, with texture in the frame. */
    @ParameterizedTest
    @ValueSource(ints = {800, 3200, 12800, 25600})
    void readsTheNoiseOfAFrame(int iso) {
        for (SimulatedCamera camera :
                new SimulatedCamera[] {SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M, SimulatedCamera.PILBO_S}) {
            Planes picture = new PlainScene(1200, 900, 4).srgb();
            camera.see(picture);
            NoiseModel truth = camera.noiseAt(iso);
            Mosaic mosaic =
                    camera.sensor().expose(picture, truth.a().get(0), truth.b().get(0), 6);
            NoiseModel read = NoiseReader.read(mosaic).law();
            for (int c = 0; c < 3; c++) {
                double middle = Math.sqrt(read.variance(c, 0.18) / truth.variance(c, 0.18));
                double shadow = Math.sqrt(read.variance(c, 0.02) / truth.variance(c, 0.02));
                assertThat(middle)
                        .as("%s, ISO %d, colour %d", camera.model(), iso, c)
                        .isCloseTo(1, within(0.05));
                assertThat(shadow)
                        .as("%s, ISO %d, colour %d", camera.model(), iso, c)
                        .isCloseTo(1, within(0.15));
            }
        }
    }
}
