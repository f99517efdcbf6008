package org.rainsieve;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import javax.imageio.ImageIO;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.DngReader;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.quality.Psnr;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffReader;

/** What several tests need: reference programs, their pictures, frames and returns. */
public final class TestTools {
    private TestTools() {}

    /** Runs a reference program of Debian's and gives back what it printed; fails the test if it fails. */
    public static String run(Path folder, String... command) {
        try {
            Process process = new ProcessBuilder(command)
                    .directory(folder.toFile())
                    .redirectErrorStream(true)
                    .start();
            String out = new String(process.getInputStream().readAllBytes());
            if (!process.waitFor(120, TimeUnit.SECONDS) || process.exitValue() != 0) {
                throw new AssertionError(List.of(command) + " failed: " + out);
            }
            return out;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    /** A raw file as LibRaw develops it without colour, scaling or turning: its samples less black. */
    public static Tiff16 libraw(Path folder, Path file) throws IOException {
        String options = "-4 -T -W -o 0 -r 1 1 1 1 -c 0 -S 65535 -t 0";
        List<String> command = new ArrayList<>(List.of("dcraw_emu"));
        command.addAll(List.of(options.split(" ")));
        command.add(file.toString());
        run(folder, command.toArray(new String[0]));
        return tiff16(Path.of(file + ".tiff"));
    }

    /** A 16-bit TIFF of LibRaw's, uncompressed: samples interleaved. */
    public record Tiff16(int width, int height, int channels, int[] samples) {}

    public static Tiff16 tiff16(Path file) {
        try {
            byte[] data = Files.readAllBytes(file);
            TiffDirectory d = TiffReader.read(data).get(0);
            int w = (int) d.number(Tag.IMAGE_WIDTH, 0);
            int h = (int) d.number(Tag.IMAGE_LENGTH, 0);
            int n = (int) d.number(Tag.SAMPLES_PER_PIXEL, 1);
            int[] samples = new int[w * h * n];
            boolean big = data[0] == 'M';
            int at = (int) d.number(Tag.STRIP_OFFSETS, 0);
            for (int i = 0; i < samples.length; i++, at += 2) {
                int a = data[at] & 255;
                int b = data[at + 1] & 255;
                samples[i] = big ? a << 8 | b : b << 8 | a;
            }
            return new Tiff16(w, h, n, samples);
        } catch (IOException | RefusedException e) {
            throw new AssertionError(file + " is not the TIFF expected", e);
        }
    }

    public static byte[] dng(Mosaic mosaic, SimulatedCamera camera, int iso, boolean profile) {
        return CfaDngWriter.write(
                mosaic,
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                camera.tags(shot(iso), profile));
    }

    public static SimulatedCamera.Shot shot(int iso) {
        return new SimulatedCamera.Shot(iso, 1.0 / 80, 5, "Ondrel 380 mm f/5", 380, "2026-10-03T21:14:05.25");
    }

    public static OpenedFrame frame(byte[] dng) {
        try {
            return DngReader.read(dng);
        } catch (RefusedException e) {
            throw new AssertionError(e);
        }
    }

    public static void writeReturn(byte[] dng, String name, ResolvedSettings settings, Path to)
            throws IOException, RefusedException {
        ReturnWriter.write(
                frame(dng),
                ReturnWriter.Order.of(name, Sha256.of(dng), settings),
                to,
                new WorkingMemory(256L << 20),
                Cancel.NEVER,
                s -> {});
    }

    /** A clean photograph of the test resources in camera values: one stop under, behind white-balance gains 2 and 1.6. */
    public static Planes photograph(String name) {
        return photograph(name, new double[] {2, 1, 1.6});
    }

    /** The same behind other gains. */
    public static Planes photograph(String name, double[] gains) {
        try {
            BufferedImage image = ImageIO.read(TestTools.class.getResource("/pictures/" + name));
            int w = image.getWidth();
            int h = image.getHeight();
            Planes planes = new Planes(new Region(0, 0, w, h), 3);
            for (int i = 0; i < w * h; i++) {
                int rgb = image.getRGB(i % w, i / w);
                for (int c = 0; c < 3; c++) {
                    planes.channel(c)[i] =
                            (float) (0.5 * RgbSpace.decode((rgb >> 16 - 8 * c & 255) / 255.0) / gains[c]);
                }
            }
            return planes;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** What brings {@link #photograph} back to how it is shown. */
    public static final double[] SHOWN = {4, 2, 3.2};

    /** Colour PSNR of a photograph of the test resources after exposing it with noise and denoising it, nothing kept. */
    public static double denoisedDb(String name, CfaPattern pattern, String method, double a, double b) {
        return denoisedDb(photograph(name), pattern, method, a, b);
    }

    /** @param truth as {@link #photograph(String)} makes it */
    public static double denoisedDb(Planes truth, CfaPattern pattern, String method, double a, double b) {
        Mosaic mosaic = new SimulatedSensor(pattern, 3072, 16383).expose(truth, a, b, 11);
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        "t",
                        mosaic,
                        NoiseModel.uniform(a, b),
                        new double[] {2, 1, 1.6},
                        new DenoiseSettings(true, method, 0, 0),
                        new WorkingMemory(64L << 20),
                        Cancel.NEVER)
                .fill(out);
        return Psnr.cpsnrDb(out, truth, truth.region().grow(-16), SHOWN);
    }

    /** LibRaw's linear camera values (no matrix, no balance) of a mosaic DNG, as planes. */
    public static Planes libraw(Path dng, String... options) {
        String[] command = new String[14 + options.length];
        String[] base = {"dcraw_emu", "-4", "-T", "-W", "-o", "0", "-r", "1", "1", "1", "1", "-c", "0", dng.toString()};
        System.arraycopy(base, 0, command, 0, 13);
        System.arraycopy(options, 0, command, 13, options.length);
        command[command.length - 1] = base[13];
        run(dng.getParent(), command);
        Tiff16 tiff = tiff16(Path.of(dng + ".tiff"));
        Planes planes = new Planes(new Region(0, 0, tiff.width, tiff.height), 3);
        for (int i = 0; i < tiff.samples.length; i++) {
            planes.channel(i % 3)[i / 3] = tiff.samples[i] / 65535f;
        }
        return planes;
    }
}
