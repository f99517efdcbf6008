package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.Raster;
import java.io.IOException;
import java.util.List;
import java.util.SplittableRandom;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;

/** Returns as they should be pass; those made with a law of zero, with a veil over white or with specks are told. */
class ReturnCheckTest {
    private static Planes denoised(Mosaic mosaic, NoiseModel law, double[] gains, String method) {
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        new Object(),
                        mosaic,
                        law,
                        gains,
                        new DenoiseSettings(true, method, 20, 0),
                        new WorkingMemory(1 << 28),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    private static List<String> told(Mosaic mosaic, Planes out) {
        ReturnCheck check = new ReturnCheck(mosaic);
        check.add(out);
        return check.oddities().stream().map(ReturnCheck.Oddity::words).toList();
    }

    /** A real sensor's mosaic (see the NOTICE beside it). With a law of next to none black fur once turned green, and nobody was told. */
    @Test
    void aLawOfZeroOnARealMosaic() throws IOException {
        Raster raster =
                ImageIO.read(getClass().getResource("/pictures/mosaic.png")).getRaster();
        int width = raster.getWidth();
        int height = raster.getHeight();
        short[] samples = new short[width * height];
        for (int i = 0; i < samples.length; i++) {
            samples[i] = (short) raster.getSample(i % width, i / width, 0);
        }
        Mosaic mosaic = new Mosaic(width, height, samples, CfaPattern.GRBG, new float[] {25}, 1, 1, 1023);
        double[] gains = {2, 1, 1.5};
        NoiseModel read = Reading.of(mosaic, null).noise().law();
        assertThat(told(mosaic, denoised(mosaic, read, gains, "Quick"))).isEmpty();
        assertThat(told(mosaic, denoised(mosaic, read, gains, "Learned"))).isEmpty();
        Planes green = denoised(mosaic, read, gains, "Quick");
        for (int i = 0; i < width * height; i++) {
            // As the frame came back that made this check necessary: mean 0.0103, 0.0234, 0.0123 became 0.0046, 0.0331,
            // 0.0045.
            green.channel(0)[i] *= 0.45f;
            green.channel(1)[i] *= 1.41f;
        }
        assertThat(told(mosaic, green))
                .anyMatch(w -> w.startsWith("red is") && w.contains("darker"))
                .anyMatch(w -> w.startsWith("green is") && w.contains("brighter"));
    }

    @ParameterizedTest
    @ValueSource(strings = {"Quick", "Learned"})
    void framesAsTheyShouldBe(String method) {
        for (int iso : new int[] {400, 12_800}) {
            for (SimulatedCamera camera : List.of(iso == 400 ? SimulatedCamera.KESVIK_M : SimulatedCamera.ONDREL_24)) {
                Planes scene = new PlainScene(640, 480, iso).srgb();
                camera.see(scene);
                NoiseModel law = camera.noiseAt(iso);
                Mosaic mosaic =
                        camera.sensor().expose(scene, law.a().get(0), law.b().get(0), iso);
                Planes out = denoised(mosaic, law, camera.colour().gains(), method);
                assertThat(told(mosaic, out)).as(camera.model() + " " + iso).isEmpty();
                SplittableRandom random = new SplittableRandom(3);
                float[] green = out.channel(1);
                for (int i = 0; i < green.length / 60; i++) {
                    int at = random.nextInt(green.length);
                    green[at] *= green[at] < 0.9f ? 0.4f : 1;
                }
                assertThat(told(mosaic, out)).singleElement().asString().startsWith("dark specks");
            }
        }
    }

    @Test
    void aVeilOverWhite() {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        Planes scene = new PlainScene(600, 400, 5).srgb();
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < 600 * 160; i++) {
                scene.channel(c)[i] = 3;
            }
        }
        NoiseModel law = camera.noiseAt(1600);
        Mosaic mosaic = camera.sensor().expose(scene, law.a().get(0), law.b().get(0), 5);
        Planes out = denoised(mosaic, law, camera.colour().gains(), "Quick");
        assertThat(told(mosaic, out)).isEmpty();
        for (int i = 0; i < 600 * 160; i++) {
            out.channel(1)[i] = Math.min(0.97f, out.channel(1)[i]);
        }
        assertThat(told(mosaic, out)).singleElement().asString().endsWith("of what is clipped is not white");
    }

    /** Stars of FWHM 2 px on a sky that brightens towards the horizon; a return that has smoothed them away. */
    @Test
    void starsThatAreGone() {
        int side = 640;
        double a = 5e-4;
        double b = 4e-6;
        SplittableRandom random = new SplittableRandom(11);
        double[] light = new double[side * side];
        for (int i = 0; i < light.length; i++) {
            light[i] = 0.006 + 0.006 * (i / side) / side;
        }
        for (int star = 0; star < 400; star++) {
            double x0 = 8 + random.nextInt(side - 16) + random.nextDouble();
            double y0 = 8 + random.nextInt(side - 16) + random.nextDouble();
            double peak = 0.03 + 0.1 * random.nextDouble();
            for (int y = (int) y0 - 5; y <= y0 + 5; y++) {
                for (int x = (int) x0 - 5; x <= x0 + 5; x++) {
                    double square = (x - x0) * (x - x0) + (y - y0) * (y - y0);
                    light[y * side + x] += peak * Math.exp(-square / (2 * 0.85 * 0.85));
                }
            }
        }
        short[] samples = new short[side * side];
        for (int i = 0; i < samples.length; i++) {
            double seen = light[i] + Math.sqrt(a * light[i] + b) * random.nextGaussian();
            samples[i] = (short) Math.round(Math.max(0, Math.min(16_383, 512 + seen * (16_383 - 512))));
        }
        Mosaic mosaic = new Mosaic(side, side, samples, CfaPattern.RGGB, new float[] {512}, 1, 1, 16_383);
        Planes out = denoised(mosaic, NoiseModel.uniform(a, b), new double[] {1, 1, 1}, "Quick");
        assertThat(told(mosaic, out)).isEmpty();
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < side * side; i++) {
                out.channel(c)[i] = (float) Math.min(out.channel(c)[i], 0.01 + 0.006 * (i / side) / side);
            }
        }
        assertThat(told(mosaic, out)).anyMatch(words -> words.contains("points of light lost more than half"));
    }
}
