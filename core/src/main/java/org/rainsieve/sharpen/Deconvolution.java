package org.rainsieve.sharpen;

import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The finite kernels that take a point spread back: a regularised inverse H/(H² + n) (Wiener 1949), less the picture
 * itself, split into coarse and fine structure by a Gaussian. As transfer functions for {@link Fourier}, so that any
 * shape costs the same. Kernels end at {@value #RADIUS} px, where they are faded out.
 */
final class Deconvolution {
    /** Kernels reach no further, so that what lies outside a tile's margin has no influence. */
    static final int RADIUS = 64;

    /** Noise-to-signal prior of a picture that was denoised before. */
    private static final double NOISE_TO_SIGNAL = 1e-2;

    /** The same of next to no noise: finds what is lost nearly, and much that never was. */
    private static final double NEXT_TO_NONE = 1e-3;

    /** Structure wider than this many times the blur counts as coarse. */
    private static final double SPLIT = 1.5;

    private static final int MOST_KERNELS = 64;
    private static final Map<Key, Deconvolution> KNOWN = new ConcurrentHashMap<>();

    private record Key(PointSpread spread, double noiseToSignal) {}

    /** Transposed, as spectra lie; both real. */
    final float[][] fine = new float[Fourier.SIZE][Fourier.SIZE];

    final float[][] coarse = new float[Fourier.SIZE][Fourier.SIZE];

    /** Sum of squares of both kernels together: by how much white noise of variance 1 would come out stronger. */
    final double noiseGain;

    private Deconvolution(Key key) {
        PointSpread spread = key.spread;
        int n = Fourier.SIZE;
        Fourier both = new Fourier();
        double split = splitPx(spread);
        for (int ky = 0; ky < n; ky++) {
            for (int kx = 0; kx < n; kx++) {
                double fx = frequency(kx);
                double fy = frequency(ky);
                double h = spread.transfer(fx, fy);
                // At rest H = 1: divided by its value there, so that brightness is kept.
                double change = h * (1 + key.noiseToSignal) / (h * h + key.noiseToSignal) - 1;
                double low = Math.exp(-2 * Math.PI * Math.PI * split * split * (fx * fx + fy * fy));
                both.re[kx][ky] = (float) (change * (1 - low));
                both.im[kx][ky] = (float) (change * low);
            }
        }
        both.inverse();
        double sum = 0;
        for (int y = 0; y < n; y++) {
            for (int x = 0; x < n; x++) {
                double r = Math.hypot(Math.min(x, n - x), Math.min(y, n - y));
                float fade = (float) fade(r);
                both.re[y][x] *= fade;
                both.im[y][x] *= fade;
                double whole = both.re[y][x] + both.im[y][x];
                sum += whole * whole;
            }
        }
        noiseGain = sum;
        both.forward();
        // Both kernels are real and even, so their transforms are real: one in the real part, one in the imaginary.
        double restFine = both.re[0][0];
        double restCoarse = both.im[0][0];
        for (int kx = 0; kx < n; kx++) {
            for (int ky = 0; ky < n; ky++) {
                double narrow = spreadOfRest(kx, ky);
                fine[kx][ky] = (float) (both.re[kx][ky] - restFine * narrow);
                coarse[kx][ky] = (float) (both.im[kx][ky] - restCoarse * narrow);
            }
        }
    }

    /** σ of the Gaussian that parts coarse structure from fine. */
    static double splitPx(PointSpread spread) {
        return Math.max(1, SPLIT * spread.reachPx() / 2);
    }

    /** What fading took from the mean goes back where it cannot be seen: over a wide Gaussian. */
    private static double spreadOfRest(int kx, int ky) {
        double f = Math.hypot(frequency(kx), frequency(ky));
        return Math.exp(-2 * Math.PI * Math.PI * 256 * f * f);
    }

    private static double frequency(int k) {
        return (k <= Fourier.SIZE / 2 ? k : k - Fourier.SIZE) / (double) Fourier.SIZE;
    }

    private static double fade(double r) {
        double from = RADIUS * 0.6;
        return r <= from ? 1 : r >= RADIUS ? 0 : 0.5 + 0.5 * Math.cos(Math.PI * (r - from) / (RADIUS - from));
    }

    static Deconvolution of(PointSpread spread) {
        return of(new Key(spread, NOISE_TO_SIGNAL));
    }

    static Deconvolution strong(PointSpread spread) {
        return of(new Key(spread, NEXT_TO_NONE));
    }

    private static Deconvolution of(Key key) {
        if (KNOWN.size() > MOST_KERNELS) {
            KNOWN.clear();
        }
        return KNOWN.computeIfAbsent(key, Deconvolution::new);
    }
}
