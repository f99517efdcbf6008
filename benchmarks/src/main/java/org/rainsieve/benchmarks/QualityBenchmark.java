package org.rainsieve.benchmarks;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import nu.pattern.OpenCV;
import org.opencv.core.CvType;
import org.opencv.core.Mat;
import org.opencv.photo.Photo;
import org.rainsieve.colour.Matrix3;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.RootScale;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.quality.Psnr;
import org.rainsieve.quality.Ssim;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.CameraJpeg;
import org.rainsieve.scene.CameraRendering;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffReader;
import org.rainsieve.tiff.TiffType;

/**
 * Picture quality of the methods on clean pictures: reduced by two, exposed one stop too low on a simulated 2×2 sensor behind
 * white-balance gains of 2 and 1.6, denoised with nothing kept, and compared with the clean picture as shown in sRGB. The same
 * for the JPEGs that a camera makes of such frames.
 */
final class QualityBenchmark {
    private static final double[][] NOISE = {{0.002, 2e-5}, {0.008, 2e-4}, {0.02, 1e-3}};
    private static final double[] GAINS = {2, 1, 1.6};
    private static final double[] EVEN = {1, 1, 1};
    private static final double[] SHOWN = {4, 2, 3.2};
    private static final int SIDE = 768;
    private static final int RIM = 16;
    private static final int BLACK = 3072;
    private static final int WHITE = 16383;
    private static final String[] WAVELET = {"100", "300", "1000", "3000"};
    private static final float[] STRENGTHS = {3, 6, 9, 12, 16, 22};

    private record Score(double db, double ssim, double secondsPerMp) {}

    private QualityBenchmark() {}

    /** @param references whether general-purpose libraries are measured, too */
    static void run(Path folder, boolean references) throws Exception {
        OpenCV.loadLocally();
        List<Path> pictures;
        try (Stream<Path> files = Files.walk(folder)) {
            pictures = files.filter(file -> file.toString().matches("(?i).*[.](jpe?g|png)"))
                    .sorted()
                    .toList();
        }
        if (pictures.size() < 2) {
            throw new IllegalArgumentException("The folder must hold at least two JPEG or PNG pictures");
        }
        Path csv = Path.of("quality.csv");
        Path scratch = Files.createTempDirectory("rain-sieve-quality");
        try (PrintStream out = new PrintStream(csv.toFile(), StandardCharsets.UTF_8)) {
            out.println("a,b,picture,method,cpsnr_db,ssim,seconds_per_mp");
            for (double[] noise : NOISE) {
                Map<String, List<Score>> ofMosaics = new LinkedHashMap<>();
                Map<String, List<Score>> ofJpegs = new LinkedHashMap<>();
                for (Path picture : pictures) {
                    Planes truth = clean(picture);
                    if (truth == null) {
                        continue;
                    }
                    String name = picture.getFileName().toString();
                    note(score(truth, noise, scratch, references), noise, name, "", ofMosaics, out);
                    note(scoreJpeg(truth, noise, scratch), noise, name, "JPEG: ", ofJpegs, out);
                }
                table("Sensor mosaics", noise, ofMosaics);
                table("Camera JPEGs", noise, ofJpegs);
            }
        }
        System.out.println("all figures are in " + csv.toAbsolutePath());
    }

    private static void note(
            Map<String, Score> found,
            double[] noise,
            String picture,
            String kind,
            Map<String, List<Score>> scores,
            PrintStream csv) {
        found.forEach((method, score) -> {
            scores.computeIfAbsent(method, key -> new ArrayList<>()).add(score);
            csv.printf(
                    Locale.ROOT,
                    "%s,%s,%s,%s,%.3f,%.4f,%.3f%n",
                    noise[0],
                    noise[1],
                    picture,
                    kind + method,
                    score.db,
                    score.ssim,
                    score.secondsPerMp);
        });
    }

    /** The middle of a picture reduced by two, linear, in camera values; null when it is too small. */
    private static Planes clean(Path file) throws IOException {
        BufferedImage image = ImageIO.read(file.toFile());
        int w = Math.min(SIDE, image.getWidth() / 2 & ~1);
        int h = Math.min(SIDE, image.getHeight() / 2 & ~1);
        if (w < 256 || h < 256) {
            return null;
        }
        int x0 = (image.getWidth() - 2 * w) / 2;
        int y0 = (image.getHeight() - 2 * h) / 2;
        Planes planes = new Planes(new Region(0, 0, w, h), 3);
        for (int i = 0; i < w * h; i++) {
            for (int k = 0; k < 4; k++) {
                int rgb = image.getRGB(x0 + 2 * (i % w) + (k & 1), y0 + 2 * (i / w) + (k >> 1));
                for (int c = 0; c < 3; c++) {
                    planes.channel(c)[i] +=
                            (float) (0.25 * RgbSpace.decode((rgb >> 16 - 8 * c & 255) / 255.0) / SHOWN[c]);
                }
            }
        }
        return planes;
    }

    private static Map<String, Score> score(Planes truth, double[] noise, Path scratch, boolean references)
            throws Exception {
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, BLACK, WHITE).expose(truth, noise[0], noise[1], 11);
        NoiseModel law = NoiseModel.uniform(noise[0], noise[1]);
        Map<String, Score> scores = new LinkedHashMap<>();
        Planes plain = own(mosaic, law, GAINS, false, Methods.QUICK);
        scores.put("plain demosaic", scored(plain, truth, SHOWN, 0));
        for (String method : Methods.names()) {
            long begun = System.nanoTime();
            Planes out = own(mosaic, law, GAINS, true, method);
            scores.put(method, scored(out, truth, SHOWN, begun));
        }
        if (!references) {
            return scores;
        }
        scores.put("OpenCV non-local means", nonLocalMeans(plain, truth, law));
        Path dng = scratch.resolve("t.dng");
        TiffDirectory tags = SimulatedCamera.ONDREL_24.tags(
                new SimulatedCamera.Shot(1600, 0.01, 5, "", 50, "2026-10-03T21:14:05"), false);
        tags.put(TiffField.ofRationals(Tag.AS_SHOT_NEUTRAL, TiffType.RATIONAL, 1_000_000, 0.5, 1, 0.625));
        Files.write(
                dng,
                CfaDngWriter.write(mosaic, BLACK, new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, false, 0), tags));
        scores.put("LibRaw", libraw(dng, truth, "0"));
        Score best = null;
        for (String threshold : WAVELET) {
            Score found = libraw(dng, truth, threshold);
            best = best == null || found.db > best.db ? found : best;
        }
        scores.put("LibRaw with its wavelet", best);
        return scores;
    }

    /**
     * The same frame as a camera renders it, smoothed, sharpened and compressed, its noise read from the file; against the
     * rendering of a frame without noise.
     */
    private static Map<String, Score> scoreJpeg(Planes truth, double[] noise, Path scratch)
            throws IOException, RefusedException {
        CameraRendering camera = new CameraRendering(Math.min(0.4, 1.5 * Math.sqrt(noise[0])), 0.9f, true);
        Region r = truth.region();
        byte[] jpeg = CameraJpeg.compressed(rendered(truth, noise[0], noise[1], camera), r.width(), r.height(), 0.92f);
        float[][] display = rendered(truth, 0, 0, camera);
        Planes clean = new Planes(r, 3);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < display[c].length; i++) {
                clean.channel(c)[i] = (float) RgbSpace.decode(Math.max(0, Math.min(1, display[c][i])));
            }
        }
        Path file = Files.write(scratch.resolve("t.jpg"), jpeg);
        Picture picture = (Picture) RawOpener.open(file).frame().capture();
        NoiseModel law = Reading.full(picture, null, EVEN).reading().law();
        Planes asItIs = new Planes(r, 3);
        picture.fill(asItIs);
        Map<String, Score> scores = new LinkedHashMap<>();
        scores.put("JPEG as it is", scored(asItIs, clean, EVEN, 0));
        for (String method : Methods.names()) {
            if (Methods.suits(method, CfaPattern.NONE)) {
                long begun = System.nanoTime();
                scores.put(method, scored(own(picture, law, EVEN, true, method), clean, EVEN, begun));
            }
        }
        return scores;
    }

    private static float[][] rendered(Planes truth, double a, double b, CameraRendering camera) {
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, BLACK, WHITE).expose(truth, a, b, 11);
        Planes in = new Planes(mosaic.bounds().grow(CameraRendering.MARGIN), 1);
        mosaic.fill(in);
        Matrix3 shown = new Matrix3(new double[] {SHOWN[0], 0, 0, 0, SHOWN[1], 0, 0, 0, SHOWN[2]});
        return camera.render(in, mosaic.bounds(), CfaPattern.RGGB, GAINS, shown);
    }

    private static Planes own(Capture capture, NoiseModel law, double[] gains, boolean on, String method) {
        Planes out = new Planes(capture.bounds(), 3);
        new DenoiseStep(
                        "quality",
                        capture,
                        law,
                        gains,
                        new DenoiseSettings(on, method, 0, 0),
                        new WorkingMemory(64L << 20),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    /** @param begun when the work began, or 0 */
    private static Score scored(Planes out, Planes truth, double[] shown, long begun) {
        double seconds = begun == 0 ? 0 : (System.nanoTime() - begun) / 1e9;
        Region inside = truth.region().grow(-RIM);
        return new Score(
                Psnr.cpsnrDb(out, truth, inside, shown),
                Ssim.ssim(out, truth, inside, shown),
                seconds / (truth.region().area() / 1e6));
    }

    /** In the root scale, in which noise is even, as 8 bits; the best of six strengths. */
    private static Score nonLocalMeans(Planes plain, Planes truth, NoiseModel law) {
        RootScale scale = RootScale.of(law, GAINS);
        float top = scale.forward(2);
        Region r = plain.region();
        byte[] bytes = new byte[(int) r.area() * 3];
        for (int i = 0; i < r.area(); i++) {
            for (int c = 0; c < 3; c++) {
                float v = scale.forward((float) (plain.channel(c)[i] * GAINS[c])) / top;
                bytes[3 * i + c] = (byte) Math.round(255 * Math.min(1, Math.max(0, v)));
            }
        }
        Mat noisy = new Mat(r.height(), r.width(), CvType.CV_8UC3);
        noisy.put(0, 0, bytes);
        Score best = null;
        for (float strength : STRENGTHS) {
            Mat clean = new Mat();
            long begun = System.nanoTime();
            Photo.fastNlMeansDenoisingColored(noisy, clean, strength, strength, 7, 21);
            clean.get(0, 0, bytes);
            Planes out = new Planes(r, 3);
            for (int i = 0; i < bytes.length; i++) {
                out.channel(i % 3)[i / 3] = (float) (scale.inverse((bytes[i] & 255) / 255f * top) / GAINS[i % 3]);
            }
            Score found = scored(out, truth, SHOWN, begun);
            best = best == null || found.db > best.db ? found : best;
        }
        return best;
    }

    /** LibRaw's AHD, balanced by itself; green then reaches 65,535 at clipping. */
    private static Score libraw(Path dng, Planes truth, String threshold) throws Exception {
        long begun = System.nanoTime();
        Process process = new ProcessBuilder(
                        "dcraw_emu", "-4", "-T", "-W", "-w", "-o", "0", "-c", "0", "-n", threshold, dng.toString())
                .redirectErrorStream(true)
                .start();
        process.getInputStream().readAllBytes();
        if (process.waitFor() != 0) {
            throw new IOException("LibRaw failed");
        }
        byte[] data = Files.readAllBytes(Path.of(dng + ".tiff"));
        TiffDirectory tiff = TiffReader.read(data).get(0);
        int at = (int) tiff.number(Tag.STRIP_OFFSETS, 0);
        boolean big = data[0] == 'M';
        Planes out = new Planes(truth.region(), 3);
        for (int i = 0; i < truth.region().area() * 3; i++, at += 2) {
            int a = data[at] & 255;
            int b = data[at + 1] & 255;
            out.channel(i % 3)[i / 3] = (float) ((big ? a << 8 | b : b << 8 | a) / 65535.0 / GAINS[i % 3]);
        }
        return scored(out, truth, SHOWN, begun);
    }

    private static void table(String of, double[] noise, Map<String, List<Score>> scores) {
        int pictures = scores.get(Methods.QUICK).size();
        System.out.printf(Locale.ROOT, "%n%s, a = %s, b = %s, %d pictures%n%n", of, noise[0], noise[1], pictures);
        System.out.println("| method | CPSNR, dB | SSIM | s/MP | against the row above, dB (95 % interval) |");
        System.out.println("|---|---:|---:|---:|---|");
        List<Score> above = null;
        for (Map.Entry<String, List<Score>> row : scores.entrySet()) {
            List<Score> own = row.getValue();
            System.out.printf(
                    Locale.ROOT,
                    "| %s | %.2f | %.3f | %.2f | %s |%n",
                    row.getKey(),
                    own.stream().mapToDouble(Score::db).average().orElse(0),
                    own.stream().mapToDouble(Score::ssim).average().orElse(0),
                    own.stream().mapToDouble(Score::secondsPerMp).average().orElse(0),
                    above == null || !Methods.names().contains(row.getKey()) ? "" : paired(own, above));
            above = own;
        }
    }

    /** Mean of the differences picture by picture, with a bootstrap interval (Efron 1979). */
    private static String paired(List<Score> own, List<Score> above) {
        double[] differences = new double[own.size()];
        for (int i = 0; i < differences.length; i++) {
            differences[i] = own.get(i).db - above.get(i).db;
        }
        SplittableRandom random = new SplittableRandom(1);
        double[] means = new double[4000];
        for (int k = 0; k < means.length; k++) {
            for (int i = 0; i < differences.length; i++) {
                means[k] += differences[random.nextInt(differences.length)] / differences.length;
            }
        }
        Arrays.sort(means);
        return String.format(
                Locale.ROOT,
                "%+.2f (%+.2f to %+.2f)",
                Arrays.stream(differences).average().orElse(0),
                means[means.length / 40],
                means[means.length - 1 - means.length / 40]);
    }
}
