package org.rainsieve.denoise;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.demosaic.MalvarDemosaic;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.SimulatedSensor;

/** What every method must leave as it is: the means of shadows, smooth skies, edges of colour, and grey that repeats finely. */
class MethodChecksTest {
    private static final double[] GAINS = {2, 1, 1.6};
    private static final int RIM = 24;
    private static final double LITTLE_A = 2e-4;
    private static final double LITTLE_B = 2e-6;

    private interface Light {
        /** Of a colour as balanced, in shares of white. */
        double at(int colour, int x, int y);
    }

    private static Planes scene(int width, int height, Light light) {
        Planes scene = new Planes(new Region(0, 0, width, height), 3);
        for (int c = 0; c < 3; c++) {
            for (int y = 0; y < height; y++) {
                for (int x = 0; x < width; x++) {
                    scene.channel(c)[scene.index(x, y)] = (float) (light.at(c, x, y) / GAINS[c]);
                }
            }
        }
        return scene;
    }

    private static Mosaic exposed(Planes scene, CfaPattern pattern, double a, double b) {
        return new SimulatedSensor(pattern, 3072, 16383).expose(scene, a, b, 7);
    }

    private static Planes denoised(Mosaic mosaic, String method, double a, double b, double kept) {
        Planes out = new Planes(mosaic.bounds(), 3);
        boolean on = !method.equals("off");
        DenoiseSettings settings = new DenoiseSettings(on, on ? method : Methods.QUICK, kept, kept);
        new DenoiseStep(
                        List.of(method, a, mosaic),
                        mosaic,
                        NoiseModel.uniform(a, b),
                        GAINS,
                        settings,
                        new WorkingMemory(256L << 20),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    private static CfaPattern pattern(int period) {
        return period == 6 ? CfaPattern.SIX : CfaPattern.RGGB;
    }

    /** Black and deep shadows are neither lighter nor tinted: means within 3 % of the noise's sd. */
    @ParameterizedTest
    @CsvSource({"off, 2", "Quick, 2", "Patch, 2", "Learned, 2", "off, 6", "Quick, 6", "Patch, 6", "Learned, 6"})
    void shadowsKeepTheirMean(String method, int period) {
        double a = 0.008;
        double b = 2e-4;
        double[] levels = {0, 0.002, 0.01};
        int side = 320;
        Planes scene = scene(levels.length * side, side, (c, x, y) -> levels[x / side] * GAINS[c]);
        Planes out = denoised(exposed(scene, pattern(period), a, b), method, a, b, 0);
        for (int k = 0; k < levels.length; k++) {
            for (int c = 0; c < 3; c++) {
                double sum = 0;
                int n = 0;
                for (int y = RIM; y < side - RIM; y++) {
                    for (int x = k * side + RIM; x < (k + 1) * side - RIM; x++, n++) {
                        sum += out.at(c, x, y) - levels[k];
                    }
                }
                assertThat(Math.abs(sum / n) / Math.sqrt(a * levels[k] + b))
                        .as("colour %d at %s", c, levels[k])
                        .isLessThan(0.03);
            }
        }
    }

    /**
     * A smooth sky over the border of two tiles: what is left at wavelengths over 32 px is at most twice what averaging leaves. There
     * is no grid: at no place in blocks of 8 px, nor at the border, neighbours differ by more than elsewhere, but for 1 % of the noise.
     */
    @ParameterizedTest
    @CsvSource({"Quick, 2", "Patch, 2", "Learned, 2"})
    void skiesStaySmooth(String method, int period) {
        double a = 0.008;
        double b = 2e-4;
        int width = 1216;
        int height = 320;
        Planes scene = scene(width, height, (c, x, y) -> (0.06 + 0.00003 * x + 0.00004 * y) * (c == 2 ? 1.6 : 1));
        Mosaic mosaic = exposed(scene, pattern(period), a, b);
        double[][] left = grey(denoised(mosaic, method, a, b, 0), scene);
        double[][] noisy = grey(denoised(mosaic, method, a, b, 100), scene);
        double[] at = new double[8];
        double border = 0;
        double all = 0;
        for (int x = 32; x < width - 32; x++) {
            double sum = 0;
            for (int y = 32; y < height - 32; y++) {
                sum += Math.abs(left[y][x] - left[y][x - 1]);
            }
            at[x % 8] += sum;
            all += sum;
            border = x == 1024 ? sum : border;
        }
        assertThat(coarse(left) / coarse(noisy)).isLessThan(2);
        int each = (height - 64) * (width - 64) / 8;
        double sd = Math.sqrt(a * 0.06 + b);
        assertThat(Arrays.stream(at).max().orElseThrow()
                        - Arrays.stream(at).min().orElseThrow())
                .isLessThan(0.01 * sd * each);
        assertThat(border * (width - 64) / all).isBetween(0.5, 1.3);
    }

    /** Mean of the three balanced colours less the scene's. */
    private static double[][] grey(Planes out, Planes scene) {
        Region r = out.region();
        double[][] grey = new double[r.height()][r.width()];
        for (int y = 0; y < r.height(); y++) {
            for (int x = 0; x < r.width(); x++) {
                for (int c = 0; c < 3; c++) {
                    grey[y][x] += (out.at(c, x, y) - scene.at(c, x, y)) * GAINS[c] / 3;
                }
            }
        }
        return grey;
    }

    /** Variance of means over 16 × 16 pixels. */
    private static double coarse(double[][] of) {
        double sum = 0;
        double squares = 0;
        int n = 0;
        for (int y = 32; y + 48 <= of.length; y += 16) {
            for (int x = 32; x + 48 <= of[0].length; x += 16, n++) {
                double mean = 0;
                for (int k = 0; k < 256; k++) {
                    mean += of[y + k / 16][x + k % 16] / 256;
                }
                sum += mean;
                squares += mean * mean;
            }
        }
        return squares / n - sum / n * (sum / n);
    }

    /**
     * Edge between two colours of one brightness: its chroma is at most 1.5 px wider than in the demosaic of the same without noise, and
     * 4 px at the highest noise of the demo (ISO 25,600).
     */
    @ParameterizedTest
    @CsvSource({
        "Quick, 2, 0.0002, 2e-6",
        "Patch, 2, 0.0002, 2e-6",
        "Learned, 2, 0.0002, 2e-6",
        "Quick, 2, 0.0045, 1.7e-4",
        "Patch, 2, 0.0045, 1.7e-4",
        "Learned, 2, 0.0045, 1.7e-4",
        "Quick, 6, 0.0002, 2e-6",
        "Patch, 6, 0.0002, 2e-6",
        "Learned, 6, 0.0002, 2e-6",
        "Quick, 6, 0.0045, 1.7e-4",
        "Patch, 6, 0.0045, 1.7e-4",
        "Learned, 6, 0.0045, 1.7e-4"
    })
    void edgesOfColourStaySharp(String method, int period, double a, double b) {
        double[][] colours = {{0.5, 0.3, 0.25}, {0.2, 0.35, 0.4}};
        Planes scene = scene(160, 480, (c, x, y) -> colours[x < 80 ? 0 : 1][c]);
        double clean = width(denoised(exposed(scene, pattern(period), 1e-9, 1e-12), "off", 1e-9, 1e-12, 0));
        double found = width(denoised(exposed(scene, pattern(period), a, b), method, a, b, 0));
        assertThat(found - clean).isLessThan(a < 0.001 ? 1.5 : 4);
    }

    /** From 10 to 90 % of red less blue, in the mean along the edge. */
    private static double width(Planes out) {
        double[] profile = new double[160];
        for (int x = 0; x < 160; x++) {
            for (int y = RIM; y < 480 - RIM; y++) {
                profile[x] += (out.at(0, x, y) * GAINS[0] - out.at(2, x, y) * GAINS[2]) / (480 - 2 * RIM);
            }
        }
        double from = mean(profile, 30, 60);
        double to = mean(profile, 100, 130);
        return crossing(profile, from + 0.9 * (to - from)) - crossing(profile, from + 0.1 * (to - from));
    }

    private static double mean(double[] of, int from, int to) {
        double sum = 0;
        for (int i = from; i < to; i++) {
            sum += of[i] / (to - from);
        }
        return sum;
    }

    /** Where a falling profile passes a value last. */
    private static double crossing(double[] falling, double value) {
        int x = 120;
        while (x > 40 && falling[x - 1] < value) {
            x--;
        }
        return x - 1 + (falling[x - 1] - value) / (falling[x - 1] - falling[x]);
    }

    /** Grey rings up to 0.4 cycles per pixel: false colour 6 dB below that of plain interpolation of the same frame. */
    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Patch", "Learned"})
    void greyRingsStayGrey(String method) {
        int size = 480;
        Planes scene = scene(
                size,
                size,
                (c, x, y) -> 0.3 + 0.2 * Math.cos(Math.PI * 0.4 * ((double) x * x + (double) y * y) / size));
        Mosaic mosaic = exposed(scene, CfaPattern.RGGB, LITTLE_A, LITTLE_B);
        double plain = colour(plain(mosaic), size);
        double below = 10 * Math.log10(plain / colour(denoised(mosaic, method, LITTLE_A, LITTLE_B, 0), size));
        assertThat(below).isGreaterThan(6);
    }

    /** Stripes of red and blue, 4 px for both, however they lie: at least 80 % of the colour that plain interpolation keeps. */
    @ParameterizedTest
    @CsvSource({"off, 0", "Quick, 0", "Patch, 0", "Learned, 0", "off, 0.5", "Quick, 0.5", "Patch, 0.5", "Learned, 0.5"})
    void fineStripesKeepTheirColour(String method, double phase) {
        for (boolean columns : new boolean[] {true, false}) {
            Planes scene = scene(
                    256, 256, (c, x, y) -> 0.3 + 0.15 * (1 - c) * Math.cos(Math.PI / 2 * ((columns ? x : y) + phase)));
            Mosaic mosaic = exposed(scene, CfaPattern.RGGB, LITTLE_A, LITTLE_B);
            double kept = colour(denoised(mosaic, method, LITTLE_A, LITTLE_B, 0), 512) / colour(plain(mosaic), 512);
            assertThat(Math.sqrt(kept)).as(columns ? "columns" : "rows").isGreaterThan(0.8);
        }
    }

    /** Malvar, He, Cutler 2004. */
    private static Planes plain(Mosaic mosaic) {
        Planes in = new Planes(mosaic.bounds().grow(MalvarDemosaic.MARGIN), 1);
        mosaic.fill(in);
        balance(in);
        Planes plain = new Planes(mosaic.bounds(), 3);
        new MalvarDemosaic(CfaPattern.RGGB).interpolate(in, plain);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < plain.channel(c).length; i++) {
                plain.channel(c)[i] /= (float) GAINS[c];
            }
        }
        return plain;
    }

    private static void balance(Planes mosaic) {
        Region r = mosaic.region();
        for (int y = r.y(); y < r.bottom(); y++) {
            for (int x = r.x(); x < r.right(); x++) {
                mosaic.channel(0)[mosaic.index(x, y)] *= (float) GAINS[CfaPattern.RGGB.colourAt(x, y)];
            }
        }
    }

    /** Mean square of red and blue less green, not further from the corner than that. */
    private static double colour(Planes out, double within) {
        double sum = 0;
        int n = 0;
        for (int y = RIM; y < out.region().height() - RIM; y++) {
            for (int x = RIM; x < out.region().width() - RIM; x++) {
                if (Math.hypot(x, y) > within) {
                    continue;
                }
                n++;
                double red = out.at(0, x, y) * GAINS[0] - out.at(1, x, y);
                double blue = out.at(2, x, y) * GAINS[2] - out.at(1, x, y);
                sum += red * red + blue * blue;
            }
        }
        return sum / n;
    }
}
