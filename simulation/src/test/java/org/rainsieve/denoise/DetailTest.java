package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Arrays;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.SimulatedSensor;

/** The amount *detail*: structure comes back, noise does not. */
class DetailTest {
    private static final double[] GAINS = {2, 1, 1.6};
    private static final double A = 0.002;
    private static final double B = 2e-5;

    private static Planes developed(Planes truth, String method, double detail) {
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, 3072, 16383).expose(truth, A, B, 11);
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        "d",
                        mosaic,
                        NoiseModel.uniform(A, B),
                        GAINS,
                        new DenoiseSettings(true, method, 0, 0, detail),
                        new WorkingMemory(64L << 20),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    /** How much of the clean picture's fine detail the result holds: regression of the one on the other. */
    private static double kept(Planes result, Planes truth) {
        Region inside = truth.region().grow(-16);
        double product = 0;
        double square = 0;
        for (int y = inside.y(); y < inside.bottom(); y++) {
            for (int x = inside.x(); x < inside.right(); x++) {
                double wanted = fine(truth, x, y);
                product += wanted * fine(result, x, y);
                square += wanted * wanted;
            }
        }
        return product / square;
    }

    private static double fine(Planes p, int x, int y) {
        double mean = 0;
        for (int k = 0; k < 25; k++) {
            mean += p.at(1, x + k % 5 - 2, y + k / 5 - 2) / 25;
        }
        return p.at(1, x, y) - mean;
    }

    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Patch", "Learned"})
    void structureComesBackAndNoiseDoesNot(String method) {
        Planes truth = TestTools.photograph("osprey.png");
        double none = kept(developed(truth, method, 0), truth);
        double all = kept(developed(truth, method, 100), truth);
        assertThat(all)
                .as("detail kept, before %.3f", none)
                .isGreaterThan(none + 0.01)
                .isLessThan(1.1);

        Planes flat = new Planes(new Region(0, 0, 280, 280), 3);
        for (int c = 0; c < 3; c++) {
            Arrays.fill(flat.channel(c), (float) (0.2 / GAINS[c]));
        }
        double smooth = deviation(developed(flat, method, 0));
        double restored = deviation(developed(flat, method, 100));
        double noise = Math.sqrt(A * 0.2 + B);
        assertThat(restored - smooth).as("sd added on a flat ground").isLessThan(0.03 * noise);
    }

    private static double deviation(Planes p) {
        double sum = 0;
        double squares = 0;
        int n = 0;
        for (int y = 20; y < 260; y++) {
            for (int x = 20; x < 260; x++) {
                double v = p.at(1, x, y);
                sum += v;
                squares += v * v;
                n++;
            }
        }
        return Math.sqrt(Math.max(0, squares / n - sum / n * sum / n));
    }
}
