package org.rainsieve.quality;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.Arrays;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.rainsieve.noise.Chance;

/** Cases in which the index of Wang et al. 2004 has a closed form. */
class SsimTest {
    private static final int SIZE = 96;

    @Test
    void evenFieldsDifferOnlyInTheirMeans() {
        double[] a = new double[SIZE * SIZE];
        double[] b = new double[SIZE * SIZE];
        Arrays.fill(a, 0.5);
        Arrays.fill(b, 0.25);
        double expected = (2 * 0.5 * 0.25 + 1e-4) / (0.25 + 0.0625 + 1e-4);
        assertThat(Ssim.ssim(a, b, SIZE, SIZE)).isCloseTo(expected, within(1e-9));
        assertThat(Ssim.ssim(a, a, SIZE, SIZE)).isCloseTo(1, within(1e-12));
    }

    /** White noise against the same with its contrast changed by k about its mean: 2k/(1 + k²) where noise is strong. */
    @Test
    void contrastAlone() {
        SplittableRandom random = new SplittableRandom(5);
        double[] a = new double[SIZE * SIZE];
        double[] b = new double[SIZE * SIZE];
        for (int i = 0; i < a.length; i++) {
            double noise = Chance.normal(random);
            a[i] = 100 * noise;
            b[i] = 50 * noise;
        }
        // The means' own likeness, of weak means, is about as the contrast's; both together are its square at most.
        double contrast = 2 * 0.5 / 1.25;
        assertThat(Ssim.ssim(a, b, SIZE, SIZE)).isBetween(contrast * contrast - 1e-3, contrast + 1e-3);
    }
}
